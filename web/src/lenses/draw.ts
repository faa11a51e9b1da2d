/** Draws a chart on a canvas. */

import type { Axis, Chart, Trace } from "../api/client";
import { rules } from "../api/rules";
import { colour, drawOn, FONT, thin, written } from "./colours";
import { drawMarks } from "./drawMarks";
import { type Field, fieldsOf, type Frame, type Tick, ticksOf, type Writing } from "./frames";
import { rasterImage } from "./raster";
import type { Size } from "./usePlot";

const STYLE = rules.charts;
/** What begins below this is darker than half, as colours are written. */
const HALF_DARK = "#8";

/** How a line is broken: theory by dots, several of one hue each in its way. */
export const dashOf = ({ role, order }: Trace): number[] =>
  role === "theory" ? STYLE.theory_dash : (STYLE.dashes[order % STYLE.dashes.length] ?? []);

const TICK_SPACE = { x: 58, y: 26 };

/** Draws a chart, with all of its writing or less. */
export function drawChart(
  context: CanvasRenderingContext2D,
  chart: Chart,
  size: Size,
  zoom: number,
  writing: Writing = "all",
): void {
  const bare = writing === "nothing";
  const fields = fieldsOf(chart, size, zoom, writing);
  drawOn(context.canvas);
  fields.forEach((field, place) => {
    const last = place === fields.length - 1;
    drawAxes(context, field, chart.x, zoom, last, writing);
    within(context, field.frame, () => {
      if (field.panel.raster) drawRaster(context, field);
      shade(context, field);
      for (const trace of field.panel.traces) drawTrace(context, field, trace, zoom);
    });
    if (!bare) drawMarks(context, field, zoom);
    if (field.panel.title && !bare) drawTitle(context, field, zoom);
  });
}

function drawAxes(
  context: CanvasRenderingContext2D,
  { panel, frame, x, y }: Field,
  axis: Axis,
  zoom: number,
  last: boolean,
  writing: Writing,
): void {
  const across = ticksOf(axis, x, Math.floor((frame.right - frame.left) / (TICK_SPACE.x * zoom)));
  const room = Math.floor((frame.bottom - frame.top) / (TICK_SPACE.y * zoom));
  const upright = panel.share < 0.5 ? [] : ticksOf(panel.y, y, room);
  context.strokeStyle = colour.rule;
  context.fillStyle = colour.soft;
  context.lineWidth = 1;
  context.setLineDash([]);
  context.font = `${12.5 * zoom}px ${FONT}`;
  context.beginPath();
  for (const tick of across) {
    context.moveTo(Math.round(tick.at) + 0.5, frame.top);
    context.lineTo(Math.round(tick.at) + 0.5, frame.bottom + 4);
  }
  for (const tick of upright) {
    context.moveTo(frame.left - 4, Math.round(tick.at) + 0.5);
    context.lineTo(frame.right, Math.round(tick.at) + 0.5);
  }
  context.stroke();
  if (writing === "nothing") return;
  if (last) writeAcross(context, across, frame, axis, zoom);
  if (writing === "across") return;
  context.textAlign = "right";
  context.textBaseline = "middle";
  upright.forEach((tick, place) => {
    const named = panel.y.unit === "dB" || panel.y.unit === "Hz" || panel.y.unit === "rad";
    const unit = place === upright.length - 1 && named ? ` ${panel.y.unit}` : "";
    context.fillText(`${tick.text}${unit}`, frame.left - 7 * zoom, tick.at);
  });
  context.textAlign = "left";
}

function writeAcross(
  context: CanvasRenderingContext2D,
  ticks: Tick[],
  frame: Frame,
  axis: Axis,
  zoom: number,
): void {
  context.textBaseline = "top";
  let free = -Infinity;
  ticks.forEach((tick, place) => {
    const text = place === ticks.length - 1 && axis.unit === "Hz" ? `${tick.text} Hz` : tick.text;
    const width = context.measureText(text).width;
    const left = Math.min(tick.at - width / 2, frame.right - width + 8 * zoom);
    if (left < free) return;
    context.fillText(text, left, frame.bottom + 7 * zoom);
    free = left + width + 6 * zoom;
  });
}

