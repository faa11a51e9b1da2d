import type { Connection, Patch } from "../api/client";
import { carriesSound, type Catalogue, isSound, outputModule, split } from "../api/patch";

/** Where a card stands: columns from left to right; row 0 is the baseline, above it sources, below what steers. */
export interface Cell {
  column: number;
  row: number;
}

export type Cells = Map<string, Cell>;

interface Edge {
  from: string;
  to: string;
  sound: boolean;
}

/**
 * Places every module: the sound path on one baseline that ends in the output, parallel sources above it, and
 * what steers beneath the first thing that it steers.
 */
export function place(patch: Patch, catalogue: Catalogue): Cells {
  const edges = patch.connections.flatMap((connection) => edgesOf(patch, connection, catalogue));
  const sound = edges.filter((edge) => edge.sound);
  const distance = distances(patch, sound, edges, catalogue);
  const columns = Math.max(0, ...distance.values());
  const cells: Cells = new Map();
  placeSound(patch, catalogue, sound, distance, columns, cells);
  placeSteering(patch, edges, cells);
  return cells;
}

function edgesOf(patch: Patch, connection: Connection, catalogue: Catalogue): Edge[] {
  const to = split(connection.to)[0];
  const main = { from: split(connection.from)[0], to, sound: carriesSound(patch, connection, catalogue) };
  if (!connection.scaled_by) return [main];
  return [main, { from: split(connection.scaled_by)[0], to, sound: false }];
}

/** How many modules lie between each module of the sound path and its end, by the longest way. */
function distances(patch: Patch, sound: Edge[], all: Edge[], catalogue: Catalogue): Map<string, number> {
  const modules = patch.modules;
  const distance = new Map<string, number>();
  const output = outputModule(patch, catalogue);
  for (const module of modules) {
    const idle = !all.some((edge) => edge.from === module.id);
    if (module === output) distance.set(module.id, 0);
    else if (isSound(module, catalogue) && idle) distance.set(module.id, 1);
  }
  let changed = true;
  for (let round = 0; changed && round < modules.length; round++) {
    changed = false;
    for (const edge of sound) {
      const behind = distance.get(edge.to);
      if (behind === undefined || edge.from === edge.to) continue;
      const longer = behind + 1;
      if (longer > (distance.get(edge.from) ?? -1) && longer < modules.length) {
        distance.set(edge.from, longer);
        changed = true;
      }
    }
  }
  return distance;
}

function placeSound(
  patch: Patch,
  catalogue: Catalogue,
  sound: Edge[],
  distance: Map<string, number>,
  columns: number,
  cells: Cells,
): void {
  const baseline = mainPath(patch, catalogue, sound, distance);
  const taken = new Set<string>();
  const put = (id: string, row: number) => {
    const column = columns - (distance.get(id) ?? 0);
    let free = row;
    while (taken.has(`${column},${free}`)) free--;
    taken.add(`${column},${free}`);
    cells.set(id, { column, row: free });
  };
  baseline.forEach((id) => put(id, 0));
  for (const module of patch.modules) {
    if (distance.has(module.id) && !cells.has(module.id)) put(module.id, baseline.length > 0 ? -1 : 0);
  }
}

/** The chain from the output back to a source that always goes by the farthest module. */
function mainPath(
  patch: Patch,
  catalogue: Catalogue,
  sound: Edge[],
  distance: Map<string, number>,
): string[] {
  let here = outputModule(patch, catalogue)?.id;
  const path: string[] = [];
  while (here !== undefined && !path.includes(here)) {
    path.push(here);
    const end: string = here;
    const sources = sound
      .filter((edge) => edge.to === end && !path.includes(edge.from))
      .map((edge) => edge.from);
    here = sources.toSorted((a, b) => (distance.get(b) ?? 0) - (distance.get(a) ?? 0))[0];
  }
  return path;
}

function placeSteering(patch: Patch, edges: Edge[], cells: Cells): void {
  const waiting = new Set(patch.modules.map((module) => module.id));
  for (const id of cells.keys()) waiting.delete(id);
  const taken = new Set([...cells.values()].map((cell) => `${cell.column},${cell.row}`));
  const last = Math.max(0, ...[...cells.values()].map((cell) => cell.column));
  while (waiting.size > 0) {
    const ready = [...waiting].filter((id) => steered(id, edges).some((target) => cells.has(target)));
    const next = ready.length > 0 ? ready : [...waiting].slice(0, 1);
    const wishes = next.map((id) => ({ id, ...wishOf(id, edges, cells) }));
    for (const wish of wishes.toSorted((a, b) => a.row - b.row || a.column - b.column)) {
      const cell = nearestFree(wish, last, taken);
      taken.add(`${cell.column},${cell.row}`);
      cells.set(wish.id, cell);
      waiting.delete(wish.id);
    }
  }
}

/** A column to the side is worth so many rows further down: what steers much does not pile up. */
const ASIDE = 1.6;

/** The free cell that lies nearest to the wished one, beneath it or to its side. */
function nearestFree(wish: Cell, last: number, taken: Set<string>): Cell {
  let best: (Cell & { cost: number }) | undefined;
  for (let column = 0; column <= last; column++) {
    let { row } = wish;
    while (taken.has(`${column},${row}`)) row++;
    const cost = row - wish.row + ASIDE * Math.abs(column - wish.column);
    if (!best || cost < best.cost) best = { column, row, cost };
  }
  return best ? { column: best.column, row: best.row } : wish;
}

const steered = (id: string, edges: Edge[]) =>
  edges.filter((edge) => edge.from === id && edge.to !== id).map((edge) => edge.to);

/** Beneath the leftmost thing that it steers; what steers only what steers stands one row lower. */
function wishOf(id: string, edges: Edge[], cells: Cells): Cell {
  const targets = steered(id, edges).flatMap((target) => cells.get(target) ?? []);
  if (targets.length === 0) return { column: 0, row: 1 };
  return {
    column: Math.min(...targets.map((cell) => cell.column)),
    row: Math.max(1, Math.min(...targets.map((cell) => cell.row)) + 1),
  };
}
