import type { Cells } from "./place";
import type { Lane, Route } from "./route";

const laneKey = (lane: Lane) => `${lane.way}${lane.at}`;

/** Which track each line has within each lane that it uses. */
export class Tracks {
  private readonly tracks = new Map<string, number>();
  private readonly counts = new Map<string, number>();

  put(route: Route, place: number, lane: Lane, track: number): void {
    this.tracks.set(`${route.key}#${place}`, track);
    this.counts.set(laneKey(lane), Math.max(this.count(lane), track + 1));
  }

  of = (route: Route, place: number): number => this.tracks.get(`${route.key}#${place}`) ?? 0;

  /** How many tracks a lane has. */
  count = (lane: Lane): number => this.counts.get(laneKey(lane)) ?? 0;
}

/** Gives every line its own track within each lane; lines of one net share one. */
export function assignTracks(found: Route[], cells: Cells): Tracks {
  const tracks = new Tracks();
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
      tracks.put(route, place, lane, track);
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
