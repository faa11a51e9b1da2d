import type { Measure } from "../api/client";

/** Whether a signal does anything that a picture can show. */
export const readable = (measure: Measure) => measure.greatest - measure.least > 1e-6;

/** Whether a signal swings faster than its course through the phrase could show. */
export function swings({ lows, highs, least, greatest }: Measure): boolean {
  if (lows.length === 0) return false;
  const width = highs.reduce((sum, high, n) => sum + high - (lows[n] ?? high), 0) / lows.length;
  return width > 0.12 * (greatest - least);
}

export interface Room {
  width: number;
  height: number;
}

const at = (value: number) => value.toFixed(1);

/** The outline of a signal over the phrase, filled between its least and its greatest values. */
export function outlinePath(measure: Measure, room: Room): string {
  const { lows, highs } = measure;
  if (lows.length === 0) return "";
  const y = upwards(rangeOf(measure), room.height);
  const x = (n: number) => at((n / (lows.length - 1)) * room.width);
  const upper = highs.map((value, n) => `${n === 0 ? "M" : "L"}${x(n)} ${y(value)}`);
  const lower = lows.map((value, n) => `L${x(n)} ${y(value)}`).reverse();
  return `${upper.join("")}${lower.join("")}Z`;
}

/** Two cycles of a wave, as high as there is room. */
export function wavePath(values: number[], room: Room): string {
  const top = Math.max(1e-9, ...values.map(Math.abs));
  return linePath(values, [-top, top], room);
}

/** A line through some values, from edge to edge. */
export function linePath(values: number[], range: [number, number], room: Room): string {
  const y = upwards(range, room.height);
  const step = room.width / Math.max(1, values.length - 1);
  return values.map((value, n) => `${n === 0 ? "M" : "L"}${at(n * step)} ${y(value)}`).join("");
}

/** The same line, filled down to the lower edge. */
export const filledPath = (values: number[], range: [number, number], room: Room): string =>
  `${linePath(values, range, room)}L${room.width} ${room.height}L0 ${room.height}Z`;

/** The stretches in which a gate is open, in parts of the phrase. */
export function openings(gate: Measure): [from: number, to: number][] {
  const found: [number, number][] = [];
  const size = gate.highs.length;
  gate.highs.forEach((high, n) => {
    if (high <= 0.5) return;
    const last = found.at(-1);
    const shut = (gate.lows[n] ?? 0) <= 0.5;
    if (last && !shut && last[1] >= n / size - 1e-9) last[1] = (n + 1) / size;
    else found.push([n / size, (n + 1) / size]);
  });
  return found;
}

const upwards =
  ([low, high]: [number, number], height: number) =>
  (value: number): string =>
    at(height * (1 - Math.min(1, Math.max(0, (value - low) / (high - low || 1)))));

/** Signals that never fall below zero stand on the lower edge; others swing about the middle. */
function rangeOf(measure: Measure): [number, number] {
  const greatest = Math.max(1e-9, measure.greatest);
  return measure.least >= -1e-6
    ? [0, greatest]
    : [-Math.max(greatest, -measure.least), Math.max(greatest, -measure.least)];
}
