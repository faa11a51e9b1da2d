import type { Lesson, Step, StepContent } from "../api/client";
import type { Catalogue } from "../api/patch";
import type { BenchProps } from "../bench/BenchContext";
import type { Counterpart } from "../lenses/views";
import { StepText } from "./StepText";

/** What is only read leads nowhere. */
const nowhere = () => undefined;

/** What a step begins from: the one before it, or the end of the lesson that this one starts from. */
function sceneBefore(lesson: Lesson, contents: StepContent[], place: number): Counterpart | undefined {
  const before = contents[place - 1];
  if (before) return { patch: before.patch, phrase: before.phrase };
  const content = contents[place];
  if (place !== 0 || !lesson.start || !content) return undefined;
  return { patch: lesson.start.patch, phrase: content.phrase, name: "the lesson before" };
}

/** What a bench shows of a step, at the desk and in practice alike. */
export function onBench(
  lesson: Lesson,
  contents: StepContent[],
  place: number,
  step: Step,
  catalogue: Catalogue,
): BenchProps {
  const { patch, phrase, moment, lenses, marks } = contents[place] ?? step.content;
  const target = place < contents.length - 1 ? contents.at(-1) : undefined;
  return {
    catalogue,
    stepId: step.id,
    patch,
    phrase,
    marks,
    moment: moment ?? null,
    ownLenses: lenses ?? null,
    before: sceneBefore(lesson, contents, place),
    target: target && { patch: target.patch, phrase: target.phrase },
    instructions: step.instructions,
    told: {
      number: place + 1,
      count: contents.length,
      text: (
        <StepText
          content={contents[place] ?? step.content}
          step={step}
          catalogue={catalogue}
          first={place === 0}
          onLink={nowhere}
        />
      ),
    },
  };
}
