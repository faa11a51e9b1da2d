/** What the plots of all lenses share: margins, colours, axes. */

import type { Size } from "./usePlot";

export const MARGIN = { left: 46, right: 12, top: 10, bottom: 24 };

export const COLOUR = {
  this: "#1d4f91",
  thisWash: "#1d4f9126",
  compared: "#b87316",
  comparedWash: "#b8731622",
  rule: "#ddd6c8",
  firm: "#a39b8b",
  soft: "#4f5b64",
  ink: "#1c2830",
  leaf: "#fffdf8",
};

export interface Frame {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

export function frameOf(size: Size): Frame {
  return {
    left: MARGIN.left,
    right: Math.max(MARGIN.left + 10, size.width - MARGIN.right),
    top: MARGIN.top,
    bottom: Math.max(MARGIN.top + 10, size.height - MARGIN.bottom),
  };
}

export interface Tick {
  at: number;
  text: string;
}

/** Draws a grid with its numbers outside the field, below and on the left. */
export function drawAxes(context: CanvasRenderingContext2D, frame: Frame, x: Tick[], y: Tick[]): void {
  context.strokeStyle = COLOUR.rule;
  context.fillStyle = COLOUR.soft;
  context.lineWidth = 1;
  context.font = "12.5px 'Instrument Sans Variable', sans-serif";
  context.beginPath();
  for (const tick of x) {
    context.moveTo(Math.round(tick.at) + 0.5, frame.top);
    context.lineTo(Math.round(tick.at) + 0.5, frame.bottom + 4);
  }
  for (const tick of y) {
    context.moveTo(frame.left - 4, Math.round(tick.at) + 0.5);
    context.lineTo(frame.right, Math.round(tick.at) + 0.5);
  }
  context.stroke();
  context.textBaseline = "top";
  for (const tick of x) {
    const width = context.measureText(tick.text).width;
    context.fillText(tick.text, Math.min(tick.at - width / 2, frame.right - width + 8), frame.bottom + 7);
  }
  context.textAlign = "right";
  context.textBaseline = "middle";
  for (const tick of y) context.fillText(tick.text, frame.left - 7, tick.at);
  context.textAlign = "left";
}

/** Keeps what is drawn within the field. */
export function within(context: CanvasRenderingContext2D, frame: Frame, draw: () => void): void {
  context.save();
  context.beginPath();
  context.rect(frame.left, frame.top, frame.right - frame.left, frame.bottom - frame.top);
  context.clip();
  draw();
  context.restore();
}
