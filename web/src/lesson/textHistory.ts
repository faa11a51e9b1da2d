import { temporal } from "zundo";
import { createStore } from "zustand/vanilla";

import type { StepContent } from "../api/client";

const KEYS = ["title", "title_made", "why", "listen", "wording", "order", "order_made", "decisions"] as const;
const JOINED_MS = 1_500;

/** What is written in a step, and what is left to decide. */
export type Texts = Pick<StepContent, (typeof KEYS)[number]>;

const textsOf = (content: Texts): Texts =>
  Object.fromEntries(KEYS.map((key) => [key, content[key]])) as unknown as Texts;

const same = (a: Texts, b: Texts) => JSON.stringify(a) === JSON.stringify(b);

/** The states that the texts of a step have had while the page is open: typing in one of them in one go is one. */
class TextHistory {
  private readonly store;
  private joining: { keys: string; until: number } | undefined;

  constructor(content: Texts) {
    const texts = textsOf(content);
    this.store = createStore<Texts>()(temporal(() => texts, { equality: same }));
  }

  /** Notes a change of what stands there; what has come to stand there by itself is no step of its own. */
  note(standing: Texts, part: Partial<Texts>): void {
    const now = performance.now();
    const keys = Object.keys(part).join();
    const joins = this.joining?.keys === keys && now < this.joining.until;
    const track = this.store.temporal.getState();
    track.pause();
    if (!joins) this.store.setState(textsOf(standing));
    if (!joins) track.resume();
    this.store.setState(part);
    track.resume();
    this.joining = { keys, until: now + JOINED_MS };
  }

  can(way: "undo" | "redo"): boolean {
    const { pastStates, futureStates } = this.store.temporal.getState();
    return (way === "undo" ? pastStates : futureStates).length > 0;
  }

  /** Goes one state back or forth: what stands then, and what stood before. */
  travel(way: "undo" | "redo"): { now: Texts; before: Texts } | undefined {
    if (!this.can(way)) return undefined;
    const before = textsOf(this.store.getState());
    this.store.temporal.getState()[way]();
    this.joining = undefined;
    return { now: textsOf(this.store.getState()), before };
  }
}

const histories = new Map<string, TextHistory>();

/** The history of a step's texts. */
export function textHistoryOf(stepId: string, content: Texts): TextHistory {
  const known = histories.get(stepId) ?? new TextHistory(content);
  histories.set(stepId, known);
  return known;
}

/** The part of a change that is about what is written; decisions belong to it only where nothing else is changed by them. */
export const textsIn = (part: Partial<StepContent>): Partial<Texts> =>
  Object.fromEntries(KEYS.filter((key) => key in part && key !== "decisions").map((key) => [key, part[key]]));
