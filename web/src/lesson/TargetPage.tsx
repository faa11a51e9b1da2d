import type { ReactNode } from "react";

import type { Lesson, StepContent } from "../api/client";
import type { Catalogue } from "../api/patch";
import { Bench } from "../bench/Bench";
import { useFields } from "./fields";
import { LessonPage } from "./LessonPage";
import { Prose } from "./Prose";

interface Props {
  lesson: Lesson;
  /** What the last step holds, which is where the lesson is heading. */
  last: StepContent;
  catalogue: Catalogue;
  thread: ReactNode;
  foot: ReactNode;
}

/** How a lesson opens that shows its target first: the sound of its last step, and a word about it. */
export function TargetPage({ lesson, last, catalogue, thread, foot }: Props) {
  const fields = useFields({ ...last, why: lesson.target_note, listen: "", detours: [] }, false);
  return (
    <LessonPage
      title={lesson.title}
      thread={thread}
      text={
        <>
          <article
            tabIndex={0}
            aria-label="Where the lesson is heading"
            className="min-h-0 flex-1 overflow-y-auto px-4 py-3.5 -outline-offset-2"
          >
            <p className="mb-1 font-semibold text-this">Where we are heading</p>
            <h1 className="mb-3 font-read text-head leading-[1.2] font-semibold tracking-tight">
              {lesson.title}
            </h1>
            <div className="prose font-read text-read leading-[1.5]">
              <Prose text={lesson.target_note || lesson.summary} fields={fields} onLink={undefined} />
            </div>
            <p className="mt-4 text-soft">
              This is the sound of the last step, and the patch that makes it. Play it with Space. Then we
              begin from nothing, and come here in {lesson.steps.length}{" "}
              {lesson.steps.length === 1 ? "step" : "steps"}.
            </p>
          </article>
          {foot}
        </>
      }
      bench={
        <Bench
          key={`${lesson.id} target`}
          stepId="target"
          patch={last.patch}
          phrase={last.phrase}
          ownLenses={last.lenses ?? null}
          moment={last.moment ?? null}
          before={undefined}
          target={undefined}
          instructions={[]}
          catalogue={catalogue}
        />
      }
    />
  );
}
