import type { Patch } from "../api/client";
import { type Catalogue } from "../api/patch";
import { type Cells, place } from "./place";
import { type Lane, type Route, routes } from "./route";

export interface CardSize {
  width: number;
  height: number;
}

export const NEAR: CardSize = { width: 124, height: 84 };
/** From afar a card has room for its name only, and lines have no labels. */
export const AFAR: CardSize = { width: 150, height: 42 };
const MARGIN = 14;
const TRACK = 9;
const UPRIGHT_GAP = 42;
const ACROSS_GAP = 22;
const LABEL_HEIGHT = 16;
const PORT_GAP = 24;
const PORT_MARGIN = 8;

export interface Point {
  x: number;
  y: number;
}

export interface Card extends Point {
  id: string;
}

export interface Line extends Route {
  points: Point[];
  labelAt: Point & { anchor: "start" | "end" };
}

export interface Layout {
  width: number;
  height: number;
  card: CardSize;
  cards: Card[];
  lines: Line[];
}

interface Grid {
  columns: Map<number, number>;
  rows: Map<number, number>;
  cells: Cells;
  tracks: Map<string, number>;
  card: CardSize;
}

/** Computes where every card stands and how every line runs; lines never cross a card. */
export function layout(patch: Patch, catalogue: Catalogue, card: CardSize): Layout {
  const cells = place(patch, catalogue);
  const found = routes(patch, catalogue, cells);
  const tracks = assignTracks(found, cells);
  const grid = measured(cells, found, tracks, card);
  const ports = new Ports(found, cells, grid);
  const all = [...cells.values()];
  return {
    width:
      edgeOf(grid.columns, Math.max(0, ...all.map((cell) => cell.column)) + 1) -
      gapAfter(tracks, cells) +
      MARGIN,
    height: edgeOf(grid.rows, Math.max(0, ...all.map((cell) => cell.row)) + 1),
    card,
    cards: patch.modules.flatMap((module) => {
      const cell = cells.get(module.id);
      return cell ? { id: module.id, ...corner(grid, cell.column, cell.row) } : [];
    }),
    lines: found.map((route) => lineOf(route, grid, ports)),
  };
}

/** All of a patch that its layout depends on: its wiring and its names, and none of its settings. */
export const layoutKey = ({ modules, connections }: Patch): string =>
  JSON.stringify([modules.map(({ id, type, label }) => [id, type, label]), connections]);

const edgeOf = (edges: Map<number, number>, at: number) => edges.get(at) ?? 0;
const laneKey = (lane: Lane) => `${lane.way}${lane.at}`;
const corner = (grid: Grid, column: number, row: number): Point => ({
  x: edgeOf(grid.columns, column),
  y: edgeOf(grid.rows, row),
});

/** Gives every line its own track within each lane; lines from the same output may share one. */
function assignTracks(found: Route[], cells: Cells): Map<string, number> {
  const tracks = new Map<string, number>();
  const used = new Map<string, { net: string; low: number; high: number; track: number }[]>();
  for (const route of found) {
    route.lanes.forEach((lane, place) => {
      const [low, high] = span(route, place, cells);
      const here = used.get(laneKey(lane)) ?? [];
      const blocked = (track: number) =>
        here.some(
          (one) => one.track === track && one.net !== route.net && one.low <= high && low <= one.high,
        );
      let track = here.find((one) => one.net === route.net && !blocked(one.track))?.track ?? 0;
      while (blocked(track)) track++;
      used.set(laneKey(lane), [...here, { net: route.net, low, high, track }]);
      tracks.set(`${route.key}#${place}`, track);
      tracks.set(laneKey(lane), Math.max(tracks.get(laneKey(lane)) ?? 0, track + 1));
    });
  }
  return tracks;
}

