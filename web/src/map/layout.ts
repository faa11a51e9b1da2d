import type { Patch } from "../api/client";
import { type Catalogue } from "../api/patch";
import {
  columnCount,
  cornerOf,
  edge,
  type Grid,
  laneAt,
  measured,
  type Measures,
  type Point,
  rowCount,
  type Size,
} from "./grid";
import { type Label, labelled, NO_PURPOSES, type Purposes } from "./labels";
import { type Cells, columnsOf, type Page, pageOf, place, type Plan, planOf, type Setting } from "./place";
import { Ports } from "./ports";
import { type Route, routes } from "./route";

export interface Card extends Point {
  id: string;
}

export interface Line extends Route {
  points: Point[];
}

/** What a card has room for: a picture of its signal, or its name alone. */
export type Detail = "pictures" | "names";

export interface Layout extends Size {
  detail: Detail;
  card: Size;
  cards: Card[];
  lines: Line[];
  labels: Label[];
  /** How it was placed, which the next layout keeps to where it can. */
  setting: Setting;
  cells: Cells;
}

const PICTURES: Measures = {
  least: { width: 82, height: 51 },
  most: { width: 126, height: 86 },
  margin: 10,
  track: 7,
  upright: 21,
  across: 8,
  label: 14,
};
const NAMES: Measures = {
  least: { width: 60, height: 26 },
  most: { width: 120, height: 44 },
  margin: 8,
  track: 5,
  upright: 13,
  across: 7,
  label: 0,
};
export const MEASURES: Record<Detail, Measures> = { pictures: PICTURES, names: NAMES };

const MOST_COLUMNS = 9;
/** What is guessed to have less than this of the room that it needs is not tried. */
const NEARLY = 0.9;
/** How many settings are drawn and rated, those that are guessed to be the best. */
const TRIED = 6;
/** How much better another setting has to be for cards to move. */
const WORTH_MOVING = 1.06;
/** How much a line costs that is longer by a card, in parts of the cards' size. */
const LENGTH_COST = 0.004;
/** How much it costs that the path goes round the margin into one line more. */
const TURN_COST = 0.15;
/** How much it costs that the last card takes the place of what steers the one before. */
const TUCK_COST = 0.08;
/** What does not fit is only drawn where nothing does. */
const OVERFLOWING = 1e-3;

/** Computes where every card stands and how every line runs, so that a room is filled and its cards can be read. */
export function layout(
  patch: Patch,
  catalogue: Catalogue,
  room: Size,
  before?: Layout,
  purposes: Purposes = NO_PURPOSES,
): Layout {
  const plan = planOf(patch, catalogue);
  const pages = pagesOf(plan);
  if (pages.some((page) => mayFit(guessed(page, room, PICTURES)))) {
    const pictures = best(patch, catalogue, pages, room, "pictures", before, purposes);
    if (fits(pictures, room)) return pictures;
  }
  return best(patch, catalogue, pages, room, "names", before, purposes);
}

/** The layout with pictures, in whatever room it takes: for a close look. */
export function closeLayout(
  patch: Patch,
  catalogue: Catalogue,
  room: Size,
  before?: Layout,
  purposes: Purposes = NO_PURPOSES,
): Layout {
  return best(patch, catalogue, pagesOf(planOf(patch, catalogue)), room, "pictures", before, purposes);
}

const mayFit = ({ width, height }: Size) =>
  width > NEARLY * PICTURES.least.width && height > NEARLY * PICTURES.least.height;
const fits = (drawn: Layout, room: Size) => drawn.width <= room.width + 1 && drawn.height <= room.height + 1;

/** All of a patch that its layout depends on: its wiring and its names, and none of its settings. */
export const layoutKey = ({ modules, connections }: Patch): string =>
  JSON.stringify([modules.map(({ id, type, label }) => [id, type, label]), connections]);

function best(
  patch: Patch,
  catalogue: Catalogue,
  pages: Page[],
  room: Size,
  detail: Detail,
  before: Layout | undefined,
  purposes: Purposes,
): Layout {
  const measures = MEASURES[detail];
  const guesses = pages
    .map((page) => ({ page, guess: readability(guessed(page, room, measures), measures) }))
    .toSorted((a, b) => b.guess - a.guess);
  const known = guesses.find(({ page }) => same(page.setting, before?.setting));
  const tried = new Set([...guesses.slice(0, TRIED), ...(known ? [known] : [])]);
  const rated = [...tried].map(({ page }) => {
    const { setting } = page;
    const cells = place(page, before?.cells ?? new Map());
    const drawing = drawn(patch, catalogue, cells, setting, room, detail);
    const habit = same(setting, before?.setting) ? WORTH_MOVING : 1;
    const turns = 1 + TURN_COST * (page.lines.length - 1) + (setting.tucked ? TUCK_COST : 0);
    const whole = fits(drawing, room) ? 1 : OVERFLOWING;
    return { drawing, worth: (whole * habit * worthOf(drawing, room)) / turns };
  });
  const found = rated.reduce((one, other) => (other.worth > one.worth ? other : one));
  return { ...found.drawing, labels: labelled(found.drawing, measures, purposes) };
}

