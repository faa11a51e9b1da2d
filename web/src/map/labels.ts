import { lineKey } from "../api/patch";
import type { Measures, Point, Size } from "./grid";
import type { Layout, Line } from "./layout";
import { widthOf, workFont } from "./text";

export const LABEL_SIZE = 12;

/** A text beside a line, where there is room for it. */
export interface Label extends Point {
  key: string;
  text: string;
}

/** What lines are for, by their ends. */
export type Purposes = ReadonlyMap<string, string>;
export const NO_PURPOSES: Purposes = new Map();

interface Box extends Point, Size {}

const HEIGHT = LABEL_SIZE + 1;
const ASCENT = 10;
const BESIDE = 5;

/** Writes beside each line what it does, where no other text and no card is; what finds no room is left out. */
export function labelled(drawing: Layout, measures: Measures, purposes: Purposes): Label[] {
  if (measures.label === 0) return [];
  const { card } = drawing;
  const cards = drawing.cards.map((one): Box => ({ ...one, ...card }));
  const taken: Box[] = [];
  const free = (box: Box) =>
    box.x >= 1 &&
    box.y >= 0 &&
    box.x + box.width <= drawing.width - 1 &&
    box.y + box.height <= drawing.height &&
    [...cards, ...taken].every((other) => apart(box, other));
  const labels: Label[] = [];
  const lines = drawing.lines.map((line) => ({ ...line, labels: textsOf(line, purposes) }));
  for (const line of inOrder(lines)) {
    const possible = choices(line, measures, drawing).filter(({ box }) => free(box));
    const others = drawing.lines.filter((one) => one.key !== line.key);
    const [whole] = possible;
    const found =
      possible.find(
        ({ text, box }) => text === whole?.text && others.every((one) => !runsThrough(one, box)),
      ) ?? whole;
    if (!found) continue;
    taken.push(found.box);
    labels.push({ key: line.key, text: found.text, x: found.box.x, y: found.box.y + ASCENT });
  }
  return labels;
}

/** What stands beside a line, best first: with what it is for, else what it does alone. */
function textsOf({ connections, labels }: Line, purposes: Purposes): string[] {
  const purpose = connections.map((one) => purposes.get(lineKey(one))).find((one) => one !== undefined);
  if (purpose === undefined) return labels;
  return [[labels[0], purpose].filter(Boolean).join(": "), ...labels];
}

/** Whether a line runs through where a text would stand. */
const runsThrough = ({ points }: Line, box: Box): boolean =>
  points.slice(1).some((point, n) => {
    const before = points[n] ?? point;
    const stretch = {
      x: Math.min(before.x, point.x),
      y: Math.min(before.y, point.y),
      width: Math.abs(before.x - point.x),
      height: Math.abs(before.y - point.y),
    };
    return !apart(stretch, box);
  });

const apart = (a: Box, b: Box) =>
  a.x >= b.x + b.width || b.x >= a.x + a.width || a.y >= b.y + b.height || b.y >= a.y + a.height;

/** Beneath a card the line furthest right has its text first: so the fewest lines run through the others’. */
function inOrder(lines: Line[]): Line[] {
  const end = (line: Line) => line.points.at(-1) ?? { x: 0, y: 0 };
  return lines
    .filter((line) => line.labels.length > 0)
    .toSorted((a, b) => end(a).y - end(b).y || end(b).x - end(a).x);
}

const ROWS = 4;

/** Where a line's text could stand, best first: where it arrives, where it leaves, above what runs across. */
function choices(line: Line, { label }: Measures, { cards, card }: Layout) {
  const places: { at: Point; before: boolean }[] = [];
  const end = line.points.at(-1) ?? { x: 0, y: 0 };
  const start = line.points[0] ?? end;
  if (line.entry === "bottom") {
    for (let row = 0; row < ROWS; row++)
      places.push({ at: { x: end.x + BESIDE, y: end.y + 2 + row * label }, before: false });
    places.push({ at: { x: end.x - BESIDE, y: end.y + 2 }, before: true });
  } else places.push({ at: { x: end.x - BESIDE, y: end.y - HEIGHT - 2 }, before: true });
  places.push({ at: { x: start.x + BESIDE, y: start.y - HEIGHT - 2 }, before: false });
  for (const [a, b] of flat(line.points)) {
    places.push({ at: { x: Math.min(a.x, b.x) + BESIDE, y: a.y - HEIGHT - 1 }, before: false });
    places.push({ at: { x: Math.max(a.x, b.x) - BESIDE, y: a.y - HEIGHT - 1 }, before: true });
  }
  const target = cards.find((one) => one.id === line.to);
  // the text belongs to the card that it stands at: it ends before the next column's
  const edge = (target?.x ?? 0) + card.width + label;
  return line.labels.flatMap((text) => {
    const width = Math.ceil(widthOf(text, workFont(LABEL_SIZE))) + 2;
    const boxes = places.map(({ at, before }) => ({
      text,
      box: { x: before ? at.x - width : at.x, y: at.y, width, height: HEIGHT },
    }));
    return boxes.filter(({ box }, n) => line.entry !== "bottom" || n >= ROWS || box.x + width <= edge);
  });
}

/** The stretches of a line that run across and are long enough to write on. */
function flat(points: Point[]): [Point, Point][] {
  return points
    .slice(1)
    .flatMap((point, n): [Point, Point][] => {
      const before = points[n] ?? point;
      return before.y === point.y && Math.abs(before.x - point.x) > 30 ? [[before, point]] : [];
    })
    .toSorted(([a, b], [c, d]) => Math.abs(c.x - d.x) - Math.abs(a.x - b.x));
}
