import type { Connection, Ends, Patch } from "../api/client";
import { lineKey, split } from "../api/patch";

/** What a module depends on and what depends on it. */
export interface Flow {
  modules: Set<string>;
  lines: Set<string>;
}

/** Everything upstream and downstream of a module, or of both ends of a connection. */
export function flowOf(patch: Patch, place: string | Ends | undefined): Flow | undefined {
  if (place === undefined) return undefined;
  const flow: Flow = { modules: new Set(), lines: new Set() };
  const [up, down] = typeof place === "string" ? [place, place] : [split(place.from)[0], split(place.to)[0]];
  if (typeof place !== "string") flow.lines.add(lineKey(place));
  follow(patch, up, flow, (one) => one.to, sourcesOf);
  follow(
    patch,
    down,
    flow,
    (one) => one.from,
    (one) => [one.to],
  );
  return flow;
}

/** Only the modules next to one, for a close-up. */
export function neighbours(patch: Patch, module: string): Set<string> {
  const found = new Set([module]);
  for (const one of patch.connections) {
    const ends = [...sourcesOf(one), one.to].map((port) => split(port)[0]);
    if (ends.includes(module)) ends.forEach((id) => found.add(id));
  }
  return found;
}

const sourcesOf = (one: Connection) => (one.scaled_by ? [one.from, one.scaled_by] : [one.from]);

function follow(
  patch: Patch,
  start: string,
  flow: Flow,
  near: (one: Connection) => string,
  far: (one: Connection) => string[],
): void {
  const waiting = [start];
  const seen = new Set<string>();
  for (let here = waiting.pop(); here !== undefined; here = waiting.pop()) {
    if (seen.has(here)) continue;
    seen.add(here);
    flow.modules.add(here);
    for (const one of patch.connections) {
      const nearEnds = near(one) === one.to ? [one.to] : sourcesOf(one);
      if (!nearEnds.some((port) => split(port)[0] === here)) continue;
      flow.lines.add(lineKey(one));
      waiting.push(...far(one).map((port) => split(port)[0]));
    }
  }
}
