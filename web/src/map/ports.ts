import { cornerOf, type Grid, type Point } from "./grid";
import type { Route } from "./route";

const INDENT = 13;
const BESIDE = 14;
const ABOVE = 13;
const EDGE = 8;
/** Where sound leaves downwards and comes in from above, beside what steers. */
const ASIDE = 0.78;

/** Where on a card's edge each line leaves and arrives. */
export class Ports {
  private readonly places = new Map<string, [place: number, count: number]>();
  private readonly exits = new Map<string, number>();

  constructor(
    found: Route[],
    private readonly grid: Grid,
  ) {
    for (const id of grid.cells.keys()) {
      const here = found.filter((route) => route.to === id);
      this.order(
        here.filter((route) => route.entry === "left"),
        id,
      );
      this.order(
        here.filter((route) => route.entry === "bottom"),
        id,
      );
    }
    this.placeExits(found);
  }

  /** Lines of one net arrive at one place; the others side by side, in the order from which they come. */
  private order(here: Route[], id: string): void {
    const cell = this.grid.cells.get(id);
    const from = (route: Route) => this.grid.cells.get(route.from) ?? { column: 0, row: 0 };
    const key = (route: Route) =>
      route.entry === "left" ? from(route).row - (cell?.row ?? 0) : from(route).column;
    const nets = new Map<string, Route[]>();
    for (const route of here.toSorted((a, b) => key(a) - key(b) || a.key.localeCompare(b.key))) {
      const net = route.net.startsWith(">") ? route.net : route.key;
      nets.set(net, [...(nets.get(net) ?? []), route]);
    }
    // what comes along the line of the card itself goes straight in, the others beside it
    const groups = [...nets.values()];
    const straight = groups.findIndex((group) => group.some((route) => key(route) === 0));
    const middle = here[0]?.entry !== "left" ? 0 : straight >= 0 ? straight : (groups.length - 1) / 2;
    groups.forEach((group, n) =>
      group.forEach((route) => this.places.set(route.key, [n - middle, groups.length])),
    );
  }

  entry(route: Route): Point {
    const at = this.cornerOf(route.to);
    const [place, count] = this.places.get(route.key) ?? [0, 1];
    const { width, height } = this.grid.card;
    if (route.entry === "top") return { x: at.x + ASIDE * width, y: at.y };
    if (route.entry === "left") {
      const beside = Math.min(ABOVE, (height / 2 - EDGE) / Math.max(1, count - 1));
      return { x: at.x, y: at.y + height / 2 + place * beside };
    }
    const beside = Math.min(BESIDE, (width - 2 * EDGE) / count);
    return { x: at.x + INDENT + place * beside, y: at.y + height };
  }

  exit(route: Route): Point {
    const at = this.cornerOf(route.from);
    const { width, height } = this.grid.card;
    if (route.exit === "right") return { x: at.x + width, y: at.y + height / 2 };
    if (route.exit === "bottom") return { x: at.x + ASIDE * width, y: at.y + height };
    return { x: this.exits.get(`${route.from}|${route.net}`) ?? at.x + INDENT, y: at.y };
  }

  private cornerOf(id: string): Point {
    const cell = this.grid.cells.get(id);
    return cell ? cornerOf(this.grid, cell) : { x: 0, y: 0 };
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
      const left = this.cornerOf(route.from).x;
      const goal = this.entry(route).x;
      const count = Math.max(2, Math.floor((this.grid.card.width - 2 * EDGE) / BESIDE));
      const slots = Array.from({ length: count }, (_, n) => left + INDENT + n * BESIDE);
      const free = slots.filter((slot) => here.every((x) => Math.abs(x - slot) >= BESIDE - 1));
      const nearest = free.toSorted((a, b) => Math.abs(a - goal) - Math.abs(b - goal))[0];
      const x = straight(route) && here.every((one) => Math.abs(one - goal) >= 10) ? goal : (nearest ?? left);
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
