import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Link } from "react-router";

import { client, got, type Step } from "../api/client";
import { LIVE_MS } from "../api/queries";
import { Bench } from "../bench/Bench";
import type { LookAt } from "../bench/store";
import { followLink } from "../lesson/followLink";
import type { OpenLesson } from "../lesson/LessonScreen";
import { onBench } from "../lesson/onBench";
import { StepText } from "../lesson/StepText";
import { atLevers } from "../phrase/phrases";
import { Failed, Waiting } from "../ui/Waiting";
import { dayAndTime } from "../ui/times";
import { Answering } from "../lesson/Answering";
import { StepPage } from "./StepPage";

interface Props extends OpenLesson {
  step: Step;
  thread: ReactNode;
  foot: ReactNode;
  attemptId: string;
  /** From which class one has come to it. */
  classId: string | undefined;
}

/** An attempt that one may look at, asked for anew as long as one does. */
const useSeen = (attemptId: string) =>
  useQuery({
    queryKey: ["seen", attemptId],
    staleTime: 0,
    refetchInterval: LIVE_MS,
    queryFn: () =>
      got(client.GET("/api/attempts/{attempt_id}/seen", { params: { path: { attempt_id: attemptId } } })),
  });

/** What a learner has made of a step, for the educator: seen and heard beside the step, and never changed. */
export function LookedAt({ lesson, catalogue, place, step, thread, foot, attemptId, classId }: Props) {
  const seen = useSeen(attemptId);
  const [lookAt, setLookAt] = useState<LookAt>();
  if (seen.error) return <Failed message={seen.error.message} retry={() => void seen.refetch()} />;
  if (!seen.data) return <Waiting>Opening the attempt…</Waiting>;
  const { name, attempt } = seen.data;
  if (attempt.step_id !== step.id)
    return <Failed message="There is no such attempt at this step." retry={() => void seen.refetch()} />;
  const { content } = step;
  const contents = lesson.steps.map((one) => one.content);
  return (
    <StepPage
      title={content.title}
      thread={thread}
      foot={foot}
      text={
        <StepText
          content={content}
          step={step}
          catalogue={catalogue}
          first={place === 0 && !lesson.start}
          onLink={followLink(content, () => undefined, setLookAt)}
          above={
            <Whose
              seen={seen.data}
              back={classId ? `/classes/${classId}/${lesson.id}` : `/practice/${lesson.id}/${place + 1}`}
              toClass={classId !== undefined}
              onAnswered={() => void seen.refetch()}
            />
          }
        />
      }
      bench={
        <Bench
          key={attempt.id}
          {...onBench(lesson, contents, place, step, catalogue)}
          whose={name}
          unshown={
            attempt.may_show
              ? undefined
              : `${name} has not agreed that others see this bench. They can allow it where their variants are.`
          }
          patch={attempt.patch}
          phrase={atLevers(content.phrase, seen.data.levers)}
          before={{ patch: content.patch, phrase: content.phrase, name: "the step" }}
          target={undefined}
          lookAt={lookAt}
        />
      }
    />
  );
}

interface WhoseProps {
  seen: NonNullable<ReturnType<typeof useSeen>["data"]>;
  /** Where one came from, and whether that is a class. */
  back: string;
  toClass: boolean;
  onAnswered: () => void;
}

/** Whose bench it is, whether it may be shown, and what is asked about it. */
function Whose({ seen: { name, attempt, questions }, back, toClass, onAnswered }: WhoseProps) {
  return (
    <div className="mb-3 border border-compared bg-leaf p-2.5" data-looked-at={name}>
      <p>
        This is <b className="font-semibold">{name}</b>’s bench, “{attempt.name}”, as it was{" "}
        {dayAndTime(attempt.updated_at)}. Nothing here changes it.
      </p>
      <p className="mt-1 text-soft" data-may-show={attempt.may_show}>
        {attempt.may_show
          ? "They have agreed that you show it to the class (P)."
          : "It is not for the projector: they have not agreed that others see it."}
      </p>
      {questions.map((one) => (
        <Answering key={one.id} question={one} onAnswered={onAnswered} />
      ))}
      <Link to={back} className="button mt-2 inline-block">
        {toClass ? "Back to the class" : "Back to the step"}
      </Link>
    </div>
  );
}
