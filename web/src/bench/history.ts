import { temporal } from "zundo";
import { createStore } from "zustand/vanilla";

import { client, got, type Patch } from "../api/client";

const JOINED_MS = 700;
const PAGE = 200;

interface State {
  patch: Patch;
}

const same = (a: Patch, b: Patch) => JSON.stringify(a) === JSON.stringify(b);

/**
 * The states that a step's patch has had, for undo and redo. What was changed in this session is known at once;
 * what came before is fetched from the step's history on the server when somebody goes back that far.
 */
export class PatchHistory {
  private readonly store;
  private oldest: number | undefined;
  private exhausted = false;
  private joining: { kind: string; until: number } | undefined;

  constructor(
    private readonly stepId: string,
    patch: Patch,
  ) {
    this.store = createStore<State>()(
      temporal(() => ({ patch }), { equality: (a, b) => same(a.patch, b.patch) }),
    );
  }

  /** Notes a new state. Changes of one kind in quick succession, as in dragging, are one. */
  note(patch: Patch, kind?: string): void {
    const now = performance.now();
    const joins = kind !== undefined && this.joining?.kind === kind && now < this.joining.until;
    const track = this.store.temporal.getState();
    if (joins) track.pause();
    this.store.setState({ patch });
    if (joins) track.resume();
    this.joining = kind === undefined ? undefined : { kind, until: now + JOINED_MS };
  }

  /** Takes note of what somebody else made of the patch. */
  meet(patch: Patch): void {
    if (!same(this.store.getState().patch, patch)) this.note(patch);
  }

  async undo(): Promise<Patch | undefined> {
    if (this.store.temporal.getState().pastStates.length === 0) await this.fetchOlder();
    return this.travel("undo");
  }

  redo(): Patch | undefined {
    return this.travel("redo");
  }

  canUndo = (): boolean => !this.exhausted || this.store.temporal.getState().pastStates.length > 0;
  /** How many changes of this session can be taken back. */
  steps = (): number => this.store.temporal.getState().pastStates.length;
  canRedo = (): boolean => this.store.temporal.getState().futureStates.length > 0;

  subscribe = (listener: () => void): (() => void) => this.store.temporal.subscribe(listener);

  private travel(way: "undo" | "redo"): Patch | undefined {
    const track = this.store.temporal.getState();
    if ((way === "undo" ? track.pastStates : track.futureStates).length === 0) return undefined;
    track[way]();
    this.joining = undefined;
    return this.store.getState().patch;
  }

  /** Puts the states that the server remembers, and that differ from each other, before the present one. */
  private async fetchOlder(): Promise<void> {
    while (!this.exhausted && this.store.temporal.getState().pastStates.length === 0) {
      const rows = await got(
        client.GET("/api/steps/{step_id}/history", {
          params: { path: { step_id: this.stepId }, query: { before: this.oldest ?? null, limit: PAGE } },
        }),
      );
      this.exhausted = rows.length < PAGE;
      this.oldest = rows.at(-1)?.version;
      const past: State[] = [];
      let later = this.store.getState().patch;
      for (const row of rows) {
        if (same(row.content.patch, later)) continue;
        later = row.content.patch;
        past.unshift({ patch: later });
      }
      this.store.temporal.setState({ pastStates: past });
    }
  }
}

const histories = new Map<string, PatchHistory>();

/** The history of a step, which lasts as long as the page. */
export function historyOf(stepId: string, patch: Patch): PatchHistory {
  const known = histories.get(stepId) ?? new PatchHistory(stepId, patch);
  histories.set(stepId, known);
  return known;
}
