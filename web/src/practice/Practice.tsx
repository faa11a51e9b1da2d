import { Link, useParams } from "react-router";

import type { Lesson } from "../api/client";
import type { Catalogue } from "../api/patch";
import { useLesson } from "../api/queries";
import { Bench } from "../bench/Bench";
import { useCatalogueMap } from "../bench/useCatalogueMap";
import { placesOf } from "../lesson/places";
import { StepText } from "../lesson/StepText";
import { Thread } from "../lesson/Thread";
import { Header } from "../ui/Header";
import { Failed, Waiting } from "../ui/Waiting";

/** Following a lesson, step by step; nothing here changes it. */
export function Practice() {
  const { lessonId = "", place = "1" } = useParams();
  const lesson = useLesson(lessonId);
  const catalogue = useCatalogueMap();
  const index = Math.min(
    Math.max(0, Number(place) - 1 || 0),
    Math.max(0, (lesson.data?.steps.length ?? 1) - 1),
  );
  return (
    <div className="flex h-full min-h-[640px] min-w-[1024px] flex-col">
      <Header title={lesson.data?.title} places={placesOf(lessonId, index, "practice")} />
      {lesson.error && !lesson.data && (
        <Failed message={lesson.error.message} retry={() => void lesson.refetch()} />
      )}
      {!lesson.error && (!lesson.data || !catalogue) && <Waiting>Opening the lesson…</Waiting>}
      {lesson.data && catalogue && <OpenPractice lesson={lesson.data} catalogue={catalogue} place={index} />}
    </div>
  );
}

function OpenPractice({ lesson, catalogue, place }: { lesson: Lesson; catalogue: Catalogue; place: number }) {
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
        patch={step.content.patch}
        phrase={step.content.phrase}
        before={before && { patch: before.patch, phrase: before.phrase }}
        instructions={step.instructions}
        catalogue={catalogue}
      />
    </main>
  );
}
