/** The rules of the job that the page needs at once; they are written by the core when the interface is built. */

import type { LensWish, Phrase, RulerType, Trace } from "./client";
import written from "./rules.json";

export interface UnitRule {
  /** What stands behind a number, and behind 1 alone. */
  many: string;
  one: string;
  digits: number;
  /** How it may be typed, and how much of the unit that is. */
  typed: Record<string, number>;
}

export type LensKind = LensWish["kind"];

export interface LensRule {
  kind: LensKind;
  title: string;
  most_taps: number;
  /** Whether it needs the sound of its taps, and whether it is for what is heard. */
  listens: boolean;
  heard: boolean;
  at_first: object;
  /** What differs on what is seen over the whole phrase. */
  over_phrase: object;
  form: FormRow[];
}

/** A row of a lens’s form: one of some values, or numbers on one ruler, each greater than the one before. */
export type FormRow =
  | {
      is: "options";
      name: string;
      label: string;
      unit: string;
      options: { value: string | number | boolean; word: string }[];
    }
  | { is: "amounts"; label: string; numbers: { name: string; word: string }[]; ruler: RulerType };

/** How charts are drawn, on the screen as on paper; lengths in pixels, shares of a colour from 0 to 1. */
export interface ChartStyle {
  colours: Record<Role | "rule" | "soft" | "ink", string>;
  widths: Record<Role, number>;
  fills: Record<Role, number>;
  later: number;
  dashes: number[][];
  theory_dash: number[];
  shade: number;
  wash: number;
  last_number: number;
  stage_lines: number;
  /** The colours that levels of a raster have. */
  tones: [level: number, colour: string][];
}

type Role = Trace["role"];

interface Rules {
  charts: ChartStyle;
  units: Record<string, UnitRule>;
  lenses: LensRule[];
  /** Simulated instruments, and what each does in its own way. */
  instruments: { name: string; title: string; otherwise: string }[];
  voices: RulerType;
  /** The first and the last day that can be meant by a date. */
  dates: { first: string; last: string };
  marks: { most_number: number; most_purpose: number };
  phrase: {
    longest_seconds: number;
    grid: number;
    highest_pitch: number;
    new_note: Phrase["notes"][number];
  };
}

export const rules = written as unknown as Rules;

const LENSES = new Map(rules.lenses.map((rule) => [rule.kind, rule]));
export const KINDS: LensKind[] = rules.lenses.map((rule) => rule.kind);
/** The lenses of a step that has none of its own. */
export const USUAL = KINDS.slice(0, 2);

/** What the core says of a kind of lens, or of the first one. */
export function lensRule(kind: LensKind | undefined = KINDS[0]): LensRule {
  const rule = kind && LENSES.get(kind);
  if (!rule) throw new Error(`There is no lens ${kind ?? "at all"}.`);
  return rule;
}
