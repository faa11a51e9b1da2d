import { scaleLinear, scaleLog, scaleSymlog } from "d3-scale";

import type { RulerType } from "../api/client";
import { tickText } from "./units";

/** Where a value lies on a ruler, from 0 to 1, and back. */
export interface Travel {
  place: (value: number) => number;
  value: (place: number) => number;
  ticks: number[];
}

/** Time rulers begin at zero, which a log scale cannot show: they are straight up to here, in seconds. */
const KNEE = 0.01;

/** The width of a character of a tick's number, and the gap between two numbers, in lengths of the ruler. */
const CHARACTER = 0.027;
const GAP = 0.025;

export function travelOf(ruler: RulerType): Travel {
  const domain = [ruler.low, ruler.high];
  const scale =
    ruler.travel === "linear"
      ? scaleLinear(domain, [0, 1])
      : ruler.low > 0
        ? scaleLog(domain, [0, 1])
        : scaleSymlog(domain, [0, 1]).constant(KNEE);
  return {
    place: (value) => Math.min(1, Math.max(0, scale(value))),
    value: (place) => scale.invert(Math.min(1, Math.max(0, place))),
    ticks: roomy(ruler.travel === "linear" ? scale.ticks(4) : decades(ruler), scale, ruler.unit),
  };
}

/** The ticks that can have their number beneath them without touching each other; the last one always does.
 * The first number begins at its tick, the last one ends there, the others stand under theirs. */
function roomy(ticks: number[], place: (value: number) => number, unit: string): number[] {
  const last = ticks.length - 1;
  const reach = ticks.map((tick, n) => {
    const width = CHARACTER * tickText(tick, unit).length;
    const left = place(tick) - width * (n === 0 ? 0 : n === last ? 1 : 0.5);
    return { left, right: left + width };
  });
  let kept = -1;
  return ticks.filter((_, n) => {
    const { left, right } = reach[n] ?? { left: 0, right: 0 };
    const room = n === last || (left > kept && right + GAP < (reach[last]?.left ?? 1));
    if (room) kept = right + GAP;
    return room;
  });
}

function decades(ruler: RulerType): number[] {
  const ticks = ruler.low > 0 ? [ruler.low] : [0];
  for (const decade of [0.01, 0.1, 1, 10, 100, 1000, 10_000, 100_000]) {
    if (decade > ruler.low && decade <= ruler.high) ticks.push(decade);
  }
  return ticks.at(-1) === ruler.high ? ticks : [...ticks, ruler.high];
}

/** A value brought to the ruler's step (coarser where a log ruler's values are large) and into its range. */
export function settled(ruler: RulerType, value: number): number {
  const coarse =
    ruler.travel === "log" ? 10 ** (Math.floor(Math.log10(Math.max(Math.abs(value), 1e-6))) - 2) : 0;
  const step = Math.max(ruler.step, coarse);
  const rounded = Math.round(value / step) * step;
  return Math.min(ruler.high, Math.max(ruler.low, Number(rounded.toPrecision(10))));
}
