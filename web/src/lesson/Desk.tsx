import { useState, useSyncExternalStore } from "react";

import { Bench } from "../bench/Bench";
import { Notice } from "../ui/Notice";
import { ConflictDialog } from "./ConflictDialog";
import { drafts, useKeeping } from "./drafts";
import { LessonScreen, type OpenLesson } from "./LessonScreen";
import { LessonTitle } from "./LessonTitle";
import { StepMenu } from "./StepMenu";
import { StepText } from "./StepText";
import { Thread } from "./Thread";
import { useSteps } from "./useSteps";

/** Writing a lesson: its steps on the left, the bench beside them. */
export function Desk() {
  const [failure, setFailure] = useState<string>();
  return (
    <LessonScreen screen="desk" title={(lesson) => <LessonTitle lesson={lesson} onFailure={setFailure} />}>
      {(open) => (
        <>
          <OpenDesk {...open} />
          {failure && (
            <Notice warn onClose={() => setFailure(undefined)}>
              {failure}
            </Notice>
          )}
        </>
      )}
    </LessonScreen>
  );
}

function OpenDesk({ lesson, catalogue, place }: OpenLesson) {
  const steps = useSteps(lesson, place);
  const keeping = useKeeping();
  const step = lesson.steps[place];
  const previous = lesson.steps[place - 1];
  const content = useSyncExternalStore(drafts.subscribe, () => step && drafts.contentOf(step));
  const before = useSyncExternalStore(drafts.subscribe, () => previous && drafts.contentOf(previous));
  const conflicting =
    keeping.state === "conflict" ? lesson.steps.find((one) => one.id === keeping.stepId) : undefined;
  const titles = lesson.steps.map((one) => drafts.contentOf(one).title);

  return (
    <main className="grid min-h-0 flex-1 grid-cols-[356px_minmax(0,1fr)] grid-rows-[minmax(0,1fr)_auto]">
      <div className="flex min-h-0 border-r border-rule">
        <Thread titles={titles} place={place} to={(to) => `/desk/${lesson.id}/${to + 1}`} onAdd={steps.add} />
        {step && content && (
          <StepText
            key={step.id}
            content={content}
            instructions={step.instructions}
            first={place === 0}
            menu={
              <StepMenu
                place={place}
                count={lesson.steps.length}
                onAdd={steps.add}
                onDuplicate={() => steps.duplicate(step)}
                onMove={steps.move}
                onDelete={() => steps.remove(step)}
              />
            }
            onChange={(change) => drafts.change(lesson.id, step, change)}
          />
        )}
      </div>
      {step && content ? (
        <Bench
          key={step.id}
          stepId={step.id}
          patch={content.patch}
          phrase={content.phrase}
          before={before && { patch: before.patch, phrase: before.phrase }}
          instructions={step.instructions}
          catalogue={catalogue}
          onChange={(patch) => drafts.change(lesson.id, step, { patch })}
        />
      ) : (
        <NoSteps onAdd={steps.add} />
      )}
      {conflicting && (
        <ConflictDialog
          title={drafts.contentOf(conflicting).title}
          onTheirs={() => steps.showTheirs(conflicting)}
          onMineAsNew={() => steps.keepAsNew(conflicting)}
        />
      )}
      {steps.failure ? (
        <Notice warn onClose={steps.dismissFailure}>
          {steps.failure}
        </Notice>
      ) : (
        steps.deleted && (
          <Notice action={{ label: "Bring it back", run: steps.restore }} onClose={steps.dismissDeleted}>
            “{steps.deleted.title}” is deleted.
          </Notice>
        )
      )}
    </main>
  );
}

function NoSteps({ onAdd }: { onAdd: () => void }) {
  return (
    <div className="m-auto text-center font-read text-lg">
      <h1 className="mb-3">This lesson has no steps yet.</h1>
      <button type="button" className="button-strong font-work" onClick={onAdd}>
        Add the first step
      </button>
    </div>
  );
}
