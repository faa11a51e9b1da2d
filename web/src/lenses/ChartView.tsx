import { use, useCallback } from "react";

import type { Chart, LensPlace } from "../api/client";
import { LensMarks } from "./LensMarks";
import { MarkingContext } from "../marks/marking";
import { freeNumber, withMark } from "../marks/marks";
import { Cursor } from "./Cursor";
import { drawChart } from "./draw";
import { fieldsOf, type Writing } from "./frames";
import { readingAt, readingText, stopsOf } from "./readings";
import { usePlot } from "./usePlot";

interface Props {
  chart: Chart;
  name: string;
  /** How much larger than usual it is drawn: for a projector. */
  zoom?: number;
}

/** A chart with a cursor that reads it, or what is said in its place. */
export function ChartView(props: Props) {
  if (props.chart.panels.length > 0) return <PlottedChart {...props} />;
  return (
    <p className="grid h-full place-items-center px-6 text-center font-read text-soft italic">
      {props.chart.sentence}
    </p>
  );
}

function PlottedChart({ chart, name, zoom = 1 }: Props) {
  const draw = useCallback(
    (context: CanvasRenderingContext2D, size: { width: number; height: number }) =>
      drawChart(context, chart, size, zoom),
    [chart, zoom],
  );
  const { canvas, size } = usePlot(draw);
  const marking = use(MarkingContext);
  const fields = fieldsOf(chart, size, zoom);
  const first = fields[0];
  const last = fields.at(-1);
  if (!first || !last) return null;
  const [tap] = chart.taps;
  const mark = (at: number, height: number) => {
    const field = fieldAt(height);
    const { x, y } = readingAt(field, at, height);
    const level = field.panel.raster ? field.y.invert(height) : y;
    const place: LensPlace = { kind: "lens", lens: chart.kind, tap: tap ?? "", x, y: level ?? null };
    const number = marking && freeNumber(marking.marks ?? []);
    if (number !== undefined) marking?.onMarks?.(withMark(marking.marks ?? [], place, { number }));
  };
  const fieldAt = (height: number) => fields.find((one) => height <= one.frame.bottom) ?? last;
  return (
    <Cursor
      label={name}
      frame={{ ...first.frame, bottom: last.frame.bottom }}
      stops={stopsOf(first)}
      zoom={zoom}
      onMark={marking?.onMarks && tap !== undefined ? mark : undefined}
      beside={<LensMarks chart={chart} marks={marking?.marks} fields={fields} zoom={zoom} />}
      read={(at, height, pinned) => {
        const field = fieldAt(height);
        const here = readingAt(field, at, height);
        const there = pinned && readingAt(field, pinned.x, pinned.y);
        return readingText(field, chart.x, here, height, there);
      }}
    >
      <canvas ref={canvas} className="absolute inset-0 h-full w-full" />
    </Cursor>
  );
}

/** A small chart that is only looked at. */
export function ChartPicture({
  chart,
  zoom = 1,
  writing = "all",
}: {
  chart: Chart;
  zoom?: number;
  writing?: Writing;
}) {
  const draw = useCallback(
    (context: CanvasRenderingContext2D, size: { width: number; height: number }) =>
      drawChart(context, chart, size, zoom, writing),
    [chart, zoom, writing],
  );
  const { canvas } = usePlot(draw);
  return (
    <div
      className="relative h-full w-full"
      role="img"
      aria-label={[chart.title, chart.sentence].filter(Boolean).join(": ")}
    >
      <canvas ref={canvas} className="absolute inset-0 h-full w-full" />
    </div>
  );
}
