import type { Chart, LensWish, Listening, Measure, Patch, Phrase } from "../api/client";

/** What is played: a patch, how it is heard, and what is looked at. */
export interface LiveScene {
  patch: Patch;
  phrase: Phrase;
  listening: Listening | undefined;
  views: LensWish[];
}

/** off; starting; blocked by the browser; on; the line is lost for a while; over, and why. */
export type Phase = "off" | "starting" | "blocked" | "on" | "lost" | "over";
export type Performing = "nothing" | "note" | "phrase" | "chord";

/** How it goes on at the server, as the last pictures tell. */
export interface Standing {
  at: number;
  serial: number | null;
  tempo: number;
  runs: boolean;
  outside: boolean;
  /** How often anything was done: what was said before may not be true any longer. */
  stirs: number;
  taking: boolean;
  counting: boolean;
  load: number;
}

export interface LiveState {
  phase: Phase;
  /** Why it is over or blocked, or what could not be done. */
  text: string | undefined;
  charts: (Chart | null)[] | undefined;
  measures: Record<string, Measure> | undefined;
  standing: Standing | undefined;
  /** What the output has noticed: how often it had nothing to play, and how far ahead it asks, in samples. */
  gaps: number;
  ahead: number;
  loudest: number;
  /** How long it took from the last key, after silence, to its first sample at the output; from a setting to its picture. */
  heardMs: number | undefined;
  seenMs: number | undefined;
  /** The keys that are down, by pitch. */
  down: ReadonlySet<number>;
  /** Where controls were moved to. */
  controls: Readonly<Record<string, number>>;
  performing: Performing;
  frozen: boolean;
  /** What was recorded last and not taken yet. */
  recorded: Phrase | undefined;
}

export const START: LiveState = {
  phase: "off",
  text: undefined,
  charts: undefined,
  measures: undefined,
  standing: undefined,
  gaps: 0,
  ahead: 0,
  loudest: 0,
  heardMs: undefined,
  seenMs: undefined,
  down: new Set(),
  controls: {},
  performing: "nothing",
  frozen: false,
  recorded: undefined,
};
