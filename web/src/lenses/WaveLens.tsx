import { scaleLinear } from "d3-scale";
import { useCallback } from "react";

import type { WaveData } from "../api/client";
import { trimmed } from "../ui/units";
import { Cursor } from "./Cursor";
import { COLOUR, drawAxes, type Frame, frameOf, within } from "./plot";
import { type Size, usePlot } from "./usePlot";

interface Props {
  data: WaveData;
  compared: WaveData | undefined;
}

/** A signal over time. */
export function WaveLens({ data, compared }: Props) {
  const draw = useCallback(
    (context: CanvasRenderingContext2D, size: Size) => {
      const frame = frameOf(size);
      const [x, y] = scales(data, compared, frame);
      const milliseconds = data.seconds < 0.5;
      drawAxes(
        context,
        frame,
        x.ticks(6).map((value) => ({ at: x(value), text: timeText(value, milliseconds) })),
        y.ticks(5).map((value) => ({ at: y(value), text: trimmed(value, 2) })),
      );
      within(context, frame, () => {
        if (compared) trace(context, compared, frame, y, COLOUR.compared, 1.6);
        trace(context, data, frame, y, COLOUR.this, 2);
      });
    },
    [data, compared],
  );
  const { canvas, size } = usePlot(draw);
  const frame = frameOf(size);

  const valueAt = (x: number) => {
    const part = (x - frame.left) / (frame.right - frame.left);
    const place = Math.round(part * (data.highs.length - 1));
    return { time: part * data.seconds, low: data.lows[place] ?? 0, high: data.highs[place] ?? 0 };
  };
  const read = (x: number, pinned: number | undefined) => {
    const here = valueAt(x);
    const level =
      here.high - here.low < 1e-4
        ? trimmed(here.high, 3)
        : `${trimmed(here.low, 2)} to ${trimmed(here.high, 2)}`;
    const text = `${timeText(here.time, data.seconds < 0.5)}   ${level}`;
    if (pinned === undefined) return text;
    const there = valueAt(pinned);
    const gap = Math.abs(here.time - there.time);
    const frequency = gap > 0 ? ` = ${trimmed(1 / gap, 4)} Hz` : "";
    return `${text}   Δt ${timeText(gap, gap < 0.5)}${frequency}   Δ ${trimmed(here.high - there.high, 3)}`;
  };

  return (
    <Cursor label="Wave" frame={frame} read={read}>
      <canvas ref={canvas} className="absolute inset-0 h-full w-full" />
    </Cursor>
  );
}

const timeText = (seconds: number, milliseconds: boolean) =>
  milliseconds ? `${trimmed(seconds * 1000, 3)} ms` : `${trimmed(seconds, 3)} s`;

function scales(data: WaveData, compared: WaveData | undefined, frame: Frame) {
  const lows = [...data.lows, ...(compared?.lows ?? [])];
  const highs = [...data.highs, ...(compared?.highs ?? [])];
  const least = lows.reduce((a, b) => Math.min(a, b), 0);
  const greatest = highs.reduce((a, b) => Math.max(a, b), 0);
  const size = Math.max(greatest, -least, 0.01);
  const top =
    [0.02, 0.05, 0.1, 0.2, 0.5, 1.05, 1.25, 1.5, 2, 5, 10].find((one) => one >= size) ?? size * 1.05;
  const x = scaleLinear([0, data.seconds], [frame.left, frame.right]);
  const y = scaleLinear([least < -0.001 ? -top : -0.02 * top, top], [frame.bottom, frame.top]);
  return [x, y] as const;
}

/** Draws a signal as a line, or as a band where a point stands for many samples. */
function trace(
  context: CanvasRenderingContext2D,
  data: WaveData,
  frame: Frame,
  y: (value: number) => number,
  colour: string,
  width: number,
): void {
  const count = data.highs.length;
  const x = (place: number) => frame.left + (place / Math.max(1, count - 1)) * (frame.right - frame.left);
  context.strokeStyle = colour;
  context.lineWidth = width;
  context.lineJoin = "round";
  context.beginPath();
  data.highs.forEach((value, place) => context.lineTo(x(place), y(value)));
  if (data.highs.some((value, place) => value !== data.lows[place])) {
    for (let place = count - 1; place >= 0; place--) context.lineTo(x(place), y(data.lows[place] ?? 0));
    context.closePath();
    context.fillStyle = colour === COLOUR.this ? "#1d4f9199" : "#b8731655";
    context.fill();
    context.lineWidth = 1.4;
  }
  context.stroke();
}
