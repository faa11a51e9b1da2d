import { Link } from "react-router";

import { Bench } from "../bench/Bench";
import { LessonScreen, type OpenLesson } from "../lesson/LessonScreen";
import { StepText } from "../lesson/StepText";
import { Thread } from "../lesson/Thread";

/** Following a lesson, step by step; nothing here changes it. */
export function Practice() {
  return <LessonScreen screen="practice">{(open) => <OpenPractice {...open} />}</LessonScreen>;
}

function OpenPractice({ lesson, catalogue, place }: OpenLesson) {
  const step = lesson.steps[place];
  const before = lesson.steps[place - 1]?.content;
  if (!step)
    return (
      <main className="m-auto font-read text-lg">
        <h1>This lesson has no steps yet.</h1>
      </main>
    );
  const to = (number: number) => `/practice/${lesson.id}/${number + 1}`;
  return (
    <main className="grid min-h-0 flex-1 grid-cols-[356px_minmax(0,1fr)] grid-rows-[minmax(0,1fr)_auto]">
      <div className="flex min-h-0 border-r border-rule">
        <Thread titles={lesson.steps.map((one) => one.content.title)} place={place} to={to} />
        <div className="flex min-h-0 min-w-0 flex-1 flex-col">
          <StepText content={step.content} instructions={step.instructions} first={place === 0} />
          <nav
            aria-label="Through the lesson"
            className="flex items-center gap-3 border-t border-rule px-4 py-2.5"
          >
            <span className="flex-1 text-soft">
              Step {place + 1} of {lesson.steps.length}
            </span>
            {place > 0 && (
              <Link to={to(place - 1)} className="button">
                Back
              </Link>
            )}
            {place < lesson.steps.length - 1 && (
              <Link to={to(place + 1)} className="button-strong">
                Next step
              </Link>
            )}
          </nav>
        </div>
      </div>
      <Bench
        key={step.id}
        stepId={step.id}
        patch={step.content.patch}
        phrase={step.content.phrase}
        before={before && { patch: before.patch, phrase: before.phrase }}
        instructions={step.instructions}
        catalogue={catalogue}
      />
    </main>
  );
}
