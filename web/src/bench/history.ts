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

const samePatch = (a: Played, b: Played) => JSON.stringify(a.patch) === JSON.stringify(b.patch);
const sameBoth = (a: Played, b: Played) =>
  samePatch(a, b) && JSON.stringify(a.phrase) === JSON.stringify(b.phrase);

/**
 * The states that a step's patch and phrase have had, for undo and redo. What was changed in this session is known at once;
 * what came before is fetched from the step's history on the server when somebody goes back that far.
 */
export class StepHistory {
  private readonly store;
  private readonly same;
  private oldest: number | undefined;
  private exhausted: boolean;
  private joining: { kind: string; until: number; press: number } | undefined;

  constructor(
    private readonly stepId: string | undefined,
    played: Played,
  ) {
    this.exhausted = stepId === undefined;
    // a detour plays the phrase of its step, which is not its to take back
    this.same = stepId === undefined ? samePatch : sameBoth;
    this.store = createStore<Played>()(temporal(() => played, { equality: this.same }));
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
    this.joining = kind === undefined ? undefined : { kind, until: now + JOINED_MS, press: pointer.presses };
  }

  /** Takes note of what somebody else made of it. */
  meet(played: Played): void {
    if (!this.same(this.store.getState(), played)) this.note(played);
  }

  async undo(): Promise<Played | undefined> {
    if (this.store.temporal.getState().pastStates.length === 0) await this.fetchOlder();
    return this.travel("undo");
  }

  redo(): Played | undefined {
    return this.travel("redo");
  }

  canUndo = (): boolean => !this.exhausted || this.store.temporal.getState().pastStates.length > 0;
  /** How many changes of this session can be taken back. */
  steps = (): number => this.store.temporal.getState().pastStates.length;
  canRedo = (): boolean => this.store.temporal.getState().futureStates.length > 0;

  subscribe = (listener: () => void): (() => void) => this.store.temporal.subscribe(listener);

  private travel(way: "undo" | "redo"): Played | undefined {
    const track = this.store.temporal.getState();
    if ((way === "undo" ? track.pastStates : track.futureStates).length === 0) return undefined;
    track[way]();
    this.joining = undefined;
    return this.store.getState();
  }

  /** Puts the states that the server remembers, and that differ from each other, before the present one. */
  private async fetchOlder(): Promise<void> {
    while (
      this.stepId !== undefined &&
      !this.exhausted &&
      this.store.temporal.getState().pastStates.length === 0
    ) {
      const rows = await got(
        client.GET("/api/steps/{step_id}/history", {
          params: { path: { step_id: this.stepId }, query: { before: this.oldest ?? null, limit: PAGE } },
        }),
      );
      this.exhausted = rows.length < PAGE;
      this.oldest = rows.at(-1)?.version;
      const past: Played[] = [];
      let later = this.store.getState();
      for (const { content } of rows) {
        if (this.same(content, later)) continue;
        later = { patch: content.patch, phrase: content.phrase };
        past.unshift(later);
      }
      this.store.temporal.setState({ pastStates: past });
    }
  }
}

const histories = new Map<string, StepHistory>();

/** The history of a step or of a detour, which lasts as long as the page; only a step's begins earlier. */
export function historyOf(id: string, played: Played): StepHistory {
  const known = histories.get(id) ?? new StepHistory(id.includes("/") ? undefined : id, played);
  histories.set(id, known);
  return known;
}
