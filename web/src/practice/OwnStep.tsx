import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect, useMemo, useState } from "react";

import {
  type Attempt,
  client,
  got,
  type Lesson,
  type OwnBench,
  type Patch,
  type Phrase,
  type Step,
  type Ticked,
} from "../api/client";
import { Bench } from "../bench/Bench";
import { benchOf } from "../bench/history";
import type { LookAt } from "../bench/store";
import { useLenses } from "../lenses/store";
import { followLink } from "../lesson/followLink";
import type { OpenLesson } from "../lesson/LessonScreen";
import { onBench } from "../lesson/onBench";
import { StepText } from "../lesson/StepText";
import { atLevers } from "../phrase/phrases";
import { messageOf } from "../api/messageOf";
import { useSettled } from "../api/useSettled";
import { Failed, Waiting } from "../ui/Waiting";
import { attempts, refreshOwn, useKeepingAttempt, useMade, useOwnBench } from "./attempts";
import { NearPanel } from "./NearPanel";
import { PlayedPanel } from "./PlayedPanel";
import { Questions } from "./Questions";
import { Variants } from "./Variants";
import { StepPage } from "./StepPage";

const TICK_MS = 250;
const FIRST = "My bench";
const NO_LEVERS: Ticked["levers"] = {};

interface Props extends OpenLesson {
  step: Step;
  thread: ReactNode;
  foot: ReactNode;
  /** The choice between the lesson's bench and one's own. */
  choice: ReactNode;
}

/** A step at one's own bench: it begins where the step before has ended, and its sound is the target. */
export function OwnStep(props: Props) {
  const { lesson, step } = props;
  const own = useOwnBench(lesson.id, step.id, true);
  const [chosen, setChosen] = useState<string>();
  const [failure, setFailure] = useState<string>();
  const attempt = own.data?.attempts.find((one) => one.id === chosen) ?? own.data?.attempts[0];
  const none = own.data !== undefined && own.data.attempts.length === 0;
  useEffect(() => {
    if (!none) return;
    begun(lesson.id, step.id, FIRST).catch((error: unknown) => setFailure(messageOf(error)));
  }, [none, lesson.id, step.id]);
  const trouble = failure ?? own.error?.message;
  if (trouble)
    return (
      <Failed
        message={trouble}
        retry={() => {
          setFailure(undefined);
          void own.refetch();
        }}
      />
    );
  if (!own.data || !attempt) return <Waiting>Making your bench ready…</Waiting>;
  return <OpenBench {...props} own={own.data} attempt={attempt} onChoose={setChosen} />;
}

/** Begins an attempt under a name: with a patch, or with what the step begins with. */
export async function begun(lessonId: string, stepId: string, name: string, patch?: Patch): Promise<Attempt> {
  const params = { path: { lesson_id: lessonId, step_id: stepId } };
  const made = await got(
    client.POST("/api/practice/{lesson_id}/steps/{step_id}/attempts", {
      params,
      body: patch ? { name, patch } : { name },
    }),
  );
  await refreshOwn(lessonId, stepId);
  return made;
}

interface OpenProps extends Props {
  own: OwnBench;
  attempt: Attempt;
  onChoose: (id: string) => void;
}

function OpenBench({ own, attempt, onChoose, ...props }: OpenProps) {
  const { lesson, catalogue, place, step, thread, foot, choice } = props;
  const { patch } = useMade(attempt);
  const [lookAt, setLookAt] = useState<LookAt>();
  const ticked = useTicks(lesson.id, step.id, patch);
  const [phrase, setPhrase] = usePhrase(step.content.phrase, ticked?.levers);
  useTargetBehind(attempt.id);
  useEffect(() => attempts.plays(attempt.id, phrase), [attempt.id, phrase]);
  const contents = lesson.steps.map((one) => one.content);
  const { content } = step;
  const target = { patch: content.patch, phrase: content.phrase, name: "the target" };
  return (
    <StepPage
      {...{ title: content.title, thread, foot }}
      text={
        <StepText
          key={step.id}
          content={content}
          step={step}
          catalogue={catalogue}
          ticks={ticked?.ticks}
          first={place === 0 && !lesson.start}
          onLink={followLink(content, () => undefined, setLookAt)}
          above={
            <>
              {choice}
              <Variants
                {...{ lesson, step, place, own, attempt, patch }}
                onChoose={onChoose}
                keeping={<KeepingState attempt={attempt} />}
              />
            </>
          }
        >
          <Helps
            {...{ lesson, step, own, attempt, patch }}
            onLook={(module) => setLookAt({ kind: "module", module })}
          />
        </StepText>
      }
      bench={
        <Bench
          key={attempt.id}
          {...onBench(lesson, contents, place, step, catalogue)}
          stepId={benchOf(attempt.id)}
          whose="Mine"
          patch={patch}
          phrase={phrase}
          target={target}
          lookAt={lookAt}
          onChange={(played, before) => {
            attempts.change(attempt, { patch: played.patch }, { patch: before.patch });
            setPhrase(played.phrase);
          }}
        />
      }
    />
  );
}

