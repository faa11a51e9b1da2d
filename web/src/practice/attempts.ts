import { useSyncExternalStore } from "react";
import { useQuery } from "@tanstack/react-query";

import { type Attempt, client, got, type Patch, type Phrase } from "../api/client";
import { type Keeper, Kept, type KeptState, type Sending } from "../api/kept";
import { settingsSince } from "../api/changes";
import { queries } from "../api/queries";
import { benchOf, historyOf } from "../bench/history";
import { troubleOf } from "../lesson/drafts";

/** What is kept of an attempt. */
export interface Made {
  patch: Patch;
  name: string;
}

export interface KeepingAttempt {
  state: KeptState;
  message: string | undefined;
}

const KEPT: KeepingAttempt = { state: "kept", message: undefined };

/** What somebody has made at benches of their own and the server may not have kept yet. */
class Attempts {
  private readonly kept = new Map<string, Kept<Made>>();
  private readonly states = new Map<string, KeepingAttempt>();
  private readonly listeners = new Set<() => void>();
  private readonly shown = new Set<string>();
  /** An attempt has no phrase of its own: it plays that of its step. */
  private readonly phrases = new Map<string, Phrase>();

  constructor() {
    window.addEventListener("pagehide", () => {
      for (const one of this.kept.values()) void one.send(true);
    });
    window.addEventListener("beforeunload", (event) => {
      if ([...this.kept.values()].some(({ state }) => state !== "kept")) event.preventDefault();
    });
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** What stands in an attempt: what was made here, or what the server has if that is newer. */
  madeOf = (attempt: Attempt): Made => this.of(attempt).value;

  keepingOf = (attempt: Attempt): KeepingAttempt => this.states.get(attempt.id) ?? KEPT;

  change(attempt: Attempt, part: Partial<Made>, from: Partial<Made> = {}): void {
    this.of(attempt).change(part, from);
  }

  /** Says what an attempt plays. */
  plays(id: string, phrase: Phrase): void {
    this.phrases.set(id, phrase);
  }

  /** Lets what comes next be known as shown rather than done. */
  showNext(attempt: Attempt): void {
    this.shown.add(attempt.id);
  }

  /** Sends at once what is waiting. */
  flush(): void {
    for (const one of this.kept.values()) void one.send();
  }

  /** Lets go of an attempt that has been deleted. */
  forget(id: string): void {
    this.kept.get(id)?.letGo();
    this.kept.delete(id);
    this.states.delete(id);
  }

  private of(attempt: Attempt): Kept<Made> {
    const value = { patch: attempt.patch, name: attempt.name };
    const known = this.kept.get(attempt.id);
    if (known) {
      known.meet(value, attempt.version);
      return known;
    }
    const made = new Kept<Made>(
      value,
      attempt.version,
      this.keeperOf(attempt),
      () => this.tell(attempt.id),
      (before, after) => this.others(attempt, before, after),
    );
    this.kept.set(attempt.id, made);
    return made;
  }

  /** Lets undo leave alone what another page has changed. */
  private others(attempt: Attempt, before: Made, after: Made): void {
    const phrase = this.phrases.get(attempt.id);
    if (!phrase) return;
    historyOf(benchOf(attempt.id), { patch: before.patch, phrase }).goAlong(
      { patch: before.patch, phrase },
      { patch: after.patch, phrase },
    );
  }

  private tell(id: string): void {
    const one = this.kept.get(id);
    if (one) this.states.set(id, { state: one.state, message: one.message });
    this.listeners.forEach((listener) => listener());
  }

  private keeperOf = ({ id }: Attempt): Keeper<Made> => ({
    send: async (wish, leaving) => {
      const body = { ...bodyOf(wish), shown: this.shown.delete(id) };
      const params = { path: { attempt_id: id } };
      const kept = await got(client.PUT("/api/attempts/{attempt_id}", { params, body, keepalive: leaving }));
      return { value: { patch: kept.patch, name: kept.name }, version: kept.version, at: kept.updated_at };
    },
    troubleOf: (error) => {
      const trouble = troubleOf(error);
      return trouble === "conflict" ? "failed" : trouble;
    },
  });
}

/** What is new in an attempt; where only settings of the patch are, they stand for it. */
function bodyOf({ part, there, version, request, own }: Sending<Made>) {
  const settings = part.patch && settingsSince(there.patch, part.patch);
  return {
    version,
    request,
    own,
    ...(part.name === undefined ? {} : { name: part.name }),
    ...(settings ? { settings } : part.patch ? { patch: part.patch } : {}),
  };
}

export const attempts = new Attempts();

export const useMade = (attempt: Attempt): Made =>
  useSyncExternalStore(attempts.subscribe, () => attempts.madeOf(attempt));

export const useKeepingAttempt = (attempt: Attempt): KeepingAttempt =>
  useSyncExternalStore(attempts.subscribe, () => attempts.keepingOf(attempt));

const ownKey = (lessonId: string, stepId: string) => ["own", lessonId, stepId];

/** What there is of one's own at a step. */
export const useOwnBench = (lessonId: string, stepId: string, enabled: boolean) =>
  useQuery({
    queryKey: ownKey(lessonId, stepId),
    enabled,
    queryFn: () =>
      got(
        client.GET("/api/practice/{lesson_id}/steps/{step_id}/bench", {
          params: { path: { lesson_id: lessonId, step_id: stepId } },
        }),
      ),
  });

/** Asks anew what there is of one's own at a step. */
export const refreshOwn = (lessonId: string, stepId: string) =>
  queries.invalidateQueries({ queryKey: ownKey(lessonId, stepId) });

const standingsKey = (lessonId: string) => ["standings", lessonId];

/** How far one has come with the steps of a lesson. */
export const useStandings = (lessonId: string) =>
  useQuery({
    queryKey: standingsKey(lessonId),
    queryFn: () => got(client.GET("/api/attempts/standings", { params: { query: { lesson_id: lessonId } } })),
  });

export const refreshStandings = (lessonId: string) =>
  queries.invalidateQueries({ queryKey: standingsKey(lessonId) });
