/** What is pure in the pages, to be called with many cases. */

import "./window";

import type {
  Edit,
  ModuleType,
  Patch,
  RulerType,
  Value,
} from "../../web/src/api/client";
import {
  Kept,
  type Sending,
  type There,
  type Trouble,
} from "../../web/src/api/kept";
import { settingsSince, withSetting } from "../../web/src/api/changes";
import { fitOf, wishIn } from "../../web/src/bench/find";
import { StepHistory } from "../../web/src/bench/history";
import { Moves } from "../../web/src/bench/moves";
import { noteOf } from "../../web/src/live/letters";
import type { Live } from "../../web/src/live/live";
import { Hearing, SCRIPT } from "../../web/src/live/midi";
import { closeLayout, layout, layoutKey } from "../../web/src/map/layout";
import { shownOf } from "../../web/src/map/sections";
import { controlsOf } from "../../web/src/phrase/controls";
import {
  atLevers,
  fitted,
  type Note,
  strikeAt,
} from "../../web/src/phrase/phrases";
import { settled, travelOf } from "../../web/src/ui/travel";
import {
  noteText,
  parsed,
  tickText,
  trimmed,
  withUnit,
} from "../../web/src/ui/units";

const DESK = { width: 632, height: 386 };

/** A map as it is drawn in some room and from near, and what it is laid out by. */
function mapOf(patch: Patch, types: ModuleType[], room = DESK) {
  const shown = shownOf(patch, new Map(types.map((type) => [type.name, type])));
  return {
    key: layoutKey(shown.patch),
    drawings: [layout, closeLayout].map((laid) =>
      laid(shown.patch, shown.catalogue, room),
    ),
  };
}

/** Where cards stand, column and row, in a patch and in what has become of it by an edit. */
function mapAfter(patches: Patch[], types: ModuleType[], room = DESK) {
  const catalogue = new Map(types.map((type) => [type.name, type]));
  let before: ReturnType<typeof layout> | undefined;
  return patches.map((patch) => {
    const shown = shownOf(patch, catalogue);
    before = layout(shown.patch, shown.catalogue, room, before);
    return Object.fromEntries(
      [...before.cells].map(([id, { column, row }]) => [id, [column, row]]),
    );
  });
}

/** Where values lie on a ruler, and which values the places have again. */
function travelled(ruler: RulerType, values: number[]) {
  const { place, value, ticks } = travelOf(ruler);
  const places = values.map(place);
  return {
    places,
    back: places.map(value),
    ticks,
    settled: values.map((one) => settled(ruler, one)),
  };
}

const LONGEST_CHAIN = 24;

/** Lets all that waits for a promise go on. */
async function turn(): Promise<void> {
  for (let n = 0; n < LONGEST_CHAIN; n++) await Promise.resolve();
}

/** Timers that ring when they are told to. */
class Clock {
  private readonly waiting = new Map<number, () => void>();
  private count = 0;

  take(): () => void {
    const real = { set: globalThis.setTimeout, clear: globalThis.clearTimeout };
    const set = (ring: () => void) =>
      this.waiting.set(++this.count, ring) && this.count;
    const clear = (id: number) => this.waiting.delete(id);
    Object.assign(globalThis, { setTimeout: set, clearTimeout: clear });
    return () =>
      Object.assign(globalThis, {
        setTimeout: real.set,
        clearTimeout: real.clear,
      });
  }

  ring(): void {
    const now = [...this.waiting.values()];
    this.waiting.clear();
    now.forEach((ring) => ring());
  }
}

type Content = Record<string, number>;
type KeptOp =
  ["change" | "theirs" | "release", Content] | ["decide", Side] | [string];
type Side = "theirs" | "mine";

/** What two people have changed of one thing in the same way cannot stand together. */
class Clash extends Error {
  constructor(readonly keys: string[]) {
    super("conflict");
  }
}

/**
 * A server that keeps one thing, and changes that are on their way to it, to be answered one by one. It brings each
 * together with what others have changed, part by part; what is said twice is done once.
 */
class Place {
  content: Content = {};
  version = 1;
  readonly asked: { part: Content; answer: (how: string) => void }[] = [];
  private readonly states: Content[] = [{}, {}];
  private readonly done = new Set<string>();

  send = (wish: Sending<Content>) =>
    new Promise<There<Content>>((resolve, reject) => {
      const answer = (how: string) => {
        const told = how === "take" || how === "lose" ? this.meet(wish) : how;
        if (how === "take" && told === undefined) resolve(this.there());
        else
          reject(typeof told === "object" ? told : new Error(told ?? "failed"));
      };
      this.asked.push({ part: wish.part as Content, answer });
    });

  there(): There<Content> {
    return {
      value: { ...this.content },
      version: this.version,
      at: `${this.version}`,
    };
  }

