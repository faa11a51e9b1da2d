import type { Standing } from "../api/client";

type Stood = Pick<Standing, "state" | "shown"> | undefined;

const WORDS: Record<Standing["state"], string> = { opened: "opened", near: "near", done: "done" };
const LOOKS: Record<Standing["state"], string> = {
  opened: "border-firm text-soft",
  near: "border-compared text-compared-text",
  done: "border-ok bg-ok text-leaf",
};

/** How far somebody has come with a step, in words. */
export const saidOf = (standing: Stood): string =>
  `${standing ? WORDS[standing.state] : "not opened"}${standing?.shown ? ", some of it was shown" : ""}`;

/** What was done by one's own hand is filled; what was shown has only a ring. */
function lookOf(standing: Stood): string {
  if (!standing) return "border-rule text-soft";
  const ring = standing.state === "done" ? "border-dashed border-ok text-ok" : LOOKS[standing.state];
  return standing.shown ? ring : LOOKS[standing.state];
}

/** How far somebody has come with a step, as a mark. */
export const StandingMark = ({ standing, number }: { standing: Stood; number: number }) => (
  <span
    aria-hidden="true"
    className={`grid size-7 place-items-center rounded-full border ${lookOf(standing)}`}
  >
    {standing?.state === "done" ? "✓" : number}
  </span>
);