interface HelpsProps {
  lesson: Lesson;
  step: Step;
  own: OwnBench;
  attempt: Attempt;
  patch: Patch;
  onLook: (module: string) => void;
}

/** What helps one on at one's own bench: how near one is, questions, and recordings of another instrument. */
function Helps({ lesson, step, own, attempt, patch, onLook }: HelpsProps) {
  const [asking, setAsking] = useState<string>();
  return (
    <>
      <NearPanel
        key={attempt.id}
        lessonId={lesson.id}
        stepId={step.id}
        patch={patch}
        onShown={() => attempts.showNext(attempt)}
        onPatch={(shown) => attempts.change(attempt, { patch: shown })}
        onLook={onLook}
        onAsk={setAsking}
      />
      <Questions
        lessonId={lesson.id}
        stepId={step.id}
        attemptId={attempt.id}
        questions={own.questions}
        place={asking}
        onPlace={setAsking}
      />
      <PlayedPanel lessonId={lesson.id} stepId={step.id} played={own.played} />
    </>
  );
}

/** Lets the target stand behind the lenses at one's own bench, and no longer than that. */
function useTargetBehind(attemptId: string): void {
  const { compareWith } = useLenses();
  useEffect(() => {
    compareWith("target");
    return () => compareWith("fitting");
  }, [compareWith, attemptId]);
}

/**
 * What is played at one's own bench, and how it is changed: the step's phrase, or what one has made of it. Its movements
 * reach the levers that are there for the step's; it is remembered as the step calls them, whatever comes and goes here.
 */
function usePhrase(phrase: Phrase, levers: Ticked["levers"] = NO_LEVERS) {
  const [own, setOwn] = useState(phrase);
  const played = useMemo(() => atLevers(own, levers), [own, levers]);
  const set = (changed: Phrase) => {
    if (changed === played) return;
    setOwn(atLevers(changed, Object.fromEntries(Object.entries(levers).map(([id, mine]) => [mine, id]))));
  };
  return [played, set] as const;
}

/** Of each instruction, whether the patch shows it, and which levers are there for those of the step. */
function useTicks(lessonId: string, stepId: string, patch: Patch): Ticked | undefined {
  const settled = useSettled(patch, TICK_MS);
  const params = { path: { lesson_id: lessonId, step_id: stepId } };
  return useQuery({
    queryKey: ["ticks", stepId, settled],
    staleTime: Infinity,
    gcTime: 30_000,
    placeholderData: keepPreviousData,
    queryFn: () =>
      got(
        client.POST("/api/practice/{lesson_id}/steps/{step_id}/ticks", {
          params,
          body: { patch: settled, shown: false },
        }),
      ),
  }).data;
}

/** Whether one's bench is kept: shown at all times, and never before it is true. */
function KeepingState({ attempt }: { attempt: Attempt }) {
  const { state, message } = useKeepingAttempt(attempt);
  if (state === "kept") return <span data-own-keeping="kept">kept</span>;
  const failed = message !== undefined;
  return (
    <span data-own-keeping={failed ? "failed" : "keeping"} className={failed ? "font-medium text-warn" : ""}>
      {failed ? `not kept yet: ${message}` : "…"}
    </span>
  );
}