  meet({
    part,
    base,
    version,
    choices,
    request,
  }: Sending<Content>): Clash | undefined {
    if (this.done.has(request)) return undefined;
    const then = { ...this.states[version], ...base };
    const theirs = Object.keys(part).filter(
      (key) =>
        this.content[key] !== then[key] && this.content[key] !== part[key],
    );
    const open = theirs.filter(
      (key) => !choices[`${key}=${this.content[key]}`],
    );
    if (open.length > 0) return new Clash(open);
    const kept = theirs.filter(
      (key) => choices[`${key}=${this.content[key]}`] === "theirs",
    );
    this.write(
      Object.fromEntries(
        Object.entries(part).filter(([key]) => !kept.includes(key)),
      ) as Content,
    );
    this.done.add(request);
    return undefined;
  }

  write(part: Content): void {
    if (
      Object.entries(part).every(([key, value]) => this.content[key] === value)
    )
      return;
    this.content = { ...this.content, ...part };
    this.states[++this.version] = this.content;
  }

  troubleOf = (error: unknown): Trouble => {
    const { message } = error as Error;
    return message === "conflict" || message === "refused" || message === "gone"
      ? message
      : "failed";
  };
}

/**
 * Plays a course of events with something that is kept. The server takes what it gets ("take"), keeps it and lets the
 * answer be lost ("lose"), or refuses it; somebody else writes there ("theirs"), which is shown here at once ("see");
 * what both have changed is decided ("decide"); sending is held while something is done there, until that is done
 * ("hold", "release"). After each: what is said of it, what stands here and there, and what is asked.
 */
async function keptThrough(ops: KeptOp[]) {
  const clock = new Clock();
  const free = clock.take();
  const place = new Place();
  const kept = new Kept<Content>({}, 1, place, () => undefined);
  const asked = () =>
    kept.state === "conflict" ? (kept.trouble as Clash).keys : [];
  let release: ((there: There<Content>) => void) | undefined;
  const course = [];
  for (const [op, content = {}] of ops) {
    if (op === "change") kept.change(content as Content);
    else if (op === "ring") clock.ring();
    else if (op === "theirs") place.write(content as Content);
    else if (op === "see") kept.meet({ ...place.content }, place.version);
    else if (op === "back") kept.goOn();
    else if (op === "decide")
      kept.decide(
        Object.fromEntries(
          asked().map((key) => [
            `${key}=${place.content[key]}`,
            content as unknown as Side,
          ]),
        ),
      );
    else if (op === "hold")
      void kept.during(
        ["title"],
        () => new Promise((done) => (release = done)),
      );
    else if (op === "release") {
      place.write(content as Content);
      release?.(place.there());
    } else place.asked.shift()?.answer(op);
    await turn();
    const { state, value, message } = kept;
    const sending = place.asked.map((one) => one.part);
    course.push({
      state,
      value,
      message: message ?? null,
      sending,
      asked: asked(),
      there: { ...place.content },
    });
  }
  free();
  return course;
}

type MoveOp =
  | ["apply" | "fail"]
  | ["set", string, string, number]
  | ["undo"]
  | ["redo"]
  | ["answer"];

/** Plays moves at a bench; the worker gives the patches of a list one by one. After each: what stands there. */
async function movedThrough(start: Patch, results: Patch[], ops: MoveOp[]) {
  const phrase = { title: "", beats: 4, tempo: 120, notes: [], gestures: [] };
  const played = { patch: start, phrase } as unknown as {
    patch: Patch;
    phrase: never;
  };
  const waiting: (() => void)[] = [];
  const ways: boolean[] = [];
  const coming = [...results];
  const work = (_: Patch, edits: Edit[]) =>
    new Promise<{ patch: Patch; touched: string[] }>((resolve, reject) => {
      waiting.push(() => {
        const patch = ways.shift() ? coming.shift() : undefined;
        if (patch) resolve({ patch, touched: edits.map((one) => one.kind) });
        else reject(new Error("no"));
      });
    });
  const history = new StepHistory(undefined, played);
  const moves = new Moves(history, played, work);
  let shown: { patch: Patch } = played;
  moves.listen({ onChange: (now) => (shown = now) });
  const course = [];
  for (const [op, ...rest] of ops) {
    if (op === "apply" || op === "fail") {
      ways.push(op === "apply");
      void moves.apply([{ kind: "voices", voices: 1 }]);
    } else if (op === "set") moves.set(...(rest as [string, string, number]));
    else if (op === "answer") waiting.shift()?.();
    else moves[op as "undo" | "redo"]();
    await turn();
    const { working, failure } = moves.state.getState();
    course.push({
      patch: shown.patch,
      working,
      failed: failure !== undefined,
      steps: history.steps(),
    });
  }
  return course;
}

type Setting = [module: string, setting: string, value: Value];

const withAll = (patch: Patch, changes: Setting[]) =>
  changes.reduce((now, change) => withSetting(now, ...change), patch);

