import type { Connection, Patch } from "../api/client";
import { carriesSound, type Catalogue, inputOf, split } from "../api/patch";
import { depthText } from "../ui/units";
import type { Cell, Cells } from "./place";

export type Kind = "audio" | "control" | "pitch" | "gate";

/** Lines run only between the cards: `across` lanes lie above a row, `upright` lanes left of a column. */
export interface Lane {
  way: "across" | "upright";
  at: number;
}

/** How a line runs from a card to a card, before anything is measured in pixels. */
export interface Route {
  key: string;
  net: string;
  kind: Kind;
  connections: Connection[];
  from: string;
  to: string;
  exit: "right" | "top";
  entry: "left" | "bottom";
  lanes: Lane[];
  label: string;
}

export function routes(patch: Patch, catalogue: Catalogue, cells: Cells): Route[] {
  const groups = new Map<string, Connection[]>();
  for (const connection of patch.connections) {
    const key = groupKey(connection);
    groups.set(key, [...(groups.get(key) ?? []), connection]);
  }
  const plain = [...groups].flatMap(([key, group]) => routeOf(patch, catalogue, cells, key, group) ?? []);
  return [...plain, ...scalings(patch, catalogue, cells)];
}

/** Both sides of the output are one line when the same output feeds them to the same depth. */
function groupKey(connection: Connection): string {
  const [module, port] = split(connection.to);
  const side = port === "left" || port === "right" ? "both" : port;
  return `${connection.from}>${module}.${side}@${connection.depth}`;
}

function routeOf(
  patch: Patch,
  catalogue: Catalogue,
  cells: Cells,
  key: string,
  connections: Connection[],
): Route | undefined {
  const connection = connections[0];
  const from = connection && split(connection.from)[0];
  const to = connection && split(connection.to)[0];
  const source = cells.get(from ?? "");
  const target = cells.get(to ?? "");
  const input = connection && inputOf(patch, connection.to, catalogue);
  if (!connection || from === undefined || to === undefined || !source || !target || !input) return undefined;
  const sound = carriesSound(patch, connection, catalogue);
  const entry = sound || (input.kind === "gate" && target.row > 0) ? "left" : "bottom";
  const exit = target.row < source.row && source.row > 0 ? "top" : "right";
  return {
    key,
    net: connection.from,
    kind: input.kind,
    connections,
    from,
    to,
    exit,
    entry,
    lanes: lanes(source, target, exit, entry, cells),
    label: labelOf(connections, input.kind, input.name, input.depth_unit),
  };
}

/** What scales a connection reaches the same input by a line of its own. */
function scalings(patch: Patch, catalogue: Catalogue, cells: Cells): Route[] {
  return patch.connections.flatMap((connection) => {
    if (!connection.scaled_by) return [];
    const from = split(connection.scaled_by)[0];
    const to = split(connection.to)[0];
    const source = cells.get(from);
    const target = cells.get(to);
    const name = inputOf(patch, connection.to, catalogue)?.name ?? "";
    if (!source || !target) return [];
    const exit = target.row < source.row && source.row > 0 ? "top" : "right";
    return {
      key: `${connection.from}>${connection.to}*${connection.scaled_by}`,
      net: connection.scaled_by,
      kind: "control" as const,
      connections: [connection],
      from,
      to,
      exit,
      entry: "bottom" as const,
      lanes: lanes(source, target, exit, "bottom", cells),
      label: `scales ${name}`,
    };
  });
}

function lanes(source: Cell, target: Cell, exit: string, entry: string, cells: Cells): Lane[] {
  const across = (at: number): Lane => ({ way: "across", at });
  const upright = (at: number): Lane => ({ way: "upright", at });
  if (exit === "top") {
    if (entry === "left") return [across(source.row), upright(target.column)];
    if (source.row === target.row + 1) return [across(source.row)];
    return [across(source.row), upright(target.column), across(target.row + 1)];
  }
  const out = upright(source.column + 1);
  if (entry === "bottom") return [out, across(target.row + 1)];
  if (target.column === source.column + 1 || clear(source, target, cells)) return [out];
  return [out, across(Math.max(source.row, target.row)), upright(target.column)];
}

/** Whether nothing stands between two cards of one row. */
function clear(source: Cell, target: Cell, cells: Cells): boolean {
  if (source.row !== target.row || target.column <= source.column) return false;
  return ![...cells.values()].some(
    (cell) => cell.row === source.row && cell.column > source.column && cell.column < target.column,
  );
}

function labelOf(connections: Connection[], kind: Kind, name: string, unit: string): string {
  const connection = connections[0];
  const depth = connection?.depth ?? 1;
  if (kind === "audio") return depth === 1 ? "" : `× ${depth}`;
  if (kind === "gate") return depth === 1 ? name : `${name} × ${depth}`;
  if (kind === "pitch" && depth === 1 && connection?.from.endsWith(".pitch")) return "pitch, follows";
  return `${name} ${depthText(depth, unit)}`;
}
