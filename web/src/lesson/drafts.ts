import { useSyncExternalStore } from "react";

import { ApiError, type Clash, client, got, type Step, type StepContent } from "../api/client";
import { settingsSince } from "../api/changes";
import { type Choices, type Keeper, Kept, type Sending, type Trouble } from "../api/kept";
import { showKept } from "../api/queries";
import { historyOf } from "../bench/history";

export type Keeping =
  | { state: "kept"; at: string | undefined }
  | { state: "keeping" }
  | { state: "failed"; message: string }
  | { state: "conflict"; stepId: string; clashes: Clash[] }
  | { state: "gone"; stepId: string; title: string };

/** What the educator has changed of steps and the server may not have kept yet. */
class Drafts {
  private readonly drafts = new Map<string, Kept<StepContent>>();
  private readonly listeners = new Set<() => void>();
  private readonly contents = new WeakMap<Step[], StepContent[]>();
  /** How many changes are being worked out that no draft has yet. */
  private coming = 0;
  /** Whether building is writing: then instructions stand in the order of the work. */
  capturing = false;
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

  /** Changes a step; `from` is what was changed, if others may have changed it since. */
  change(lessonId: string, step: Step, change: Partial<StepContent>, from: Partial<StepContent> = {}): void {
    this.draftOf(lessonId, step).change(change, from);
  }

  /** Keeps nothing of a step while the server gives it a title, unless somebody writes one meanwhile. */
  during(lessonId: string, step: Step, work: () => Promise<Step | undefined>): Promise<void> {
    return this.draftOf(lessonId, step).during(["title", "title_made"], async () => {
      const now = await work();
      return now && thereOf(now);
    });
  }

  private draftOf(lessonId: string, step: Step): Kept<StepContent> {
    const known = this.drafts.get(step.id);
    const keeper = keeperOf(lessonId, step.id);
    const others = (before: StepContent, after: StepContent) => madeByOthers(step.id, before, after);
    const draft = known ?? new Kept(step.content, step.version, keeper, this.tell, others);
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

  /** Decides what others have changed too. */
  decide(stepId: string, choices: Choices): void {
    this.drafts.get(stepId)?.decide(choices);
  }

  /** Goes on with a step that is there again. */
  goOn(stepId: string): void {
    this.drafts.get(stepId)?.goOn();
  }

  /** What is new in a step, as it would be sent. */
  wishOf(stepId: string): Sending<StepContent> | undefined {
    return this.drafts.get(stepId)?.wish();
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
    for (const [stepId, { state, value, trouble }] of all) {
      if (state === "gone") return { state, stepId, title: value.title };
      if (state === "conflict") return { state, stepId, clashes: (trouble as ApiError).clashes };
    }
    const message = all.find(([, draft]) => draft.message !== undefined)?.[1].message;
    if (message !== undefined) return { state: "failed", message };
    if (this.coming > 0 || all.some(([, draft]) => draft.state !== "kept")) return { state: "keeping" };
    for (const [, { at }] of all) if (at !== undefined && at > (this.keptAt ?? "")) this.keptAt = at;
    return { state: "kept", at: this.keptAt };
  }
}

/** Lets undo at the bench leave alone what others have changed. */
function madeByOthers(stepId: string, before: StepContent, after: StepContent): void {
  historyOf(stepId, before).goAlong(before, after);
  for (const detour of after.detours) {
    const was = before.detours.find((one) => one.id === detour.id);
    if (!was) continue;
    const [there, here] = [was, detour].map(({ patch, phrase }) => ({
      patch,
      phrase: phrase ?? after.phrase,
    }));
    if (there && here) historyOf(`${stepId}/${detour.id}`, there).goAlong(there, here);
  }
}

const thereOf = ({ content, version, updated_at }: Step) => ({ value: content, version, at: updated_at });

/** The place of a step: what it answers is shown at once, with what it means for the step behind it. */
const keeperOf = (lessonId: string, id: string): Keeper<StepContent> => ({
  send: async (wish, leaving) => {
    const path = { step_id: id };
    const body = changeOf(wish);
    const kept = await got(
      client.PUT("/api/steps/{step_id}", { params: { path }, body, keepalive: leaving }),
    );
    await showKept(lessonId, kept);
    return thereOf(kept);
  },
  troubleOf,
});

/** A change as the server takes it: where only settings of the patch are new, they stand for it. */
export function changeOf({ part, there, own, request, version, choices, base }: Sending<StepContent>) {
  const { patch, ...rest } = part;
  const settings = patch && !base.patch && settingsSince(there.patch, patch);
  const content = settings ? rest : part;
  return {
    ...{ version, content, choices, request, own, capturing: drafts.capturing },
    ...(settings && { settings }),
    ...(Object.keys(base).length > 0 && { base }),
  };
}

export function troubleOf(error: unknown): Trouble {
  if (!(error instanceof ApiError)) return "failed";
  if (error.status === 409 && error.clashes.length > 0) return "conflict";
  if (error.status === 410) return "gone";
  // somebody who signs in again can keep it after all
  const refused = error.status >= 400 && error.status < 500 && error.status !== 401;
  return refused ? "refused" : "failed";
}

export const drafts = new Drafts();

/** What stands in each of the steps, now and as it changes. */
export const useContents = (steps: Step[]): StepContent[] =>
  useSyncExternalStore(drafts.subscribe, () => drafts.contentsOf(steps));

export const useKeeping = (): Keeping => useSyncExternalStore(drafts.subscribe, drafts.snapshot);