/** From where to where, in columns or rows, a line uses a lane; halves lie between the cards. */
function span(route: Route, place: number, cells: Cells): [number, number] {
  const source = cells.get(route.from);
  const target = cells.get(route.to);
  const lane = route.lanes[place];
  if (!source || !target || !lane) return [0, 0];
  const before = route.lanes[place - 1];
  const after = route.lanes[place + 1];
  const across = lane.way === "across";
  const begin = before ? before.at - 0.5 : across ? source.column : source.row;
  const end = after ? after.at - 0.5 : across ? target.column : target.row;
  return [Math.min(begin, end), Math.max(begin, end)];
}

/** The left edge of every column and the upper edge of every row, with room for the lanes between them. */
function measured(cells: Cells, found: Route[], tracks: Map<string, number>, card: CardSize): Grid {
  const all = [...cells.values()];
  const columns = new Map<number, number>();
  const rows = new Map<number, number>();
  let x = MARGIN + (tracks.has("upright0") ? TRACK * (tracks.get("upright0") ?? 0) : 0);
  for (let column = 0; column <= Math.max(0, ...all.map((cell) => cell.column)) + 1; column++) {
    columns.set(column, x);
    x += card.width + gap(tracks, { way: "upright", at: column + 1 });
  }
  const first = Math.min(0, ...all.map((cell) => cell.row));
  let y = MARGIN + TRACK * (tracks.get(`across${first}`) ?? 0);
  for (let row = first; row <= Math.max(0, ...all.map((cell) => cell.row)) + 1; row++) {
    rows.set(row, y);
    y += card.height + gap(tracks, { way: "across", at: row + 1 });
    if (card === NEAR) y += labelRoom(found, cells, row);
  }
  return { columns, rows, cells, tracks, card };
}

const gap = (tracks: Map<string, number>, lane: Lane) =>
  (lane.way === "upright" ? UPRIGHT_GAP : ACROSS_GAP) +
  TRACK * Math.max(0, (tracks.get(laneKey(lane)) ?? 0) - 1);

function gapAfter(tracks: Map<string, number>, cells: Cells): number {
  const last = Math.max(0, ...[...cells.values()].map((cell) => cell.column));
  const lane: Lane = { way: "upright", at: last + 1 };
  return gap(tracks, lane) - (tracks.get(laneKey(lane)) ?? 0) * TRACK;
}

/** Labels at the lower edge of a row's cards stand one below the other. */
function labelRoom(found: Route[], cells: Cells, row: number): number {
  const counts = new Map<string, number>();
  for (const route of found) {
    if (route.entry === "bottom" && cells.get(route.to)?.row === row)
      counts.set(route.to, (counts.get(route.to) ?? 0) + 1);
  }
  return LABEL_HEIGHT * Math.max(0, ...counts.values());
}

/** Where on a card's edge each line leaves and arrives. */
class Ports {
  private readonly entries = new Map<string, number>();
  private readonly counts = new Map<string, number>();
  private readonly exits = new Map<string, number>();

  constructor(
    found: Route[],
    cells: Cells,
    private readonly grid: Grid,
  ) {
    const column = (route: Route) => cells.get(route.from)?.column ?? 0;
    for (const side of ["left", "bottom"] as const) {
      for (const id of cells.keys()) {
        const here = found.filter((route) => route.to === id && route.entry === side);
        const sorted = here.toSorted((a, b) => column(a) - column(b) || a.key.localeCompare(b.key));
        sorted.forEach((route, place) => this.entries.set(route.key, place));
        this.counts.set(`${id}${side}`, here.length);
      }
    }
    this.placeExits(found);
  }

  order(route: Route): [place: number, count: number] {
    return [this.entries.get(route.key) ?? 0, this.counts.get(`${route.to}${route.entry}`) ?? 1];
  }

  entry(route: Route): Point {
    const at = this.cornerOf(route.to);
    const [place, count] = this.order(route);
    const { width, height } = this.grid.card;
    const room = route.entry === "left" ? height : width;
    const widest = route.entry === "left" ? 0.6 * PORT_GAP : PORT_GAP;
    const shift = (place - (count - 1) / 2) * Math.min(widest, (room - PORT_MARGIN) / count);
    if (route.entry === "left") return { x: at.x, y: at.y + this.grid.card.height / 2 + shift };
    return { x: at.x + this.grid.card.width / 2 + shift, y: at.y + this.grid.card.height };
  }

