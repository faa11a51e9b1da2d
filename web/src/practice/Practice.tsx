import { type ReactNode, useEffect, useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";

import { client, type Detour, got, type Lesson, type Step } from "../api/client";
import { refreshPractice, usePractice } from "../api/queries";
import { Bench } from "../bench/Bench";
import type { LookAt } from "../bench/store";
import { useLenses } from "../lenses/store";
import { Detours } from "../lesson/Detours";
import { followLink } from "../lesson/followLink";
import { HandOutPanel } from "../lesson/HandOutPanel";
import { LessonScreen, type OpenLesson, TARGET } from "../lesson/LessonScreen";
import { onBench } from "../lesson/onBench";
import { Plates } from "../lesson/Plates";
import { StartNote } from "../lesson/StartNote";
import { StepText } from "../lesson/StepText";
import { TargetPage } from "../lesson/TargetPage";
import { Thread } from "../lesson/Thread";
import { useStandings } from "./attempts";
import { BenchChoice, useBenchMode } from "./BenchChoice";
import { EditionNote } from "./EditionNote";
import { LookedAt } from "./LookedAt";
import { OwnStep } from "./OwnStep";
import { StepPage } from "./StepPage";

/** Following a lesson, step by step; nothing here changes it. */
export function Practice() {
  const { lessonId = "" } = useParams();
  const [query] = useSearchParams();
  const edition = Number(query.get("edition")) || undefined;
  const short = query.has("short") ? query.get("short") === "yes" : undefined;
  const lesson = usePractice(lessonId, edition, short);
  return (
    <LessonScreen screen="practice" lesson={lesson} title={(shown) => <PracticeTitle lesson={shown} />}>
      {(open) => <OpenPractice {...open} />}
    </LessonScreen>
  );
}

function PracticeTitle({ lesson }: { lesson: Lesson }) {
  const [handing, setHanding] = useState(false);
  const { edition } = lesson;
  return (
    <>
      <span className="truncate">{lesson.title}</span>
      <span className="shrink-0 pl-1 text-note narrow:hidden">
        {edition ? `edition ${edition.number}${edition.short ? ", short" : ""}` : "as it stands at the desk"}
      </span>
      <button type="button" className="act shrink-0 pl-2 narrow:hidden" onClick={() => setHanding(true)}>
        On paper, in a file…
      </button>
      {handing && <HandOutPanel lesson={lesson} onClose={() => setHanding(false)} />}
    </>
  );
}

function OpenPractice({ lesson, catalogue, place }: OpenLesson) {
  const [query] = useSearchParams();
  useProgress(lesson, place, query.has("attempt"));
  const step = lesson.steps[place];
  const last = lesson.steps.at(-1)?.content;
  const to = (number: number) => `/practice/${lesson.id}/${number + 1}${query.size > 0 ? `?${query}` : ""}`;
  const reached = Math.max(place, lesson.edition?.begun ? lesson.edition.reached : 0);
  const standings = useStandings(lesson.id).data;
  const [mode, setMode] = useBenchMode();
  const thread = (
    <Thread
      standings={lesson.steps.map((one) => standings?.find(({ step_id }) => step_id === one.id)?.state)}
      reached={lesson.edition && lesson.right === null ? reached : undefined}
      titles={lesson.steps.map((one) => one.content.title)}
      extra={lesson.steps.map((one) => one.content.extra)}
      place={place}
      targetFirst={lesson.target_first}
      to={to}
    />
  );
  const foot = <Through lesson={lesson} place={place} to={to} />;
  if (place === TARGET && last) return <TargetPage {...{ lesson, last, catalogue, thread, foot }} />;
  const attemptId = query.get("attempt");
  if (step && attemptId)
    return (
      <LookedAt
        {...{ lesson, catalogue, place, step, thread, foot }}
        attemptId={attemptId}
        classId={query.get("class") ?? undefined}
      />
    );
  const choice = <BenchChoice mode={mode} onChoose={setMode} />;
  if (step && mode === "own")
    return <OwnStep key={step.id} {...{ lesson, catalogue, place, step, thread, foot, choice }} />;
  if (step) return <Followed {...{ lesson, catalogue, place, step, thread, foot, choice }} />;
  return (
    <main className="m-auto font-read text-read">
      <h1>This lesson has no steps yet.</h1>
    </main>
  );
}

interface ThroughProps {
  lesson: Lesson;
  place: number;
  to: (place: number) => string;
}

function placeText(place: number, last: number): string {
  if (place === TARGET) return "Before the first step";
  return place === last ? "The last step" : `Step ${place + 1} of ${last + 1}`;
}

/** From step to step. */
function Through({ lesson, place, to }: ThroughProps) {
  const first = lesson.target_first ? TARGET : 0;
  const last = lesson.steps.length - 1;
  return (
    <nav
      aria-label="Through the lesson"
      className="flex flex-wrap items-center justify-end gap-x-3 gap-y-1.5 border-t border-rule px-4 py-2.5"
    >
      <span className="flex-1 text-soft">{placeText(place, last)}</span>
      {place > first && (
        <Link to={to(place - 1)} className="button">
          Back
        </Link>
      )}
      {place < last && (
        <Link to={to(place + 1)} className="button-strong">
          {place === TARGET ? "Begin" : "Next step"}
        </Link>
      )}
      {place === last && (
        <Link
          to={lesson.next ? `/practice/${lesson.next.id}` : "/shelf"}
          title={lesson.next ? `Next in the series: ${lesson.next.title}` : undefined}
          className="button-strong"
        >
          {lesson.next ? "Next lesson" : "To the shelf"}
        </Link>
      )}
    </nav>
  );
}

interface FollowedProps extends OpenLesson {
  step: Step;
  thread: ReactNode;
  foot: ReactNode;
  /** The choice between the lesson's bench and one's own. */
  choice: ReactNode;
}

/** A step that is followed: its text, and the bench to look and listen at. */
function Followed({ lesson, catalogue, place, step, thread, foot, choice }: FollowedProps) {
  const lenses = useLenses();
  const [lookAt, setLookAt] = useState<LookAt>();
  const { content } = step;
  const contents = lesson.steps.map((one) => one.content);
  const showDetour = (one: Detour | undefined) =>
    lenses.showDetour(one && { patch: one.patch, phrase: one.phrase ?? content.phrase, name: one.name });
  return (
    <StepPage
      title={content.title}
      thread={thread}
      foot={foot}
      text={
        <StepText
          key={step.id} // each step begins at its top
          content={content}
          step={step}
          catalogue={catalogue}
          first={place === 0 && !lesson.start}
          onLink={followLink(content, showDetour, setLookAt)}
          above={
            <>
              {choice}
              <EditionNote lesson={lesson} place={place} />
              {place === 0 && lesson.start && <StartNote start={lesson.start} />}
            </>
          }
        >
          <Detours
            detours={content.detours}
            said={step.detours}
            shown={lenses.against === "detour" ? lenses.detour?.name : undefined}
            onShow={showDetour}
          />
          <Plates plates={content.plates} outdated={[]} onOpen={lenses.open} />
        </StepText>
      }
      bench={<Bench key={step.id} {...onBench(lesson, contents, place, step, catalogue)} lookAt={lookAt} />}
    />
  );
}

/** Lets the server know how far one has come, so that one can go on there; what one only writes or looks on at is not begun. */
function useProgress(lesson: Lesson, place: number, looksOn: boolean): void {
  const { id, right, edition } = lesson;
  const short = edition?.short;
  useEffect(() => {
    if (right !== null || short === undefined || looksOn) return;
    const body = { place: Math.max(0, place), short, newest: false };
    got(
      client.PUT("/api/practice/{lesson_id}", { params: { path: { lesson_id: id } }, body, keepalive: true }),
    ).catch(
      () => undefined, // it is noted with the next step
    );
    return () => void refreshPractice(id);
  }, [id, right, short, place, looksOn]);
}
