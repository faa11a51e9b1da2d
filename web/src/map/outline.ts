import type { Measure } from "../api/client";

/** Whether a signal does anything that a picture can show. */
export const readable = (measure: Measure) => measure.greatest - measure.least > 1e-6;

/** The outline of a signal over the phrase, filled between its least and its greatest values. */
export function outlinePath(measure: Measure | undefined, width: number, height: number): string {
  if (!measure || measure.lows.length === 0) return "";
  const [low, high] = rangeOf(measure);
  const y = (value: number) => {
    const place = (value - low) / (high - low);
    return (height * (1 - Math.min(1, Math.max(0, place)))).toFixed(1);
  };
  const x = (place: number) => ((place / (measure.lows.length - 1)) * width).toFixed(1);
  const upper = measure.highs.map((value, place) => `${place === 0 ? "M" : "L"}${x(place)} ${y(value)}`);
  const lower = measure.lows.map((value, place) => `L${x(place)} ${y(value)}`).reverse();
  return `${upper.join("")}${lower.join("")}Z`;
}

/** Signals that never fall below zero stand on the lower edge; others swing about the middle. */
function rangeOf(measure: Measure): [number, number] {
  const greatest = Math.max(1, measure.greatest);
  return measure.least >= -1e-6
    ? [0, greatest]
    : [-Math.max(greatest, -measure.least), Math.max(greatest, -measure.least)];
}
