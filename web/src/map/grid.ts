import type { Cell, Cells } from "./place";
import { FOLLOWS, type Lane, type Route } from "./route";
import { assignTracks, type Tracks } from "./tracks";

export interface Size {
  width: number;
  height: number;
}

export interface Point {
  x: number;
  y: number;
}

/** What room the parts of a drawing take, in pixels. */
export interface Measures {
  least: Size;
  most: Size;
  margin: number;
  track: number;
  upright: number;
  across: number;
  label: number;
}

/** Where the columns and the rows begin, in pixels, and all that this stands on. */
export interface Grid {
  columns: number[];
  rows: number[];
  cells: Cells;
  tracks: Tracks;
  card: Size;
  measures: Measures;
}

const most = (numbers: Iterable<number>) => Math.max(0, ...numbers);
export const columnCount = (cells: Cells) => most([...cells.values()].map((cell) => cell.column)) + 1;
export const rowCount = (cells: Cells) => most([...cells.values()].map((cell) => cell.row)) + 1;

export const edge = (edges: number[], at: number) => edges[at] ?? 0;

export const cornerOf = (grid: Grid, { column, row }: Cell): Point => ({
  x: edge(grid.columns, column),
  y: edge(grid.rows, row),
});

/** Gives the lanes the room that they need, and all that is left to the cards. */
export function measured(cells: Cells, found: Route[], room: Size, measures: Measures): Grid {
  const tracks = assignTracks(found, cells);
  const columns = columnCount(cells);
  const rows = rowCount(cells);
  const uprights = Array.from({ length: columns + 1 }, (_, at) => uprightRoom(tracks, at, columns, measures));
  const acrosses = Array.from({ length: rows + 1 }, (_, at) =>
    acrossRoom(tracks, found, cells, at, rows, measures),
  );
  const sum = (all: number[]) => all.reduce((total, one) => total + one, 0);
  const share = (whole: number, lanes: number[], count: number) =>
    (whole - 2 * measures.margin - sum(lanes)) / count;
  const card = {
    width: clamped(share(room.width, uprights, columns), measures.least.width, measures.most.width),
    height: clamped(share(room.height, acrosses, rows), measures.least.height, measures.most.height),
  };
  return {
    columns: edges(uprights, card.width, measures.margin),
    rows: edges(acrosses, card.height, measures.margin),
    cells,
    tracks,
    card,
    measures,
  };
}

const clamped = (value: number, low: number, high: number) =>
  Math.floor(Math.min(high, Math.max(low, value)));

/** Where each column or row begins; the last number is where all ends. */
function edges(gaps: number[], card: number, margin: number): number[] {
  let at = margin;
  return gaps.map((gap, n) => {
    at += gap + (n === 0 ? 0 : card);
    return at;
  });
}

/** The room of the lane left of a column; at the edges only as much as there are lines. */
function uprightRoom(tracks: Tracks, at: number, columns: number, { upright, track }: Measures): number {
  const lines = tracks.count({ way: "upright", at });
  if (at === 0 || at === columns) return lines * track + (lines > 0 ? upright / 3 : 0);
  return upright + track * Math.max(0, lines - 1);
}

/** The room above a row: labels beneath the cards of the row before, and the lane. */
function acrossRoom(
  tracks: Tracks,
  found: Route[],
  cells: Cells,
  at: number,
  rows: number,
  measures: Measures,
): number {
  const lines = tracks.count({ way: "across", at });
  const labels = measures.label * labelRows(found, cells, at - 1);
  const lanes = lines * measures.track;
  if (at === 0) return lanes;
  if (at === rows) return lanes + labels;
  return measures.across + Math.max(measures.track, lanes) + labels;
}

const MOST_LABEL_ROWS = 3;

/** Labels at the lower edge of a row's cards stand one below the other. */
function labelRows(found: Route[], cells: Cells, row: number): number {
  const counts = new Map<string, number>();
  for (const { entry, to, labels } of found) {
    if (entry === "bottom" && labels.length > 0 && labels[0] !== FOLLOWS && cells.get(to)?.row === row)
      counts.set(to, (counts.get(to) ?? 0) + 1);
  }
  return Math.min(MOST_LABEL_ROWS, most(counts.values()));
}

/** The middle of a track, in pixels: upright lanes lie left of a column, across lanes above a row. */
export function laneAt(lane: Lane, { rows, columns, measures }: Grid, track: number): number {
  if (lane.way === "across") return edge(rows, lane.at) - measures.across * 0.6 - track * measures.track;
  const last = lane.at === columns.length - 1;
  if (last) return edge(columns, lane.at) - measures.track * track - 3;
  const first = lane.at === 0 ? measures.upright / 3 : measures.upright / 2;
  return edge(columns, lane.at) - first - track * measures.track;
}