function drawTitle(context: CanvasRenderingContext2D, { panel, frame }: Field, zoom: number): void {
  context.font = `600 ${12.5 * zoom}px ${FONT}`;
  context.textBaseline = "bottom";
  context.textAlign = "left";
  written(context, panel.title, frame.left, frame.top - 1 * zoom, zoom);
}

function drawTrace(context: CanvasRenderingContext2D, field: Field, trace: Trace, zoom: number): void {
  context.strokeStyle = colour[trace.role];
  context.lineWidth = STYLE.widths[trace.role] * zoom * (trace.order > 0 ? STYLE.later : 1);
  context.lineJoin = "round";
  context.setLineDash(dashOf(trace).map((length) => length * zoom));
  context.beginPath();
  outline(context, field, trace.xs, trace.ys);
  if (trace.lows) {
    for (let place = trace.xs.length - 1; place >= 0; place--)
      context.lineTo(field.x(trace.xs[place] ?? 0), field.y(trace.lows[place] ?? 0));
    context.closePath();
    context.fillStyle = thin(colour[trace.role], STYLE.fills[trace.role]);
    context.fill();
  }
  context.stroke();
  context.setLineDash([]);
  if (field.panel.y.unit === "dB" && trace.role === "this" && trace.order === 0 && !trace.lows)
    wash(context, field, trace);
}

function outline(
  context: CanvasRenderingContext2D,
  { x, y, frame }: Pick<Field, "x" | "y" | "frame">,
  xs: number[],
  ys: (number | null)[],
): void {
  let down = false;
  xs.forEach((at, place) => {
    const value = ys[place];
    if (value === null || value === undefined) {
      down = false;
      return;
    }
    const height = Math.min(frame.bottom + 4, y(value));
    if (down) context.lineTo(x(at), height);
    else context.moveTo(x(at), height);
    down = true;
  });
}

/** Fills what lies beneath a line of levels. */
function wash(context: CanvasRenderingContext2D, field: Field, trace: Trace): void {
  const { frame, x } = field;
  context.beginPath();
  outline(context, field, trace.xs, trace.ys);
  context.lineTo(x(trace.xs.at(-1) ?? 0), frame.bottom + 4);
  context.lineTo(x(trace.xs[0] ?? 0), frame.bottom + 4);
  context.closePath();
  context.fillStyle = thin(colour.this, STYLE.wash);
  context.fill();
}

/** Shades what lies between this and what it is compared with. */
function shade(context: CanvasRenderingContext2D, field: Field): void {
  const { panel, x, y, frame } = field;
  const here = panel.traces.find((one) => one.role === "this");
  const there = panel.traces.find((one) => one.role === "compared");
  if (!panel.shaded || !here || here.xs.length !== there?.xs.length) return;
  const height = (value: number | null | undefined) =>
    Math.min(frame.bottom + 4, Math.max(frame.top - 4, y(value ?? panel.y.low)));
  context.beginPath();
  here.xs.forEach((at, place) => context.lineTo(x(at), height(here.ys[place])));
  for (let place = there.xs.length - 1; place >= 0; place--)
    context.lineTo(x(there.xs[place] ?? 0), height(there.ys[place]));
  context.closePath();
  context.fillStyle = thin(colour.compared, STYLE.shade);
  context.fill();
}

function drawRaster(context: CanvasRenderingContext2D, { panel, frame }: Field): void {
  if (!panel.raster) return;
  context.imageSmoothingEnabled = true;
  const [width, height] = [frame.right - frame.left, frame.bottom - frame.top];
  context.drawImage(rasterImage(panel.raster, colour.leaf < HALF_DARK), frame.left, frame.top, width, height);
}

/** Keeps what is drawn within the field. */
function within(context: CanvasRenderingContext2D, frame: Frame, draw: () => void): void {
  context.save();
  context.beginPath();
  context.rect(frame.left, frame.top, frame.right - frame.left, frame.bottom - frame.top);
  context.clip();
  draw();
  context.restore();
}
