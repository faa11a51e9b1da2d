import { temporal } from "zundo";
import { createStore } from "zustand/vanilla";

import { client, got, type Patch, type Phrase } from "../api/client";

const JOINED_MS = 700;
const PAGE = 200;

/** A patch and the phrase that exercises it. */
export interface Played {
  patch: Patch;
  phrase: Phrase;
}

/** Counts how often a pointer has been pressed, so that all that one drag does is one step, however slow it is. */
const pointer = { presses: 0, down: false };
window.addEventListener(
  "pointerdown",
  () => Object.assign(pointer, { presses: pointer.presses + 1, down: true }),
  true,
);
for (const end of ["pointerup", "pointercancel"])
  window.addEventListener(end, () => (pointer.down = false), true);

const same = (a: Played, b: Played) =>
  JSON.stringify(a.patch) === JSON.stringify(b.patch) &&
  JSON.stringify(a.phrase) === JSON.stringify(b.phrase);

/** What a change makes of a patch that it was not made in. */
type Merge = (before: Patch, after: Patch, patch: Patch) => Promise<Patch>;

const askMerge: Merge = async (before, after, patch) => {
  const text = JSON.stringify(before);
  if (text === JSON.stringify(after)) return patch;
  if (text === JSON.stringify(patch)) return after;
  return got(client.POST("/api/patches/merge", { body: { base: before, early: after, late: patch } }));
};

/** A phrase with those parts of another that differ from what that one was before. */
const withChanges = (before: Phrase, after: Phrase, phrase: Phrase): Phrase => ({
  ...phrase,
  ...Object.fromEntries(
    Object.entries(after).filter(
      ([key, value]) => JSON.stringify(before[key as keyof Phrase]) !== JSON.stringify(value),
    ),
  ),
});

/**
 * The states that a step's patch and phrase have had, for undo and redo. What was changed in this session is known at once;
 * what came before is fetched from the step's history on the server when somebody goes back that far.
 */
export class StepHistory {
  private readonly store;
  private oldest: number | undefined;
  private exhausted: boolean;
  private joining: { kind: string; until: number; press: number } | undefined;

  /** What others have changed, one after the other, and how much of that a state has that was left. */
  private readonly along: { before: Played; after: Played }[] = [];
  private readonly gone = new WeakMap<Played, number>();

  constructor(
    private readonly older: Older | undefined,
    played: Played,
    private readonly merge: Merge = askMerge,
  ) {
    this.exhausted = older === undefined;
    this.store = createStore<Played>()(temporal(() => played, { equality: same }));
  }

  /** Notes a new state. Changes of one kind in quick succession are one, and all that one drag does. */
  note(played: Played, kind?: string): void {
    const now = performance.now();
    const { joining } = this;
    const sameDrag = pointer.down && joining?.press === pointer.presses;
    const joins = kind !== undefined && joining?.kind === kind && (now < joining.until || sameDrag);
    const track = this.store.temporal.getState();
    if (joins) track.pause();
    this.store.setState(played);
    if (joins) track.resume();
    this.gone.set(this.store.getState(), this.along.length);
    this.joining = kind === undefined ? undefined : { kind, until: now + JOINED_MS, press: pointer.presses };
  }

  /** Takes note of what was made of it elsewhere on the page. */
  meet(played: Played): void {
    if (!same(this.store.getState(), played)) this.note(played);
  }

  /** Lets all states have what others have changed: undo takes back only what was done here. */
  goAlong(before: Played, after: Played): void {
    if (same(before, after)) return;
    const isThere = same(this.store.getState(), before);
    this.along.push({ before, after });
    if (isThere) this.put({ patch: after.patch, phrase: after.phrase });
  }

  async undo(): Promise<Played | undefined> {
    if (this.store.temporal.getState().pastStates.length === 0) await this.fetchOlder();
    return this.travel("undo");
  }

  redo(): Promise<Played | undefined> {
    return this.travel("redo");
  }

  canUndo = (): boolean => !this.exhausted || this.store.temporal.getState().pastStates.length > 0;
  /** How many changes of this session can be taken back. */
  steps = (): number => this.store.temporal.getState().pastStates.length;
  canRedo = (): boolean => this.store.temporal.getState().futureStates.length > 0;

  subscribe = (listener: () => void): (() => void) => this.store.temporal.subscribe(listener);

  private async travel(way: "undo" | "redo"): Promise<Played | undefined> {
    const track = this.store.temporal.getState();
    const state = (way === "undo" ? track.pastStates : track.futureStates).at(-1);
    if (!state) return undefined;
    const here = await this.broughtUp(state as Played);
    track[way]();
    this.joining = undefined;
    this.put(here);
    return here;
  }

  /** A state with what others have changed since it was left. */
  private async broughtUp(state: Played): Promise<Played> {
    let now = state;
    for (const { before, after } of this.along.slice(this.gone.get(state) ?? 0)) {
      const patch = await this.merge(before.patch, after.patch, now.patch);
      now = { patch, phrase: withChanges(before.phrase, after.phrase, now.phrase) };
    }
    return now;
  }

  /** Puts a state in the place of the present one; that is no step that could be taken back. */
  private put(played: Played): void {
    const track = this.store.temporal.getState();
    track.pause();
    this.store.setState(played);
    track.resume();
    this.gone.set(this.store.getState(), this.along.length);
  }

  /** Puts the states that the server remembers, and that differ from each other, before the present one. */
  private async fetchOlder(): Promise<void> {
    while (this.older && !this.exhausted && this.store.temporal.getState().pastStates.length === 0) {
      const rows = await this.older(this.oldest, this.store.getState());
      this.exhausted = rows.length < PAGE;
      this.oldest = rows.at(-1)?.version;
      const past: Played[] = [];
      let later = this.store.getState();
      for (const { played } of rows) {
        if (same(played, later)) continue;
        later = played;
        past.unshift(later);
      }
      this.store.temporal.setState({ pastStates: past });
    }
  }
}

/** States that the server remembers, older than a version, the newest first. */
type Older = (before: number | undefined, now: Played) => Promise<{ version: number; played: Played }[]>;

const ATTEMPT = "attempt:";

/** What an attempt is known by at a bench. */
export const benchOf = (attemptId: string): string => `${ATTEMPT}${attemptId}`;

function olderOf(id: string): Older | undefined {
  if (id.startsWith(ATTEMPT)) return attemptStates(id.slice(ATTEMPT.length));
  return id.includes("/") ? undefined : stepStates(id);
}

const stepStates =
  (id: string): Older =>
  async (before) => {
    const query = { before: before ?? null, limit: PAGE };
    const rows = await got(
      client.GET("/api/steps/{step_id}/history", { params: { path: { step_id: id }, query } }),
    );
    return rows.map(({ version, content: { patch, phrase } }) => ({ version, played: { patch, phrase } }));
  };

const attemptStates =
  (id: string): Older =>
  async (before, { phrase }) => {
    const query = { before: before ?? null, limit: PAGE };
    const rows = await got(
      client.GET("/api/attempts/{attempt_id}/history", { params: { path: { attempt_id: id }, query } }),
    );
    return rows.map(({ version, patch }) => ({ version, played: { patch, phrase } }));
  };

const histories = new Map<string, StepHistory>();

/** The history of a step, an attempt or a detour, which lasts as long as the page; that of a detour begins with it. */
export function historyOf(id: string, played: Played): StepHistory {
  const known = histories.get(id) ?? new StepHistory(olderOf(id), played);
  histories.set(id, known);
  return known;
}
