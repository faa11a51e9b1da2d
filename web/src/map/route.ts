import type { Connection, Patch } from "../api/client";
import { carriesSound, type Catalogue, inputOf, split } from "../api/patch";
import { depthText } from "../ui/units";
import type { Cell, Cells } from "./place";

export type SignalKind = "audio" | "control" | "pitch" | "gate";

/** Lines run only between the cards: `across` lanes lie above a row, `upright` lanes left of a column. */
export interface Lane {
  way: "across" | "upright";
  at: number;
}

/** How a line runs from a card to a card, before anything is measured in pixels. */
export interface Route {
  key: string;
  /** Lines of one net may lie on each other: they come from one output, or are summed at one place. */
  net: string;
  kind: SignalKind;
  connections: Connection[];
  from: string;
  to: string;
  exit: "right" | "top" | "bottom";
  entry: "left" | "bottom" | "top";
  lanes: Lane[];
  /** What stands beside it: the whole, and where there is no room for that, the depth alone. */
  labels: string[];
}

export function routes(patch: Patch, catalogue: Catalogue, cells: Cells): Route[] {
  const groups = new Map<string, Connection[]>();
  for (const connection of patch.connections) {
    const key = groupKey(connection);
    groups.set(key, [...(groups.get(key) ?? []), connection]);
  }
  const plain = [...groups].flatMap(([key, group]) => routeOf(patch, catalogue, cells, key, group) ?? []);
  return braced([...plain, ...scalings(patch, catalogue, cells)]);
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
  return {
    key,
    net: connection.from,
    kind: input.kind,
    connections,
    from,
    to,
    ...way(source, target, sound, cells),
    labels: labelsOf(connections, input.kind, input.name, input.depth_unit),
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
    return {
      key: `${connection.from}>${connection.to}*${connection.scaled_by}`,
      net: connection.scaled_by,
      kind: "control" as const,
      connections: [connection],
      from,
      to,
      ...way(source, target, false, cells),
      labels: [`scales ${name}`],
    };
  });
}

/** Sounds that are summed as they are meet on one line before the card that they go into. */
function braced(found: Route[]): Route[] {
  const plain = found.filter((route) => route.entry === "left" && route.labels.length === 0);
  const isBraced = (route: Route) =>
    plain.includes(route) &&
    plain.some((one) => one !== route && one.to === route.to) &&
    found.every((one) => one === route || one.net !== route.net);
  return found.map((route) => (isBraced(route) ? { ...route, net: `>${route.to}` } : route));
}

type Way = Pick<Route, "exit" | "entry" | "lanes">;

/** Sound goes from left to right into the left edge, what steers comes from beneath. */
function way(source: Cell, target: Cell, sound: boolean, cells: Cells): Way {
  const across = (at: number): Lane => ({ way: "across", at });
  const upright = (at: number): Lane => ({ way: "upright", at });
  if (sound && source.column === target.column && target.row === source.row + 1)
    return { exit: "bottom", entry: "top", lanes: [across(target.row)] };
  if (sound) {
    const out = upright(source.column + 1);
    const next = target.column === source.column + 1 || clear(source, target, cells);
    const around = [out, across(Math.max(source.row, target.row)), upright(target.column)];
    return { exit: "right", entry: "left", lanes: next ? [out] : around };
  }
  const entry = "bottom";
  if (target.row >= source.row)
    return { exit: "right", entry, lanes: [upright(source.column + 1), across(target.row + 1)] };
  if (source.row === target.row + 1) return { exit: "top", entry, lanes: [across(source.row)] };
  const lanes = [across(source.row), upright(target.column), across(target.row + 1)];
  return { exit: "top", entry, lanes };
}

/** Whether nothing stands between two cards of one row. */
function clear(source: Cell, target: Cell, cells: Cells): boolean {
  if (source.row !== target.row || target.column <= source.column) return false;
  return ![...cells.values()].some(
    (cell) => cell.row === source.row && cell.column > source.column && cell.column < target.column,
  );
}

/** What a line says by which a pitch is played; it is written where there is room. */
export const FOLLOWS = "pitch, follows";

function labelsOf(connections: Connection[], kind: SignalKind, name: string, unit: string): string[] {
  const connection = connections[0];
  const depth = connection?.depth ?? 1;
  if (kind === "audio") return depth === 1 ? [] : [`× ${depth}`];
  if (kind === "gate") return depth === 1 ? [name] : [`${name} × ${depth}`, `× ${depth}`];
  if (kind === "pitch" && depth === 1 && connection?.from.endsWith(".pitch")) return [FOLLOWS, "pitch"];
  return [`${name} ${depthText(depth, unit)}`, depthText(depth, unit)];
}
