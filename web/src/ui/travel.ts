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
    ticks: roomy(
      ruler.travel === "linear" ? steps(ruler, scale.ticks(4)) : decades(ruler),
      scale,
      ruler.unit,
    ),
  };
}

/** The ticks that can have their number beneath them without touching each other, the more telling ones first.
 * The first number begins at its tick, the last one ends there, the others stand under theirs. */
function roomy(ticks: Tick[], place: (value: number) => number, unit: string): number[] {
  const values = ticks.map(({ value }) => value);
  const [least, most] = [Math.min(...values), Math.max(...values)];
  const reach = (value: number) => {
    const width = CHARACTER * tickText(value, unit).length;
    const left = place(value) - width * (value === least ? 0 : value === most ? 1 : 0.5);
    return { value, left, right: left + width };
  };
  const kept: ReturnType<typeof reach>[] = [];
  for (const one of ticks.toSorted((a, b) => a.rank - b.rank).map(({ value }) => reach(value)))
    if (kept.every((other) => one.right + GAP < other.left || other.right + GAP < one.left)) kept.push(one);
  return kept.map(({ value }) => value).toSorted((a, b) => a - b);
}

interface Tick {
  value: number;
  /** Those of lower rank come first. */
  rank: number;
}

/** The ends, the decades, and between them their fifths and halves. */
function decades({ low, high }: RulerType): Tick[] {
  const ends = [high, low > 0 ? low : 0].map((value) => ({ value, rank: 0 }));
  const inner = [0.01, 0.1, 1, 10, 100, 1000, 10_000, 100_000].flatMap((decade) => [
    { value: decade, rank: 1 },
    { value: 5 * decade, rank: 2 },
    { value: 2 * decade, rank: 3 },
  ]);
  return [...ends, ...inner.filter(({ value }) => value > low && value < high)];
}

/** Even steps, and the ends where they are no such steps. */
function steps({ low, high }: RulerType, even: number[]): Tick[] {
  const ends = even.length > 2 && low > 0 ? [low] : [];
  return [
    ...even.map((value) => ({ value, rank: value === high ? 0 : 1 })),
    ...ends.map((value) => ({ value, rank: 2 })),
  ];
}

/** A value brought to the ruler's step (coarser where a log ruler's values are large) and into its range. */
export function settled(ruler: RulerType, value: number): number {
  const coarse =
    ruler.travel === "log" ? 10 ** (Math.floor(Math.log10(Math.max(Math.abs(value), 1e-6))) - 2) : 0;
  const step = Math.max(ruler.step, coarse);
  const rounded = Math.round(value / step) * step;
  return Math.min(ruler.high, Math.max(ruler.low, Number(rounded.toPrecision(10))));
}
