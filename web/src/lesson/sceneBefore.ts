import type { Lesson, StepContent } from "../api/client";
import type { Counterpart } from "../lenses/views";

/** What a step begins from: the one before it, or the end of the lesson that this one starts from. */
export function sceneBefore(lesson: Lesson, contents: StepContent[], place: number): Counterpart | undefined {
  const before = contents[place - 1];
  if (before) return { patch: before.patch, phrase: before.phrase };
  const content = contents[place];
  if (place !== 0 || !lesson.start || !content) return undefined;
  return { patch: lesson.start.patch, phrase: content.phrase, name: "the lesson before" };
}
