import { type ScaleLinear, scaleLinear, type ScaleLogarithmic, scaleLog } from "d3-scale";
import { useCallback } from "react";

import type { Partial, SpectrumData } from "../api/client";
import { midiOf, noteText, trimmed } from "../ui/units";
import { Cursor } from "./Cursor";
import { COLOUR, drawAxes, type Frame, frameOf, within } from "./plot";
import { type Size, usePlot } from "./usePlot";

interface Props {
  data: SpectrumData;
  compared: SpectrumData | undefined;
}

type Across = ScaleLogarithmic<number, number>;
type Upright = ScaleLinear<number, number>;

const FLOOR_DB = -84;
const TOP_DB = 6;
const FREQUENCIES = [20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000];
const SNAP_PIXELS = 7;
const NUMBER_SPACE = 17;
const LAST_NUMBER = 10;

/** Level against frequency, the partials numbered. */
export function SpectrumLens({ data, compared }: Props) {
  const draw = useCallback(
    (context: CanvasRenderingContext2D, size: Size) => {
      const frame = frameOf(size);
      const [x, y] = scales(frame);
      drawAxes(
        context,
        frame,
        FREQUENCIES.map((value) => ({ at: x(value), text: value >= 1000 ? `${value / 1000}k` : `${value}` })),
        [0, -20, -40, -60, -80].map((value) => ({
          at: y(value),
          text: value === 0 ? "0 dB" : trimmed(value),
        })),
      );
      within(context, frame, () => {
        if (compared) curve(context, compared, frame, x, y, COLOUR.compared, COLOUR.comparedWash, 1.3);
        curve(context, data, frame, x, y, COLOUR.this, COLOUR.thisWash, 1.8);
      });
      numbers(context, data.partials, x, y, frame);
    },
    [data, compared],
  );
  const { canvas, size } = usePlot(draw);
  const frame = frameOf(size);
  const [x, y] = scales(frame);

  const at = (place: number) => readingAt(data, place, x);
  const read = (place: number, pinned: number | undefined) => {
    const here = at(place);
    const text = readingText(here);
    if (pinned === undefined) return text;
    const there = at(pinned);
    const semitones = 12 * Math.log2(here.frequency / there.frequency);
    return `${text}   Δ ${trimmed(here.frequency - there.frequency, 4)} Hz, ${trimmed(semitones, 3)} st, ${trimmed(here.level - there.level, 3)} dB`;
  };

  return (
    <Cursor
      label="Spectrum"
      frame={frame}
      stops={data.partials.filter((one) => y(one.level_db) < frame.bottom).map((one) => x(one.frequency_hz))}
      read={read}
    >
      <canvas ref={canvas} className="absolute inset-0 h-full w-full" />
    </Cursor>
  );
}

function scales(frame: Frame): [Across, Upright] {
  return [
    scaleLog([20, 20_000], [frame.left, frame.right]),
    scaleLinear([FLOOR_DB, TOP_DB], [frame.bottom, frame.top]),
  ];
}

function curve(
  context: CanvasRenderingContext2D,
  data: SpectrumData,
  frame: Frame,
  x: Across,
  y: Upright,
  colour: string,
  wash: string,
  width: number,
): void {
  context.beginPath();
  context.moveTo(frame.left, frame.bottom + 2);
  data.frequencies_hz.forEach((frequency, place) => {
    context.lineTo(x(frequency), Math.min(frame.bottom + 2, y(data.levels_db[place] ?? FLOOR_DB)));
  });
  context.lineTo(frame.right, frame.bottom + 2);
  context.strokeStyle = colour;
  context.fillStyle = wash;
  context.lineWidth = width;
  context.lineJoin = "round";
  context.fill();
  context.stroke();
}

/** Writes the numbers of the partials above their peaks, as long as there is room. */
function numbers(
  context: CanvasRenderingContext2D,
  partials: Partial[],
  x: Across,
  y: Upright,
  frame: Frame,
): void {
  context.fillStyle = COLOUR.ink;
  context.strokeStyle = COLOUR.leaf;
  context.lineWidth = 3.5;
  context.font = "600 12px 'Instrument Sans Variable', sans-serif";
  context.textAlign = "center";
  context.textBaseline = "bottom";
  let last = -Infinity;
  for (const partial of partials) {
    const place = x(partial.frequency_hz);
    const weak = y(partial.level_db) > frame.bottom - 4;
    if (!partial.number || partial.number > LAST_NUMBER || weak || place - last < NUMBER_SPACE) continue;
    const above = Math.max(frame.top + 13, y(partial.level_db) - 3);
    context.strokeText(`${partial.number}`, place, above);
    context.fillText(`${partial.number}`, place, above);
    last = place;
  }
  context.textAlign = "left";
}

interface Reading {
  frequency: number;
  level: number;
  partial: Partial | undefined;
}

/** What is read at a place: the nearest partial if one is near, else the curve. */
function readingAt(data: SpectrumData, place: number, x: Across): Reading {
  const near = data.partials
    .filter((one) => Math.abs(x(one.frequency_hz) - place) < SNAP_PIXELS)
    .toSorted((a, b) => Math.abs(x(a.frequency_hz) - place) - Math.abs(x(b.frequency_hz) - place))[0];
  if (near) return { frequency: near.frequency_hz, level: near.level_db, partial: near };
  const frequency = x.invert(place);
  const part = Math.log(frequency / 20) / Math.log(1000);
  const index = Math.min(data.levels_db.length - 1, Math.max(0, Math.round(part * data.levels_db.length)));
  return { frequency, level: data.levels_db[index] ?? FLOOR_DB, partial: undefined };
}

function readingText({ frequency, level, partial }: Reading): string {
  const which = partial?.number ? `   partial ${partial.number}` : "";
  return `${trimmed(frequency, 4)} Hz   ${noteText(midiOf(frequency))}   ${trimmed(level, 3)} dB${which}`;
}
