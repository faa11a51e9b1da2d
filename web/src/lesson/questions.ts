import type { Patch, StepContent } from "../api/client";

type Decisions = StepContent["decisions"];

interface Asked {
  patch: string;
  decisions: Decisions;
}

/** What was to be decided in a step before something was, by the patch that it had then. */
const before = new Map<string, Asked[]>();

/** Notes what is to be decided before a decision is made. */
export function noteQuestions(stepId: string, patch: Patch, decisions: Decisions): void {
  before.set(stepId, [...(before.get(stepId) ?? []), { patch: JSON.stringify(patch), decisions }]);
}

/** What is to be decided again where a decision has been undone: the patch is what it was before it. */
export function questionsAgain(stepId: string, patch: Patch | undefined): { decisions?: Decisions } {
  const asked = before.get(stepId) ?? [];
  const text = patch && JSON.stringify(patch);
  const place = asked.findLastIndex((one) => one.patch === text);
  const found = asked[place];
  if (!found) return {};
  before.set(stepId, asked.slice(0, place));
  return { decisions: found.decisions };
}
