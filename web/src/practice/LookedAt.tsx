import { type ReactNode, useState } from "react";
import { Link } from "react-router";

import type { Step } from "../api/client";
import { useLearners } from "../api/queries";
import { Bench } from "../bench/Bench";
import type { LookAt } from "../bench/store";
import { followLink } from "../lesson/followLink";
import type { OpenLesson } from "../lesson/LessonScreen";
import { onBench } from "../lesson/onBench";
import { StepText } from "../lesson/StepText";
import { Failed, Waiting } from "../ui/Waiting";
import { dayAndTime } from "../ui/times";
import { Answering } from "../lesson/Answering";
import { StepPage } from "./StepPage";

interface Props extends OpenLesson {
  step: Step;
  thread: ReactNode;
  foot: ReactNode;
  attemptId: string;
}

/** What a learner has made of a step, for the educator: seen and heard beside the step, and never changed. */
export function LookedAt({ lesson, catalogue, place, step, thread, foot, attemptId }: Props) {
  const learners = useLearners(lesson.id);
  const [lookAt, setLookAt] = useState<LookAt>();
  const learner = learners.data?.find(({ attempts }) => attempts.some(({ id }) => id === attemptId));
  const attempt = learner?.attempts.find(({ id }) => id === attemptId);
  if (learners.error)
    return <Failed message={learners.error.message} retry={() => void learners.refetch()} />;
  if (!learners.data) return <Waiting>Opening the attempt…</Waiting>;
  if (!learner || attempt?.step_id !== step.id)
    return <Failed message="There is no such attempt at this step." retry={() => void learners.refetch()} />;
  const { content } = step;
  const contents = lesson.steps.map((one) => one.content);
  const asked = learner.questions.filter((one) => one.step_id === step.id);
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
            <div className="mb-3 border border-compared bg-leaf p-2.5" data-looked-at={learner.name}>
              <p>
                This is <b className="font-semibold">{learner.name}</b>’s bench, “{attempt.name}”, as it was{" "}
                {dayAndTime(attempt.updated_at)}. Only they see it, and those who may open this lesson at its
                desk. Nothing here changes it.
              </p>
              {asked.map((one) => (
                <Answering key={one.id} question={one} lessonId={lesson.id} />
              ))}
              <Link to={`/practice/${lesson.id}/${place + 1}`} className="button mt-2 inline-block">
                Back to the step
              </Link>
            </div>
          }
        />
      }
      bench={
        <Bench
          key={attempt.id}
          {...onBench(lesson, contents, place, step, catalogue)}
          whose={learner.name}
          patch={attempt.patch}
          before={{ patch: content.patch, phrase: content.phrase, name: "the step" }}
          target={undefined}
          lookAt={lookAt}
        />
      }
    />
  );
}
