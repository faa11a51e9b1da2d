/** Where the panels of a chart stand, and how their axes run. */

import { scaleLinear, type ScaleLinear, scaleLog, type ScaleLogarithmic } from "d3-scale";

import type { Axis, Chart, ChartPanel } from "../api/client";
import { noteName, trimmed } from "../ui/units";
import type { Size } from "./usePlot";

export interface Frame {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

export type Scale = ScaleLinear<number, number> | ScaleLogarithmic<number, number>;

export interface Field {
  panel: ChartPanel;
  frame: Frame;
  x: Scale;
  y: Scale;
}

export interface Tick {
  at: number;
  text: string;
}

const MARGIN = { left: 46, right: 12, top: 10, bottom: 24 };
const MARGINS = {
  all: MARGIN,
  // one of a row whose y axis is written beside the first
  across: { ...MARGIN, left: 6 },
  nothing: { left: 4, right: 4, top: 4, bottom: 6 },
};
/** What is written around a chart. */
export type Writing = keyof typeof MARGINS;
const GAP = 7;
/** The height of the line above a panel on which its title stands. */
export const TITLE = 15;
const HERTZ = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000];
const SHORT_S = 0.5;

/** The fields of a chart's panels, one below the other; `zoom` is how much larger than usual everything is. */
export function fieldsOf(chart: Chart, size: Size, zoom: number, writing: Writing = "all"): Field[] {
  const bare = writing === "nothing";
  const margin = MARGINS[writing];
  const left = margin.left * zoom;
  const right = Math.max(left + 10, size.width - margin.right * zoom);
  const top = margin.top * zoom;
  const height = Math.max(10, size.height - (margin.top + margin.bottom) * zoom);
  const titles = chart.panels.map(({ title }) => (title && !bare ? TITLE * zoom : 0));
  const gaps = GAP * zoom * (chart.panels.length - 1) + titles.reduce((sum, one) => sum + one, 0);
  const shares = chart.panels.reduce((sum, panel) => sum + panel.share, 0);
  let from = top;
  return chart.panels.map((panel, place) => {
    from += titles[place] ?? 0;
    const tall = Math.max(4, ((height - gaps) * panel.share) / shares);
    const frame = { left, right, top: from, bottom: from + tall };
    from += tall + GAP * zoom;
    return {
      panel,
      frame,
      x: scaleOf(chart.x, [frame.left, frame.right]),
      y: scaleOf(panel.y, [frame.bottom, frame.top]),
    };
  });
}

const scaleOf = (axis: Axis, range: [number, number]): Scale =>
  axis.log ? scaleLog([axis.low, axis.high], range) : scaleLinear([axis.low, axis.high], range);

/** The ticks of an axis, as many as there is room for. */
export function ticksOf(axis: Axis, scale: Scale, room: number): Tick[] {
  return valuesOf(axis, scale, room).map((value) => ({ at: scale(value), text: tickText(value, axis) }));
}

function valuesOf(axis: Axis, scale: Scale, room: number): number[] {
  const inside = (value: number) => value >= axis.low * 0.999 && value <= axis.high * 1.001;
  if (axis.log) {
    const decades = Math.log10(axis.high / axis.low);
    const plain = HERTZ.filter(inside);
    if (decades < 1 || plain.length < 3) return scale.ticks(room).filter((_, place) => place % 2 === 0);
    return room < 2 * decades ? plain.filter((value) => /^10*$/.test(`${value}`)) : plain;
  }
  if (axis.unit === "note") return every(axis, Math.max(1, Math.ceil((axis.high - axis.low) / room)));
  if (axis.unit === "°") return every(axis, axis.high - axis.low > 45 * room ? 180 : 90);
  if (axis.unit === "dB") return every(axis, (axis.high - axis.low) / room > 12 ? 20 : 12);
  return scale.ticks(Math.max(2, room));
}

function every(axis: Axis, step: number): number[] {
  const first = Math.ceil(axis.low / step) * step;
  return Array.from({ length: Math.floor((axis.high - first) / step) + 1 }, (_, n) => first + n * step);
}

function tickText(value: number, axis: Axis): string {
  if (axis.unit === "note") return noteName(value);
  if (axis.unit === "Hz") return Math.abs(value) >= 1000 ? `${trimmed(value / 1000)}k` : trimmed(value);
  if (axis.unit === "s") return timeText(value, axis);
  return trimmed(value, 2);
}

/** A time, in ms where the axis is short. */
export const timeText = (seconds: number, axis: Axis): string =>
  axis.high - axis.low < SHORT_S ? `${trimmed(seconds * 1000, 4)} ms` : `${trimmed(seconds, 4)} s`;
