import { useSyncExternalStore } from "react";

import { ApiError, client, got, type Step, type StepContent } from "../api/client";
import { settingsSince } from "../api/patch";
import { type Keeper, Kept, type Trouble } from "../api/kept";
import { queries, showKept } from "../api/queries";

export type Keeping =
  | { state: "kept"; at: string | undefined }
  | { state: "keeping" }
  | { state: "failed"; message: string }
  | { state: "conflict"; stepId: string };

/** What the educator has changed of steps and the server may not have kept yet. */
class Drafts {
  private readonly drafts = new Map<string, Kept<StepContent>>();
  private readonly listeners = new Set<() => void>();
  private readonly contents = new WeakMap<Step[], StepContent[]>();
  /** How many changes are being worked out that no draft has yet. */
  private coming = 0;
  private keptAt: string | undefined;
  private keeping: Keeping = { state: "kept", at: undefined };

  constructor() {
    window.addEventListener("pagehide", () => this.flush(true));
    window.addEventListener("beforeunload", (event) => {
      if (this.keeping.state !== "kept") event.preventDefault();
    });
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  snapshot = (): Keeping => this.keeping;

  /** What stands in a step: the draft, or what the server has if that is newer. */
  contentOf = (step: Step): StepContent => {
    const draft = this.drafts.get(step.id);
    draft?.meet(step.content, step.version);
    return draft?.value ?? step.content;
  };

  /** What stands in each of the steps: the same list as before if it is the same still. */
  contentsOf = (steps: Step[]): StepContent[] => {
    const now = steps.map(this.contentOf);
    const before = this.contents.get(steps);
    if (before?.every((content, place) => content === now[place])) return before;
    this.contents.set(steps, now);
    return now;
  };

  change(lessonId: string, step: Step, change: Partial<StepContent>): void {
    this.draftOf(lessonId, step).change(change);
  }

  /** Keeps nothing of a step while the server does something else to it; then goes on from what has come of it. */
  during(lessonId: string, step: Step, work: () => Promise<Step | undefined>): Promise<void> {
    return this.draftOf(lessonId, step).during(async () => {
      const now = await work();
      return now && thereOf(now);
    });
  }

  private draftOf(lessonId: string, step: Step): Kept<StepContent> {
    const known = this.drafts.get(step.id);
    const draft = known ?? new Kept(step.content, step.version, keeperOf(lessonId, step.id), this.tell);
    draft.meet(step.content, step.version);
    this.drafts.set(step.id, draft);
    return draft;
  }

  /** Says "kept" no more until a change that is still being worked out has come to its draft. */
  expect = (change: Promise<unknown>): void => {
    const come = () => {
      this.coming--;
      this.tell();
    };
    this.coming++;
    this.tell();
    change.then(come, come);
  };

  /** Sends at once what is waiting; `leaving` lets the requests outlive the page. */
  flush(leaving = false): void {
    for (const draft of this.drafts.values()) void draft.send(leaving);
  }

  /** The version of a step that has been kept last. */
  versionOf(step: Step): number {
    return Math.max(this.drafts.get(step.id)?.version ?? 0, step.version);
  }

  /** Waits until everything is kept; rejects if it cannot be. */
  settled(): Promise<void> {
    this.flush();
    return new Promise((resolve, reject) => {
      let done: () => void = () => undefined;
      const look = () => {
        if (this.keeping.state === "keeping") return;
        done();
        if (this.keeping.state === "kept") resolve();
        else reject(new Error("What was changed last could not be kept."));
      };
      done = this.subscribe(look);
      look();
    });
  }

  /** Lets go of a draft, so that what the server has is shown. */
  forget(stepId: string): void {
    this.drafts.get(stepId)?.letGo();
    this.drafts.delete(stepId);
    this.tell();
  }

  private readonly tell = (): void => {
    this.keeping = this.overall();
    this.listeners.forEach((listener) => listener());
  };

  private overall(): Keeping {
    const all = [...this.drafts];
    const conflict = all.find(([, draft]) => draft.state === "conflict");
    if (conflict) return { state: "conflict", stepId: conflict[0] };
    const message = all.find(([, draft]) => draft.message !== undefined)?.[1].message;
    if (message !== undefined) return { state: "failed", message };
    if (this.coming > 0 || all.some(([, draft]) => draft.state !== "kept")) return { state: "keeping" };
    for (const [, { at }] of all) if (at !== undefined && at > (this.keptAt ?? "")) this.keptAt = at;
    return { state: "kept", at: this.keptAt };
  }
}

const thereOf = ({ content, version, updated_at }: Step) => ({ value: content, version, at: updated_at });

/** The place of a step: what it answers is shown at once, with what it means for the step behind it. */
const keeperOf = (lessonId: string, id: string): Keeper<StepContent> => ({
  send: async ({ part, there, version, leaving }) => {
    await queries.cancelQueries({ queryKey: ["lesson", lessonId] }); // an older answer must not come after this one
    const path = { step_id: id };
    const { patch, ...rest } = part;
    const settings = patch && settingsSince(there.patch, patch);
    const body = settings ? { version, content: rest, settings } : { version, content: part };
    const kept = await got(
      client.PUT("/api/steps/{step_id}", { params: { path }, body, keepalive: leaving }),
    );
    showKept(lessonId, kept);
    return thereOf(kept);
  },
  look: async () => {
    const path = { step_id: id };
    const [last] = await got(
      client.GET("/api/steps/{step_id}/history", { params: { path, query: { limit: 1 } } }),
    );
    if (!last) throw new Error("The step has no state.");
    return { value: last.content, version: last.version, at: last.at };
  },
  troubleOf,
});

function troubleOf(error: unknown): Trouble {
  if (!(error instanceof ApiError)) return "failed";
  if (error.status === 409) return "conflict";
  // somebody who signs in again can keep it after all
  const refused = error.status >= 400 && error.status < 500 && error.status !== 401;
  return refused ? "refused" : "failed";
}

export const drafts = new Drafts();

/** What stands in each of the steps, now and as it changes. */
export const useContents = (steps: Step[]): StepContent[] =>
  useSyncExternalStore(drafts.subscribe, () => drafts.contentsOf(steps));

export const useKeeping = (): Keeping => useSyncExternalStore(drafts.subscribe, drafts.snapshot);
