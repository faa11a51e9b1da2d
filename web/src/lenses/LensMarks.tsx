import type { Chart, LensPlace, StepMark } from "../api/client";
import type { Field } from "./frames";
import { lighting } from "../marks/lit";
import { numbered } from "../marks/marks";
import { MarkNumber } from "../marks/MarkNumber";

/** How far above its place a number begins, in pixels: what the lens writes there stays to be read. */
const ABOVE = 42;

interface Props {
  chart: Chart;
  marks: StepMark[] | undefined;
  fields: Field[];
  zoom: number;
}

/** The numbers that stand on places of a lens’s picture. */
export function LensMarks({ chart, marks = [], fields, zoom }: Props) {
  return numbered(marks).map(({ at, number }) => {
    const place =
      at.kind === "lens" && at.lens === chart.kind && chart.taps.includes(at.tap) ? at : undefined;
    const spot = place && spotOf(place, fields, zoom);
    return (
      spot && (
        <div
          key={number}
          className="pointer-events-none absolute flex -translate-x-1/2 flex-col items-center"
          style={{ left: spot.x, top: spot.y, height: spot.height, fontSize: 13 * zoom }}
        >
          <span className="pointer-events-auto flex shrink-0" {...lighting(number)}>
            <MarkNumber number={number} />
          </span>
          <span className="min-h-0 flex-1 border-l border-ink" />
        </div>
      )
    );
  });
}

/** Where a place lies in the picture, if that shows it. */
function spotOf({ x, y }: LensPlace, fields: Field[], zoom: number) {
  for (const field of fields) {
    const { frame } = field;
    const left = field.x(x);
    const height = y === null || y === undefined ? frame.top : field.y(y);
    const within = left >= frame.left && left <= frame.right && height >= frame.top && height <= frame.bottom;
    const above = Math.max(frame.top, height - ABOVE * zoom);
    const foot = y === null || y === undefined ? frame.bottom : height;
    if (within) return { x: left, y: above, height: foot - above };
  }
  return undefined;
}
