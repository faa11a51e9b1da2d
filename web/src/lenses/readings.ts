/** What is read off a chart at a place, in the units of its axes. */

import { bisectLeft } from "d3-array";

import type { Axis, Mark, Trace } from "../api/client";
import { midiOf, noteText, trimmed, withUnit } from "../ui/units";
import { type Field, timeText } from "./frames";
import { levelAt } from "./raster";

const SNAP_PIXELS = 7;
/** A mark holds no reading in the middle of nowhere: what is below the field is not snapped to. */
const seen = (field: Field, mark: Mark) => mark.y === null || field.y(mark.y) < field.frame.bottom;

export interface Reading {
  /** Where, in pixels: at a mark, if one is near. */
  at: number;
  x: number;
  y: number | undefined;
  mark: Mark | undefined;
  compared: number | undefined;
}

/** The places, in pixels, to which arrow keys go. */
export const stopsOf = (field: Field): number[] =>
  field.panel.marks
    .filter((mark) => mark.kind === "partial" && seen(field, mark))
    .map((mark) => field.x(mark.x));

/** What is read at a place, given in pixels. */
export function readingAt(field: Field, at: number, height: number): Reading {
  const near = field.panel.marks
    .filter((mark) => seen(field, mark) && Math.abs(field.x(mark.x) - at) < SNAP_PIXELS)
    .toSorted((a, b) => Math.abs(field.x(a.x) - at) - Math.abs(field.x(b.x) - at))[0];
  const x = near ? near.x : field.x.invert(at);
  const here = near ? field.x(near.x) : at;
  const { raster, traces, y } = field.panel;
  if (raster) return rasterReading(field, here, x, height);
  const [ours, theirs] = (["this", "compared"] as const).map((role) =>
    traces.find((one) => one.role === role),
  );
  const value = (near?.kind === "partial" ? near.y : null) ?? valueAt(ours, x);
  const compared = valueAt(theirs, x);
  return { at: here, x, y: value ?? (y.unit === "dB" ? y.low : undefined), mark: near, compared };
}

function rasterReading(field: Field, at: number, x: number, height: number): Reading {
  const { raster } = field.panel;
  const { frame } = field;
  const across = (at - frame.left) / (frame.right - frame.left);
  const up = (frame.bottom - height) / (frame.bottom - frame.top);
  const level = raster ? levelAt(raster, across, up) : undefined;
  return { at, x, y: level, mark: undefined, compared: undefined };
}

/** A line's value at a place on its x axis, between its points by a straight line. */
function valueAt(trace: Trace | undefined, x: number): number | undefined {
  if (!trace || trace.xs.length === 0) return undefined;
  const next = bisectLeft(trace.xs, x);
  if (next === trace.xs.length) return trace.ys.at(-1) ?? undefined;
  const [a, b] = [trace.xs[next - 1], trace.xs[next]];
  const [from, to] = [trace.ys[next - 1], trace.ys[next]];
  if (to === null || to === undefined) return undefined;
  if (a === undefined || b === undefined || from === null || from === undefined || a === b) return to;
  return from + ((to - from) * (x - a)) / (b - a);
}

/** A value of an axis, in words. */
function valueText(value: number, axis: Axis): string {
  if (axis.unit === "Hz") return `${trimmed(value, 5)} Hz   ${noteText(midiOf(value))}`;
  if (axis.unit === "s") return timeText(value, axis);
  if (axis.unit === "note") return noteText(value);
  return axis.unit ? `${trimmed(value, 3)} ${axis.unit}` : trimmed(value, 3);
}

/** What is read at a place, and how far it is from another place, in words. */
export function readingText(
  field: Field,
  axis: Axis,
  here: Reading,
  height: number,
  there?: Reading,
): string {
  const { panel } = field;
  const parts = [valueText(here.x, axis)];
  if (panel.raster) parts.push(valueText(field.y.invert(height), panel.y));
  if (here.y !== undefined)
    parts.push(panel.raster ? `${trimmed(here.y, 3)} dB` : valueText(here.y, panel.y));
  if (here.compared !== undefined && here.y !== undefined && panel.y.unit === "dB" && !there)
    parts.push(`against it ${signed(here.y - here.compared)} dB`);
  if (here.mark?.kind === "partial" && here.mark.text) parts.push(partialText(here.mark));
  if (here.mark?.kind === "stage") parts.push(here.mark.words);
  if (there) parts.push(differenceText(axis, panel.y, here, there));
  return parts.join("   ");
}

const partialText = ({ text, of }: Mark) =>
  /^\d/.test(text) ? `partial ${text}${of ? ` of ${of}` : ""}` : text;

const signed = (value: number) =>
  Math.abs(value) < 0.05 ? "±0" : `${value > 0 ? "+" : ""}${trimmed(value, 3)}`;

function differenceText(x: Axis, y: Axis, here: Reading, there: Reading): string {
  const level =
    here.y === undefined || there.y === undefined
      ? ""
      : `, ${withUnit(here.y - there.y, y.unit === "note" ? "st" : y.unit)}`;
  if (x.unit === "Hz") {
    const semitones = 12 * Math.log2(here.x / there.x);
    return `Δ ${trimmed(here.x - there.x, 4)} Hz, ${trimmed(semitones, 3)} st${level}`;
  }
  const gap = Math.abs(here.x - there.x);
  const often = x.unit === "s" && gap > 0 ? ` = ${trimmed(1 / gap, 4)} Hz` : "";
  return `Δ ${withUnit(gap, x.unit)}${often}${level}`;
}
