import type { Lesson, Phrase } from "../api/client";
import { drafts, useContents } from "./drafts";

interface Props {
  lesson: Lesson;
  place: number;
  phrase: Phrase;
}

/** Gives the phrase to the later steps that play another one. */
export function PhraseOn({ lesson, place, phrase }: Props) {
  const here = JSON.stringify(phrase);
  const contents = useContents(lesson.steps);
  const others = lesson.steps.filter((_, at) => at > place && JSON.stringify(contents[at]?.phrase) !== here);
  if (others.length === 0) return null;
  return (
    <button
      type="button"
      title="The later steps that play another phrase"
      className="act text-left"
      onClick={() => others.forEach((step) => drafts.change(lesson.id, step, { phrase }))}
    >
      Play it in {others.length} later {others.length === 1 ? "step" : "steps"} too
    </button>
  );
}
