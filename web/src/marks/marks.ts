/** Marks of a step: numbers and purposes set on modules, lines, places in a lens and moments of the phrase. */

import type { LensPlace, MarkPlace, Patch, StepMark } from "../api/client";
import { type Catalogue, inputOf, portTitle, titleOf } from "../api/patch";
import { rules } from "../api/rules";
import { lensRule } from "../api/rules";
import { trimmed, withUnit } from "../ui/units";

/** What a place is known by. */
export const placeKey = (at: MarkPlace): string => {
  if (at.kind === "module") return at.module;
  if (at.kind === "line") return `${at.from}>${at.to}`;
  if (at.kind === "moment") return `@${at.beat}`;
  return `${at.lens}/${at.tap}/${at.x}/${at.y ?? ""}`;
};

export const markAt = (marks: StepMark[], at: MarkPlace): StepMark | undefined =>
  marks.find((one) => placeKey(one.at) === placeKey(at));

/** Marks of which one has changed, or is new, or has gone because it says nothing any more. */
export function withMark(marks: StepMark[], at: MarkPlace, part: Partial<StepMark>): StepMark[] {
  const old = markAt(marks, at);
  const mark = { at, number: null, purpose: "", ...old, ...part };
  const kept = mark.number !== null || mark.purpose.trim() !== "";
  if (!old) return kept ? [...marks, mark] : marks;
  return marks.flatMap((one) => (one !== old ? one : kept ? mark : []));
}

/** The lowest number that no mark has, if there is one left. */
export function freeNumber(marks: StepMark[]): number | undefined {
  const used = new Set(marks.map((one) => one.number));
  return Array.from({ length: rules.marks.most_number }, (_, n) => n + 1).find((one) => !used.has(one));
}

/** Those that have a number, in their order. */
export const numbered = (marks: StepMark[]): (StepMark & { number: number })[] =>
  marks
    .flatMap((one) => (typeof one.number === "number" ? { ...one, number: one.number } : []))
    .toSorted((a, b) => a.number - b.number);

/** What a place is called. */
export function placeWords(at: MarkPlace, patch: Patch, catalogue: Catalogue): string {
  if (at.kind === "moment") return `beat ${trimmed(at.beat + 1, 3)}`;
  if (at.kind === "lens") return lensWords(at, patch, catalogue);
  if (at.kind === "line") {
    const input = inputOf(patch, at.to, catalogue)?.name ?? "";
    const [to = ""] = at.to.split(".");
    return `${portTitle(patch, at.from, catalogue)} into the ${input} of ${moduleWords(to, patch, catalogue)}`;
  }
  return moduleWords(at.module, patch, catalogue);
}

function moduleWords(id: string, patch: Patch, catalogue: Catalogue): string {
  const module = patch.modules.find((one) => one.id === id);
  if (module) return titleOf(module, catalogue);
  return patch.sections.find((one) => one.id === id)?.label ?? id;
}

function lensWords({ lens, tap, x }: LensPlace, patch: Patch, catalogue: Catalogue): string {
  const unit = lens === "spectrum" || lens === "response" ? "Hz" : "s";
  return `${lensRule(lens).title} of ${portTitle(patch, tap, catalogue)} at ${withUnit(x, unit)}`;
}
