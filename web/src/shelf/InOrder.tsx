import type { ReactNode } from "react";
import { Link } from "react-router";

import type { Published } from "../api/client";

interface Row {
  id: string;
  series: Published["series"];
}

interface Props<R extends Row> {
  rows: R[];
  /** A row by itself, or the one of a number in the series under whose title it stands. */
  draw: (row: R, number: number | undefined) => ReactNode;
}

/** Lessons as they stand on a shelf: those of a series under its title in their order, where the first of them would be. */
export function InOrder<R extends Row>({ rows, draw }: Props<R>) {
  const firsts = rows.filter(
    (row, place) => !row.series || rows.findIndex((one) => one.series?.id === row.series?.id) === place,
  );
  return (
    <ul>
      {firsts.map((row) => {
        const { series } = row;
        const inside = rows
          .filter((one) => series && one.series?.id === series.id)
          .toSorted((a, b) => (a.series?.place ?? 0) - (b.series?.place ?? 0));
        if (!series || inside.length < 2) return draw(row, undefined);
        return (
          <li key={series.id} className="border-t border-rule py-5" data-series={series.title}>
            <h2 className="mb-2 font-read text-head font-semibold">
              <Link to={`/series/${series.id}`} className="hover:text-this">
                {series.title}
              </Link>
              <span className="ml-3 font-work text-work font-normal text-soft">{inside.length} lessons</span>
            </h2>
            <ul>{inside.map((one) => draw(one, (one.series?.place ?? 0) + 1))}</ul>
          </li>
        );
      })}
    </ul>
  );
}

/** How a row looks: by itself, or as a line of a series. */
export const rowLook = (number: number | undefined): string =>
  `grid grid-cols-[1fr_auto] gap-x-8 border-t border-rule narrow:grid-cols-1 ${number === undefined ? "gap-y-3 py-5" : "gap-y-1 py-2"}`;
export const summaryLook = (number: number | undefined): string =>
  number === undefined
    ? "mt-1 max-w-xl font-read text-read leading-normal"
    : "pl-7 font-read text-work leading-normal";