  exit(route: Route): Point {
    const at = this.cornerOf(route.from);
    if (route.exit === "right")
      return { x: at.x + this.grid.card.width, y: at.y + this.grid.card.height / 2 };
    return { x: this.exits.get(`${route.from}|${route.net}`) ?? at.x + this.grid.card.width / 2, y: at.y };
  }

  private cornerOf(id: string): Point {
    const cell = this.grid.cells.get(id);
    return cell ? corner(this.grid, cell.column, cell.row) : { x: 0, y: 0 };
  }

  /** Outputs leave upwards side by side, right below where they arrive if they can. */
  private placeExits(found: Route[]): void {
    const upwards = found.filter((route) => route.exit === "top");
    const taken = new Map<string, number[]>();
    const straight = (route: Route) => route.lanes.length === 1 && this.inReach(route);
    for (const route of [...upwards.filter(straight), ...upwards.filter((one) => !straight(one))]) {
      const key = `${route.from}|${route.net}`;
      if (this.exits.has(key)) continue;
      const here = taken.get(route.from) ?? [];
      const at = this.cornerOf(route.from);
      const goal = this.entry(route).x;
      const slots = Array.from({ length: 9 }, (_, n) => at.x + this.grid.card.width / 2 + (n - 4) * 12);
      const free = slots.filter((slot) => here.every((x) => Math.abs(x - slot) >= 12));
      const nearest = free.toSorted((a, b) => Math.abs(a - goal) - Math.abs(b - goal))[0];
      const x = straight(route) && here.every((one) => Math.abs(one - goal) >= 12) ? goal : (nearest ?? at.x);
      this.exits.set(key, x);
      taken.set(route.from, [...here, x]);
    }
  }

  private inReach(route: Route): boolean {
    const left = this.cornerOf(route.from).x;
    const goal = this.entry(route).x;
    return goal > left + 6 && goal < left + this.grid.card.width - 6;
  }
}

function lineOf(route: Route, grid: Grid, ports: Ports): Line {
  const start = ports.exit(route);
  const end = ports.entry(route);
  const points = [start];
  let here = start;
  route.lanes.forEach((lane, place) => {
    const at = laneAt(lane, grid, grid.tracks.get(`${route.key}#${place}`) ?? 0);
    here = lane.way === "across" ? { x: here.x, y: at } : { x: at, y: here.y };
    points.push(here);
    const next = route.lanes[place + 1];
    if (!next) {
      points.push(lane.way === "across" ? { x: end.x, y: at } : { x: at, y: end.y });
    }
  });
  points.push(end);
  return { ...route, points: simplified(points), labelAt: labelAt(route, end, ports) };
}

/** The middle of a track, in pixels: upright lanes lie left of a column, across lanes above a row. */
function laneAt(lane: Lane, grid: Grid, track: number): number {
  const edges = lane.way === "across" ? grid.rows : grid.columns;
  const half = (lane.way === "across" ? ACROSS_GAP : UPRIGHT_GAP) / 2;
  return edgeOf(edges, lane.at) - half - track * TRACK;
}

/** Leaves out points that lie on a straight stretch. */
function simplified(points: Point[]): Point[] {
  return points.filter((point, place) => {
    const before = points[place - 1];
    const after = points[place + 1];
    if (!before || !after) return true;
    const flat = before.y === point.y && point.y === after.y;
    const upright = before.x === point.x && point.x === after.x;
    return !flat && !upright;
  });
}

function labelAt(route: Route, end: Point, ports: Ports): Line["labelAt"] {
  const [place, count] = ports.order(route);
  if (route.entry === "left") return { x: end.x - 8, y: end.y - 6, anchor: "end" };
  return { x: end.x + 6, y: end.y + 15 + LABEL_HEIGHT * (count - 1 - place), anchor: "start" };
}
