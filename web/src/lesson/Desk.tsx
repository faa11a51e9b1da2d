import { useState } from "react";
import { Navigate, useParams } from "react-router";

import { client, type Detour, got } from "../api/client";
import { useLesson } from "../api/queries";
import { Bench } from "../bench/Bench";
import type { LookAt } from "../bench/useBenchState";
import { useLenses } from "../lenses/useLenses";
import { Notice } from "../ui/Notice";
import { useKeys } from "../ui/useKeys";
import { ConflictDialog } from "./ConflictDialog";
import { Decisions } from "./Decisions";
import { Capture, CarryOn, OnDetour } from "./deskNotes";
import { Detours, withDetour } from "./Detours";
import { drafts, useContents, useKeeping } from "./drafts";
import { followLink } from "./followLink";
import { LessonMenu } from "./LessonMenu";
import { LessonScreen, type OpenLesson, TARGET } from "./LessonScreen";
import { LessonTitle } from "./LessonTitle";
import { PhraseOn } from "./PhraseOn";
import { Plates, withPlate } from "./Plates";
import { StartNote } from "./StartNote";
import { StepMenu } from "./StepMenu";
import { StepText } from "./StepText";
import { TakePanel } from "./TakePanel";
import { TargetPage } from "./TargetPage";
import { Thread } from "./Thread";
import { useSteps } from "./useSteps";

