/** The colours in which a chart is drawn, and its letters. */

import { rules } from "../api/rules";

const STYLE = rules.charts;

type Colours = typeof STYLE.colours & { leaf: string };

/** The colours of the ground on which is drawn; a chart is drawn at once, so there is one at a time. */
export let colour: Colours = { ...STYLE.colours, leaf: "" };

/** The colours that count where a canvas stands. */
function coloursAt(canvas: HTMLCanvasElement): Colours {
  const style = getComputedStyle(canvas);
  const of = (name: string) => style.getPropertyValue(`--color-${name}`);
  const [ink, compared] = [of("ink"), of("compared")];
  return {
    this: of("this"),
    compared,
    theory: ink,
    rule: of("rule"),
    soft: of("soft"),
    ink,
    leaf: of("leaf"),
  };
}

/** Draws from now on in the colours that count where a canvas stands. */
export function drawOn(canvas: HTMLCanvasElement): void {
  colour = coloursAt(canvas);
}

/** A colour of which so much covers what is beneath. */
export const thin = (full: string, share: number) =>
  `${full}${Math.round(255 * share)
    .toString(16)
    .padStart(2, "0")}`;

export const FONT = "'Instrument Sans Variable', sans-serif";
/** Writes over whatever is drawn, with a rim of paper around the letters. */
export function written(
  context: CanvasRenderingContext2D,
  text: string,
  x: number,
  y: number,
  zoom: number,
): void {
  context.setLineDash([]);
  context.lineJoin = "round";
  context.strokeStyle = colour.leaf;
  context.fillStyle = colour.ink;
  context.lineWidth = 3.5 * zoom;
  context.strokeText(text, x, y);
  context.fillText(text, x, y);
}
