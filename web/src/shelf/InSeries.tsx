import { Link } from "react-router";

import type { Published } from "../api/client";

/** Says in which series a lesson stands, if it stands in one. */
export function InSeries({ series }: { series: Published["series"] }) {
  if (!series) return null;
  return (
    <>
      ; in the series{" "}
      <Link to={`/series/${series.id}`} className="link">
        {series.title}
      </Link>
    </>
  );
}