/** Writing a lesson: its steps on the left, the bench beside them. */
export function Desk() {
  const { lessonId = "" } = useParams();
  const lesson = useLesson(lessonId);
  const [failure, setFailure] = useState<string>();
  if (lesson.data?.right === "read") return <Navigate to={`/practice/${lessonId}/1`} replace />;
  return (
    <LessonScreen
      screen="desk"
      lesson={lesson}
      title={(shown) => (
        <>
          <LessonTitle lesson={shown} onFailure={setFailure} />
          <LessonMenu lesson={shown} onFailure={setFailure} />
        </>
      )}
    >
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
  const lenses = useLenses();
  const step = lesson.steps[place];
  const contents = useContents(lesson.steps);
  const content = contents[place];
  const before = contents[place - 1];
  const target = place < contents.length - 1 ? contents.at(-1) : undefined;
  const [lookAt, setLookAt] = useState<LookAt>();
  const [taking, setTaking] = useState(false);
  const conflicting =
    keeping.state === "conflict" ? lesson.steps.find((one) => one.id === keeping.stepId) : undefined;
  const [building, setBuilding] = useState<string>();
  const [capturing, setCapturing] = useState(false);
  const [undecided, setUndecided] = useState<string>();

  const decide = async (number: number, early: boolean) => {
    if (!step || !content) return;
    const edits = content.decisions[number]?.edits ?? [];
    const body = { patch: content.patch, edits };
    try {
      const patch = early ? (await got(client.POST("/api/patches/edits", { body }))).patch : content.patch;
      drafts.change(lesson.id, step, { patch, decisions: content.decisions.toSpliced(number, 1) });
    } catch (error) {
      setUndecided(error instanceof Error ? error.message : "That did not work.");
    }
  };
  const detour = content?.detours.find((one) => `${step?.id ?? ""}/${one.id}` === building);
  const build = (id: string | undefined) => {
    lenses.showDetour(undefined);
    setBuilding(id === undefined || !step ? undefined : `${step.id}/${id}`);
  };
  const showDetour = (one: Detour | undefined) =>
    lenses.showDetour(one && content && { patch: one.patch, phrase: content.phrase, name: one.name });
  const to = (wanted: number) => `/desk/${lesson.id}/${wanted + 1}`;
  const thread = (
    <Thread
      titles={contents.map((one) => one.title)}
      extra={contents.map((one) => one.extra)}
      place={place}
      targetFirst={lesson.target_first}
      to={to}
      onAdd={steps.add}
    />
  );
  useKeys({ F: capturing && step ? () => steps.finish(step) : undefined });

  const start = place === 0 ? lesson.start : null;
  const sceneBefore =
    start && content
      ? { patch: start.patch, phrase: content.phrase, name: "the lesson before" }
      : before && { patch: before.patch, phrase: before.phrase };

  if (place === TARGET && target)
    return (
      <TargetPage
        lesson={lesson}
        last={target}
        catalogue={catalogue}
        lenses={lenses}
        thread={thread}
        foot={
          <p className="border-t border-rule px-4 py-2.5 text-[13px] text-soft">
            What stands here is written under Lesson…, About the lesson.
          </p>
        }
      />
    );
  return (
    <main className="grid min-h-0 flex-1 grid-cols-[356px_minmax(0,1fr)] grid-rows-[minmax(0,1fr)_auto]">
      <div className="flex min-h-0 border-r border-rule">
        {thread}
        {step && content && (
          <div className="flex min-h-0 min-w-0 flex-1 flex-col">
            <StepText
              key={step.id}
              content={content}
              step={step}
              first={place === 0 && !lesson.start}
              onLink={followLink(content, showDetour, setLookAt)}
              menu={
                <StepMenu
                  place={place}
                  count={lesson.steps.length}
                  onAdd={steps.add}
                  onDuplicate={() => steps.duplicate(step)}
                  onMove={steps.move}
                  onJoin={() => steps.join(step)}
                  extra={content.extra}
                  onExtra={(extra) => drafts.change(lesson.id, step, { extra })}
                  onTake={() => setTaking(true)}
                  onDelete={() => steps.remove(step)}
                />
              }
              onChange={(change) => drafts.change(lesson.id, step, change)}
              onSplit={(after) => steps.split(step, after)}
              above={
                <>
                  {place === 0 && lesson.start && <StartNote start={lesson.start} onFollow={steps.follow} />}
                  {detour && <OnDetour name={detour.name} onBack={() => build(undefined)} />}
                  {step.content.built_on && (
                    <CarryOn later={lesson.steps.length - place - 1} onCarry={() => steps.carry(step)} />
                  )}
                  <Decisions
                    decisions={content.decisions}
                    onDecide={(number, early) => void decide(number, early)}
                  />
                </>
              }
            >
              <Detours
                detours={content.detours}
                said={step.detours}
                shown={lenses.against === "detour" ? lenses.detour?.name : undefined}
                onShow={showDetour}
                writing={{
                  building: detour?.id,
                  onBuild: build,
                  onBranch: () => {
                    const [detours, id] = withDetour(content.detours, content.patch);
                    drafts.change(lesson.id, step, { detours });
                    build(id);
                  },
                  onChange: (detours) => drafts.change(lesson.id, step, { detours }),
                }}
              />
              <Plates
                plates={content.plates}
                outdated={step.outdated}
                onOpen={lenses.open}
                writing={{
                  patch: content.patch,
                  phrase: content.phrase,
                  onChange: (plates) => drafts.change(lesson.id, step, { plates }),
                }}
              />
            </StepText>
            <Capture
              capturing={capturing}
              moves={step.instructions.length}
              onToggle={setCapturing}
              onFinish={() => steps.finish(step)}
            />
          </div>
        )}
      </div>
      {step && content && detour ? (
        <Bench
          key={building}
          stepId={building ?? ""}
          patch={detour.patch}
          phrase={content.phrase}
          before={{ patch: content.patch, phrase: content.phrase, name: "the step itself" }}
          target={undefined}
          instructions={step.detours[content.detours.indexOf(detour)] ?? []}
          catalogue={catalogue}
          lenses={lenses}
          phraseStays="A detour plays the phrase of its step."
          onWork={drafts.expect}
          onChange={({ patch }) =>
            drafts.change(lesson.id, step, {
              detours: content.detours.map((one) => (one.id === detour.id ? { ...one, patch } : one)),
            })
          }
        />
      ) : step && content ? (
        <Bench
          key={step.id}
          stepId={step.id}
          patch={content.patch}
          phrase={content.phrase}
          before={sceneBefore}
          target={target && { patch: target.patch, phrase: target.phrase }}
          instructions={step.instructions}
          catalogue={catalogue}
          lenses={lenses}
          lookAt={lookAt}
          onWork={drafts.expect}
          onChange={(played) => drafts.change(lesson.id, step, played)}
          phraseActions={<PhraseOn lesson={lesson} place={place} phrase={content.phrase} />}
          onPlate={(plate) => drafts.change(lesson.id, step, { plates: withPlate(content.plates, plate) })}
        />
      ) : (
        <NoSteps onAdd={steps.add} />
      )}
      {taking && step && (
        <TakePanel
          lesson={lesson}
          onStep={(taken) => {
            setTaking(false);
            steps.take(taken);
          }}
          onPatch={(taken) => {
            setTaking(false);
            drafts.change(lesson.id, step, taken);
          }}
          onClose={() => setTaking(false)}
        />
      )}
      {conflicting && (
        <ConflictDialog
          title={contents[lesson.steps.indexOf(conflicting)]?.title ?? ""}
          onTheirs={() => steps.showTheirs(conflicting)}
          onMineAsNew={() => steps.keepAsNew(conflicting)}
        />
      )}
      {(steps.failure ?? undecided) ? (
        <Notice
          warn
          onClose={() => {
            steps.dismissFailure();
            setUndecided(undefined);
          }}
        >
          {steps.failure ?? undecided}
        </Notice>
      ) : steps.carriedOn ? (
        <Notice action={{ label: "Take it back", run: steps.takeBack }} onClose={steps.dismissCarriedOn}>
          {carriedText(steps.carriedOn)}
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

const carriedText = ({ steps, start }: { steps: unknown[]; start: boolean }) => {
  const count = start ? steps.length : steps.length - 1;
  if (count === 0) return start ? "The lesson starts from there now." : "The later steps have it already.";
  return `The change is in ${count} ${start ? "" : "later "}${count === 1 ? "step" : "steps"} now.`;
};
