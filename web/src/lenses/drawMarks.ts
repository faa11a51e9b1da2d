import type { Mark } from "../api/client";
import { rules } from "../api/rules";
import { colour, FONT, written } from "./colours";
import type { Field } from "./frames";

const STYLE = rules.charts;
const NUMBER_SPACE = 14;
const NOTE_LINE = 15;

/** Draws what stands out in a chart: partials by their numbers, and where stages end. */
export function drawMarks(context: CanvasRenderingContext2D, field: Field, zoom: number): void {
  const partials = field.panel.marks.filter((one) => one.kind === "partial");
  const notes = [...new Set(partials.map((one) => one.of))];
  if (notes.length > 1) notes.forEach((note, row) => drawNote(context, field, note, row, zoom));
  else drawPartials(context, field, partials, zoom);
  drawStages(
    context,
    field,
    field.panel.marks.filter((one) => one.kind === "stage"),
    zoom,
  );
}

/** Writes the numbers of one note’s partials in a row of its own, behind the note’s name. */
function drawNote(
  context: CanvasRenderingContext2D,
  { panel, frame, x, y }: Field,
  note: string,
  row: number,
  zoom: number,
): void {
  const top = frame.top + (2 + NOTE_LINE * row) * zoom;
  context.font = `600 ${12 * zoom}px ${FONT}`;
  context.textBaseline = "top";
  written(context, note, frame.left + 5 * zoom, top, zoom);
  let free = frame.left + 10 * zoom + context.measureText(note).width;
  context.textAlign = "center";
  for (const mark of panel.marks) {
    const place = x(mark.x);
    const hidden = y(mark.y ?? 0) > frame.bottom - 4 || Number(mark.text) > STYLE.last_number;
    if (mark.of !== note || hidden || place - 5 * zoom < free) continue;
    written(context, mark.text, place, top, zoom);
    free = place + 7 * zoom;
  }
  context.textAlign = "left";
}

/** Writes the numbers of the partials above their peaks, as long as there is room. */
function drawPartials(
  context: CanvasRenderingContext2D,
  { frame, x, y }: Field,
  marks: Mark[],
  zoom: number,
): void {
  context.font = `600 ${12 * zoom}px ${FONT}`;
  context.textAlign = "center";
  context.textBaseline = "bottom";
  let last = -Infinity;
  for (const mark of marks) {
    const place = x(mark.x);
    const height = y(mark.y ?? 0);
    const far = Number(mark.text) > STYLE.last_number;
    if (!mark.text || far || height > frame.bottom - 4 || place - last < NUMBER_SPACE * zoom) continue;
    written(context, mark.text, place, Math.max(frame.top + 13 * zoom, height - 3 * zoom), zoom);
    last = place;
  }
  context.textAlign = "left";
}

/** Draws where stages end, their names below one another so that they stay apart. */
function drawStages(
  context: CanvasRenderingContext2D,
  { frame, x }: Field,
  marks: Mark[],
  zoom: number,
): void {
  context.font = `${12 * zoom}px ${FONT}`;
  context.textBaseline = "top";
  marks.forEach((mark, place) => {
    const at = Math.round(x(mark.x)) + 0.5;
    context.strokeStyle = colour.soft;
    context.lineWidth = zoom;
    context.setLineDash([3 * zoom, 3 * zoom]);
    context.beginPath();
    context.moveTo(at, frame.top);
    context.lineTo(at, frame.bottom);
    context.stroke();
    const width = context.measureText(mark.text).width;
    const left = at + 4 * zoom + width > frame.right ? at - 4 * zoom - width : at + 4 * zoom;
    written(context, mark.text, left, frame.top + (2 + 15 * (place % STYLE.stage_lines)) * zoom, zoom);
  });
  context.setLineDash([]);
}
