import { useSyncExternalStore } from "react";

import { ApiError, client, got, type Step, type StepContent, type StepPart } from "../api/client";
import { queries, showKept } from "../api/queries";

const PAUSE_MS = 250;
const AGAIN_MS = 2_000;

export type Keeping =
  | { state: "kept"; at: string | undefined }
  | { state: "keeping" }
  | { state: "failed"; message: string }
  | { state: "conflict"; stepId: string };

interface Draft {
  lessonId: string;
  content: StepContent;
  version: number;
  /** What has been changed that no request carries yet. */
  changed: Set<keyof StepContent>;
  sending: boolean;
  failed: string | undefined;
  conflict: boolean;
  timer: number | undefined;
}

/**
 * What the educator has changed and the server may not have kept yet. Every change is sent after a short pause,
 * one request at a time for each step; what cannot be sent is held and tried again.
 */
class Drafts {
  private readonly drafts = new Map<string, Draft>();
  private readonly listeners = new Set<() => void>();
  private readonly contents = new WeakMap<Step[], StepContent[]>();
  private keptAt: string | undefined;
  /** How many changes are being worked out that no draft has yet. */
  private coming = 0;
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
    if (!draft) return step.content;
    const ahead = isUnsent(draft) || draft.sending || draft.conflict || draft.failed !== undefined;
    return ahead || draft.version >= step.version ? draft.content : step.content;
  };

  /** What stands in each of the steps: the same list as before if it is the same still. */
  contentsOf = (steps: Step[]): StepContent[] => {
    const now = steps.map((step) => this.contentOf(step));
    const before = this.contents.get(steps);
    if (before?.every((content, place) => content === now[place])) return before;
    this.contents.set(steps, now);
    return now;
  };

  change(lessonId: string, step: Step, change: Partial<StepContent>): void {
    const known = this.drafts.get(step.id);
    const version = Math.max(known?.version ?? 0, step.version);
    const draft: Draft = known ?? {
      lessonId,
      content: step.content,
      version,
      changed: new Set(),
      sending: false,
      failed: undefined,
      conflict: false,
      timer: undefined,
    };
    if (!known?.conflict) draft.version = version;
    draft.content = { ...this.contentOf(step), ...change };
    for (const key of Object.keys(change)) draft.changed.add(key as keyof StepContent);
    this.drafts.set(step.id, draft);
    this.schedule(step.id, draft, PAUSE_MS);
    this.tell();
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
    for (const [id, draft] of this.drafts) if (isUnsent(draft)) void this.send(id, draft, leaving);
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
    const draft = this.drafts.get(stepId);
    clearTimeout(draft?.timer);
    this.drafts.delete(stepId);
    this.tell();
  }

  private schedule(id: string, draft: Draft, delay: number): void {
    clearTimeout(draft.timer);
    draft.timer = window.setTimeout(() => void this.send(id, draft, false), delay);
  }

  private async send(id: string, draft: Draft, leaving: boolean): Promise<void> {
    if ((draft.sending && !leaving) || draft.conflict) return;
    clearTimeout(draft.timer);
    const changed = new Set(draft.changed);
    draft.changed.clear();
    draft.sending = true;
    this.tell();
    try {
      await queries.cancelQueries({ queryKey: ["lesson", draft.lessonId] });
      const step = await got(
        client.PUT("/api/steps/{step_id}", {
          params: { path: { step_id: id } },
          body: { version: draft.version, content: partOf(draft.content, changed) },
          keepalive: leaving,
        }),
      );
      draft.version = step.version;
      draft.failed = undefined;
      this.keptAt = step.updated_at;
      showKept(draft.lessonId, step);
    } catch (error) {
      changed.forEach((key) => draft.changed.add(key));
      this.missed(id, draft, error);
    } finally {
      draft.sending = false;
    }
    this.goOn(id, draft);
  }

  /** After a request: sends what has been changed meanwhile. */
  private goOn(id: string, draft: Draft): void {
    if (draft.failed === undefined && isUnsent(draft)) this.schedule(id, draft, 0);
    this.tell();
  }

  private missed(id: string, draft: Draft, error: unknown): void {
    draft.conflict = error instanceof ApiError && error.status === 409;
    draft.failed = error instanceof Error ? error.message : "It could not be kept.";
    const refused = error instanceof ApiError && error.status >= 400 && error.status < 500;
    const hopeless = refused && error.status !== 401; // somebody who signs in again can keep it after all
    if (!hopeless) this.schedule(id, draft, AGAIN_MS);
  }

  private tell(): void {
    this.keeping = this.overall();
    this.listeners.forEach((listener) => listener());
  }

  private overall(): Keeping {
    const all = [...this.drafts];
    const conflict = all.find(([, draft]) => draft.conflict);
    if (conflict) return { state: "conflict", stepId: conflict[0] };
    const failed = all.find(([, draft]) => draft.failed !== undefined);
    if (failed) return { state: "failed", message: failed[1].failed ?? "" };
    if (this.coming > 0 || all.some(([, draft]) => isUnsent(draft) || draft.sending))
      return { state: "keeping" };
    return { state: "kept", at: this.keptAt };
  }
}

const isUnsent = (draft: Draft) => draft.changed.size > 0;

/** Only what has been changed of a content. */
const partOf = (content: StepContent, changed: Set<keyof StepContent>): StepPart =>
  Object.fromEntries([...changed].map((key) => [key, content[key]]));

export const drafts = new Drafts();

/** What stands in each of the steps, now and as it changes. */
export const useContents = (steps: Step[]): StepContent[] =>
  useSyncExternalStore(drafts.subscribe, () => drafts.contentsOf(steps));

export const useKeeping = (): Keeping => useSyncExternalStore(drafts.subscribe, drafts.snapshot);
