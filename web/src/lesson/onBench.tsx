import type { Lesson, Step, StepContent } from "../api/client";
import type { Catalogue } from "../api/patch";
import type { BenchProps } from "../bench/BenchContext";
import { type Counterpart } from "../lenses/views";
import { USUAL } from "../api/rules";
import { ownSoundsIn } from "../sounds/sounds";
import { useRoom } from "../ui/room";
import type { OnLink } from "./Prose";
import { StepText } from "./StepText";

/** In the projector’s view a link leads to the page on which its place is seen. */
const toPage =
  ({ marks, lenses }: StepContent): OnLink =>
  (kind, id) => {
    const at = kind === "mark" ? marks.find((one) => one.number === Number(id))?.at : undefined;
    const kinds = lenses?.slots.map((one) => one.kind) ?? USUAL;
    const place = at?.kind === "lens" ? kinds.indexOf(at.lens) : -1;
    if (place >= 0) useRoom.getState().put({ projected: place });
    else if (kind === "module" || at?.kind === "module" || at?.kind === "line")
      useRoom.getState().put({ projected: "map" });
  };

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
    soundsHere: ownSoundsIn(contents.map((one) => one.patch)),
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
          onLink={toPage(contents[place] ?? step.content)}
        />
      ),
    },
  };
}