/** A patch after some settings, what the page would send of it, and what of one whose wiring is another too. */
function setTo(patch: Patch, changes: Setting[]) {
  const after = withAll(patch, changes);
  const rewired = { ...after, connections: after.connections.slice(1) };
  return {
    after,
    sent: settingsSince(patch, after),
    more: settingsSince(patch, rewired),
  };
}

/** Two patches made of one that had been set already, and what would be sent where one of them is known. */
function setApart(
  patch: Patch,
  shared: Setting[],
  one: Setting[],
  other: Setting[],
) {
  const common = withAll(patch, shared);
  const [known, shown] = [withAll(common, one), withAll(common, other)];
  return { known, shown, sent: settingsSince(known, shown) };
}

/** What is sent of each setting while the server still answers those before, and has a patch of its own each time. */
async function setOneByOne(patch: Patch, changes: Setting[]) {
  const sent: unknown[] = [];
  let kept: Kept<{ patch: Patch }>;
  let there = patch;
  const send = async ({
    part,
    there: base,
    version,
  }: Sending<{ patch: Patch }>) => {
    const wish = part.patch ?? there;
    const settings = settingsSince(base.patch, wish);
    sent.push({ settings, patch: wish });
    there = structuredClone(wish);
    const next = changes[sent.length];
    if (next) kept.change({ patch: withSetting(kept.value.patch, ...next) });
    return { value: { patch: there }, version: version + 1, at: "" };
  };
  kept = new Kept({ patch }, 1, { send, troubleOf: () => "failed" }, () => {});
  const first = changes[0];
  if (first) kept.change({ patch: withSetting(patch, ...first) });
  for (let n = 0; n <= changes.length; n++) await kept.send();
  kept.letGo();
  return sent;
}

/** The types of modules that are found by what somebody types, the best first. */
const wishedBy = (typed: string, types: ModuleType[]) =>
  types.flatMap((type) => {
    const wish = wishIn(type, typed)?.wish;
    return wish && fitOf(type, typed) > 0
      ? [[type.name, wish.setting, wish.option]]
      : [];
  });

const foundBy = (typed: string, types: ModuleType[]) =>
  types
    .map(({ name, ...type }) => ({
      name,
      fit: fitOf({ name, ...type }, typed),
    }))
    .filter(({ fit }) => fit > 0)
    .toSorted((a, b) => b.fit - a.fit)
    .map(({ name }) => name);

/** What a series of MIDI messages plays; a text between them lets a lever learn. */
function heardOf(messages: (number[] | string)[]): unknown[] {
  const calls: unknown[] = [];
  const note =
    (what: string) =>
    (...values: unknown[]) =>
      calls.push([what, ...values]);
  const names = ["press", "release", "move", "beat", "silence"] as const;
  const live = Object.fromEntries(names.map((name) => [name, note(name)]));
  const hearing = new Hearing(live as unknown as Live);
  for (const one of messages)
    if (typeof one === "string") hearing.learn(one);
    else hearing.hear(one);
  return calls;
}

/** What the script of the simulated keyboard plays within a round, and how many ticks that has. */
const scriptHeard = () => ({
  heard: heardOf([...SCRIPT.values()].flat()),
  last: Math.max(...SCRIPT.keys()),
});

/** A lever as a player has it in reach: where it rests, how that reads, what it puts out, and where values lie. */
function leverOf(
  patch: Patch,
  types: ModuleType[],
  positions: number[],
  values: number[],
) {
  const catalogue = new Map(types.map((type) => [type.name, type]));
  const [, , lever] = controlsOf(patch, catalogue);
  if (!lever) return undefined;
  return {
    rest: lever.rest,
    read: withUnit(lever.valueAt(lever.rest), lever.ruler.unit),
    values: positions.map(lever.valueAt),
    positions: values.map(lever.positionOf),
  };
}

const TRIED = {
  atLevers,
  leverOf,
  heardOf,
  noteOf: (code: string) => noteOf(code),
  scriptHeard,
  foundBy,
  wishedBy,
  fitted: (note: Note, beats: number) => fitted(note, beats),
  keptThrough,
  mapAfter,
  mapOf,
  movedThrough,
  noteText,
  parsed,
  setApart,
  setOneByOne,
  setTo,
  tickText,
  strikeAt,
  travelled,
  trimmed,
  withUnit,
};

/** Answers {name, cases} with the results, both as JSON. */
export async function answer(wish: string): Promise<string> {
  const { name, cases } = JSON.parse(wish) as {
    name: keyof typeof TRIED;
    cases: never[][];
  };
  const results = [];
  for (const one of cases)
    results.push(await (TRIED[name] as (...args: never[]) => unknown)(...one));
  return JSON.stringify(results, (_, value: unknown) =>
    value === undefined ? null : value,
  );
}