const same = (a: Setting, b: Setting | undefined) => JSON.stringify(a) === JSON.stringify(b);

/** All ways to set the path that differ. */
function pagesOf(plan: Plan): Page[] {
  const found = new Map<string, Page>();
  for (const setting of settingsOf(plan)) {
    const page = pageOf(plan, setting);
    const key = JSON.stringify([setting.columns, page.lines, page.heights]);
    if (!found.has(key)) found.set(key, page);
  }
  return [...found.values()];
}

function settingsOf(plan: Plan): Setting[] {
  const found: Setting[] = [];
  for (const tall of [2, 3, 4, 5]) {
    const path = columnsOf(plan, tall);
    if (tall > 2 && path.length === columnsOf(plan, tall - 1).length) continue;
    const canTuck = path.length > 1 && path.at(-1)?.length === 1;
    for (let columns = 1; columns <= MOST_COLUMNS; columns++)
      for (const tucked of canTuck ? [false, true] : [false])
        for (const roomy of [false, true]) found.push({ columns, tall, tucked, roomy });
  }
  return found;
}

/** How large cards would be if there were no more than the usual room between them. */
function guessed({ setting, heights }: Page, room: Size, measures: Measures): Size {
  const { columns } = setting;
  const rows = heights.reduce((sum, height) => sum + height, 0);
  const between = measures.across + measures.label + measures.track;
  return {
    width: (room.width - 2 * measures.margin - measures.upright * columns) / columns,
    height: (room.height - 2 * measures.margin - between * rows) / rows,
  };
}

/** How well cards of a size can be read: 1 where they are as large as they are ever drawn. */
function readability(card: Size, { least, most }: Measures): number {
  const width = Math.min(1, card.width / most.width);
  const height = Math.min(1, card.height / most.height);
  if (width <= 0 || height <= 0) return 0;
  const small = Math.min(1, card.width / least.width, card.height / least.height);
  return Math.min(width, height) * Math.sqrt(width * height) * small ** 3;
}

function worthOf(drawing: Layout, room: Size): number {
  const scale = Math.min(1, room.width / drawing.width, room.height / drawing.height);
  const card = { width: drawing.card.width * scale, height: drawing.card.height * scale };
  const steps = drawing.lines.reduce((sum, line) => sum + lengthOf(line.points), 0) / drawing.card.width;
  return readability(card, MEASURES[drawing.detail]) / (1 + LENGTH_COST * steps);
}

function lengthOf(points: Point[]): number {
  return points.slice(1).reduce((sum, point, n) => {
    const last = points[n] ?? point;
    return sum + Math.abs(point.x - last.x) + Math.abs(point.y - last.y);
  }, 0);
}

function drawn(
  patch: Patch,
  catalogue: Catalogue,
  cells: Cells,
  setting: Setting,
  room: Size,
  detail: Detail,
): Layout {
  const found = routes(patch, catalogue, cells);
  const grid = measured(cells, found, room, MEASURES[detail]);
  const ports = new Ports(found, grid);
  const { margin } = grid.measures;
  return {
    detail,
    setting,
    cells,
    card: grid.card,
    width: edge(grid.columns, columnCount(cells)) + margin,
    height: edge(grid.rows, rowCount(cells)) + margin,
    cards: patch.modules.flatMap((module) => {
      const cell = cells.get(module.id);
      return cell ? { id: module.id, ...cornerOf(grid, cell) } : [];
    }),
    lines: found.map((route) => lineOf(route, grid, ports)),
    labels: [],
  };
}

function lineOf(route: Route, grid: Grid, ports: Ports): Line {
  const start = ports.exit(route);
  const end = ports.entry(route);
  const points = [start];
  let here = start;
  route.lanes.forEach((lane, n) => {
    const at = laneAt(lane, grid, grid.tracks.of(route, n));
    here = lane.way === "across" ? { x: here.x, y: at } : { x: at, y: here.y };
    points.push(here);
    if (!route.lanes[n + 1]) points.push(lane.way === "across" ? { x: end.x, y: at } : { x: at, y: end.y });
  });
  points.push(end);
  return { ...route, points: simplified(points) };
}

/** Leaves out points that lie on a straight stretch. */
function simplified(points: Point[]): Point[] {
  return points.filter((point, n) => {
    const before = points[n - 1];
    const after = points[n + 1];
    if (!before || !after) return true;
    const flat = before.y === point.y && point.y === after.y;
    const upright = before.x === point.x && point.x === after.x;
    return !flat && !upright;
  });
}
