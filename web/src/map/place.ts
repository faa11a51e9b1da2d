import type { Connection, Patch } from "../api/client";
import { carriesSound, type Catalogue, isSound, outputModule, split } from "../api/patch";

/** Where a card stands, by column and row. */
export interface Cell {
  column: number;
  row: number;
}

export type Cells = ReadonlyMap<string, Cell>;

interface Edge {
  from: string;
  to: string;
  sound: boolean;
}

/** What there is to place: the sound path in the order in which it is read, and what steers. */
export interface Plan {
  /** From the sources to the output; what is in one layer stands side by side in the path. */
  layers: string[][];
  steering: string[];
  /** What each module leads to, along the path or by steering. */
  targets: ReadonlyMap<string, string[]>;
}

/** How the path is set: like text, in lines of so many columns. */
export interface Setting {
  columns: number;
  /** How many cards of a layer stand beneath each other at most. */
  tall: number;
  /** Whether the last card goes beneath the one before, instead of on a line of its own. */
  tucked: boolean;
  /** Whether every line has room enough for what steers it, or only the whole. */
  roomy: boolean;
}

export function planOf(patch: Patch, catalogue: Catalogue): Plan {
  const edges = patch.connections.flatMap((connection) => edgesOf(patch, connection, catalogue));
  const sound = edges.filter((edge) => edge.sound);
  const distance = distances(patch, sound, edges, catalogue);
  const first = new Set(mainPath(patch, catalogue, sound, distance));
  const layers: string[][] = Array.from({ length: Math.max(-1, ...distance.values()) + 1 }, () => []);
  const placed = patch.modules.filter((module) => distance.has(module.id)).map((module) => module.id);
  for (const id of [...placed.filter((one) => first.has(one)), ...placed.filter((one) => !first.has(one))])
    layers[layers.length - 1 - (distance.get(id) ?? 0)]?.push(id);
  const targets = new Map<string, string[]>();
  for (const { from, to } of edges)
    if (from !== to) targets.set(from, [...new Set([...(targets.get(from) ?? []), to])]);
  const steering = patch.modules.map((module) => module.id).filter((id) => !distance.has(id));
  return { layers: layers.filter((layer) => layer.length > 0), steering, targets };
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

/** The path broken into lines, each a list of columns, with the rows that each line takes. */
export interface Page {
  plan: Plan;
  setting: Setting;
  lines: string[][][];
  heights: number[];
}

export function pageOf(plan: Plan, setting: Setting): Page {
  const path = columnsOf(plan, setting.tall);
  const tucked = (setting.tucked && path.pop()) || [];
  const lines = pieces(path, setting.columns);
  const last = lines.at(-1)?.at(-1);
  last?.push(...tucked);
  if (lines.length > 1 && tucked.length === 0) lines.push(spread(lines.pop() ?? [], setting.columns));
  return { plan, setting, lines, heights: heightsOf(plan, lines, setting) };
}

/** Places every module: the sound path in lines like text, what steers beneath what it steers. */
export function place({ plan, setting, lines, heights }: Page, before: Cells): Cells {
  const cells = new Map<string, Cell>();
  let top = 0;
  lines.forEach((line, n) => {
    line.forEach((stack, column) => stack.forEach((id, row) => cells.set(id, { column, row: top + row })));
    top += heights[n] ?? 0;
  });
  const rows = heights.reduce((sum, height) => sum + height, 0);
  new Steering(plan, setting.columns, rows, before).put(cells);
  return cells;
}

/** A last line that is short has room for what would stand beneath each other in it. */
function spread(line: string[][], columns: number): string[][] {
  const found = [...line];
  while (found.length < columns) {
    const tallest = found.reduce(
      (best, stack, n) => (stack.length > (found[best]?.length ?? 0) ? n : best),
      0,
    );
    const stack = found[tallest] ?? [];
    if (stack.length < 2) break;
    const half = Math.ceil(stack.length / 2);
    found.splice(tallest, 1, stack.slice(half), stack.slice(0, half));
  }
  return found;
}

/** The columns of the path in reading order; a layer that is too tall takes several. */
export const columnsOf = (plan: Plan, tall: number): string[][] =>
  plan.layers.flatMap((layer) => pieces(layer, tall).reverse());

function pieces<T>(all: T[], size: number): T[][] {
  return Array.from({ length: Math.ceil(all.length / size) }, (_, n) => all.slice(n * size, (n + 1) * size));
}

/** How many rows each line of the path takes with what steers it. */
function heightsOf(plan: Plan, lines: string[][][], { columns, roomy }: Setting): number[] {
  const needs = needsOf(plan, lines);
  const heights = lines.map((line) => Math.max(1, ...line.map((stack) => stack.length)));
  if (lines.length === 0) return [Math.ceil(plan.steering.length / columns)];
  const free = (n: number) =>
    (lines[n] ?? []).reduce((sum, stack) => sum + (heights[n] ?? 0) - stack.length, 0);
  const short = (n: number) => (needs[n] ?? 0) - free(n);
  const all = lines.map((_, n) => n);
  for (;;) {
    const total = all.reduce((sum, n) => sum + short(n), 0);
    const worst = all.toSorted((a, b) => short(b) - short(a))[0] ?? 0;
    if (total <= 0 && (!roomy || short(worst) <= 0)) return heights;
    heights[worst] = (heights[worst] ?? 0) + 1;
  }
}

/** How many modules steer something in each line of the path, each counted at the first thing that it steers. */
function needsOf(plan: Plan, lines: string[][][]): number[] {
  const home = new Map(lines.flatMap((line, n) => line.flat().map((id) => [id, n] as const)));
  const needs = lines.map(() => 0);
  let waiting = plan.steering;
  while (waiting.length > 0) {
    const ready = waiting.filter((id) => plan.targets.get(id)?.some((target) => home.has(target)));
    const next = ready.length > 0 ? ready : waiting;
    for (const id of next) {
      const at = (plan.targets.get(id) ?? []).flatMap((target) => home.get(target) ?? []);
      const line = at.length > 0 ? Math.min(...at) : Math.max(0, lines.length - 1);
      home.set(id, line);
      needs[line] = (needs[line] ?? 0) + 1;
    }
    waiting = waiting.filter((id) => !home.has(id));
  }
  return needs;
}

/** A row further down is worth less than a column aside; a place that is not beneath costs more than both. */
const DOWN = 0.7;
const NOT_BENEATH = 1.4;
const BLOCKED = 0.25;
/** What has stood there before, seen from what it steers, stays where it is no worse by so much. */
const HABIT = 1;

class Steering {
  constructor(
    private readonly plan: Plan,
    private readonly columns: number,
    private readonly rows: number,
    private readonly before: Cells,
  ) {}

  put(cells: Map<string, Cell>): void {
    const taken = new Set([...cells.values()].map(keyOf));
    let waiting = this.plan.steering;
    while (waiting.length > 0) {
      const id = this.next(waiting, cells);
      const cell = this.best(id, cells, taken);
      cells.set(id, cell);
      taken.add(keyOf(cell));
      waiting = waiting.filter((one) => one !== id);
    }
  }

  /** What steers only what has its place comes first, and of that what stood there before, and what steers least. */
  private next(waiting: string[], cells: Cells): string {
    let [best, least] = ["", Infinity];
    for (const id of waiting) {
      const targets = this.targets(id);
      const known = targets.filter((one) => cells.has(one)).length;
      const isNew = this.before.size > 0 && !this.before.has(id) ? 500 : 0;
      const order = (known === 0 ? 1e6 : 0) + 1e3 * (targets.length - known) + isNew + known;
      if (order < least) [best, least] = [id, order];
    }
    return best;
  }

  private readonly targets = (id: string) => this.plan.targets.get(id) ?? [];

  private best(id: string, cells: Cells, taken: Set<string>): Cell {
    let best: (Cell & { cost: number }) | undefined;
    const targets = this.targets(id).flatMap((target) => cells.get(target) ?? []);
    const habit = this.habit(id, cells);
    for (let row = 0; row < this.rows; row++) {
      for (let column = 0; column < this.columns; column++) {
        const cell = { column, row };
        if (taken.has(keyOf(cell))) continue;
        const kept = habit && habit.column === column && habit.row === row ? HABIT : 0;
        const cost = costOf(cell, targets, taken) - kept;
        if (!best || cost < best.cost) best = { column, row, cost };
      }
    }
    return best ? { column: best.column, row: best.row } : this.below(taken);
  }

  /** Where a module stood before, seen from the first thing that it steers. */
  private habit(id: string, cells: Cells): Cell | undefined {
    const target = this.targets(id).find((one) => cells.has(one) && this.before.has(one));
    const [was, then] = [this.before.get(id), this.before.get(target ?? "")];
    const now = cells.get(target ?? "");
    if (!was || !then || !now) return undefined;
    return { column: now.column + was.column - then.column, row: now.row + was.row - then.row };
  }

  private below(taken: Set<string>): Cell {
    let place = this.rows * this.columns;
    const cell = () => ({ column: place % this.columns, row: Math.floor(place / this.columns) });
    while (taken.has(keyOf(cell()))) place++;
    return cell();
  }
}

const keyOf = ({ column, row }: Cell) => `${column},${row}`;

function costOf(cell: Cell, targets: Cell[], taken: Set<string>): number {
  const order = 0.02 * cell.row + 0.01 * cell.column;
  const costs = targets.map((target) => {
    const down = cell.row - target.row;
    const aside = Math.abs(cell.column - target.column);
    if (down < 1) return aside + NOT_BENEATH - 0.9 * down;
    const between = Array.from({ length: down - 1 }, (_, n) =>
      keyOf({ column: cell.column, row: target.row + 1 + n }),
    );
    const blocked = aside === 0 && between.some((one) => taken.has(one)) ? BLOCKED : 0;
    return aside + DOWN * (down - 1) + blocked;
  });
  const total = costs.reduce((sum, cost) => sum + cost, 0);
  return order + total / Math.max(1, targets.length) ** 0.7;
}
