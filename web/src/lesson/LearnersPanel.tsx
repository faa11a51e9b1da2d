import { Link } from "react-router";

import type { Learner, Lesson } from "../api/client";
import { refreshLearners, useLearners } from "../api/queries";
import { Failure } from "../ui/Failure";
import { Panel } from "../ui/Panel";
import { dayAndTime } from "../ui/times";
import { Answering } from "./Answering";
import { saidOf, StandingMark } from "./StandingMark";

/** Who does the steps of a lesson: how far they are, what they have made, and what they ask. */
export function LearnersPanel({ lesson, onClose }: { lesson: Lesson; onClose: () => void }) {
  const learners = useLearners(lesson.id);
  return (
    <Panel title={`Learners of “${lesson.title}”`} onClose={onClose} size="wide">
      <div className="min-h-0 overflow-y-auto px-4 pt-1 pb-4" data-learners>
        <Failure said={learners.error?.message} />
        {learners.isPending && <p className="text-soft">Looking who is there…</p>}
        {learners.data?.length === 0 && (
          <p className="font-read text-read text-soft italic">
            Nobody has done a step at a bench of their own yet. What learners make there is seen only by them
            and you.
          </p>
        )}
        {learners.data?.map((one) => (
          <LearnerRow key={one.id} lesson={lesson} learner={one} />
        ))}
      </div>
    </Panel>
  );
}

function LearnerRow({ lesson, learner }: { lesson: Lesson; learner: Learner }) {
  return (
    <article className="border-t border-rule py-2.5 first:border-t-0" data-learner={learner.name}>
      <div className="flex items-baseline justify-between gap-3">
        <h3 className="font-read text-read font-semibold">{learner.name}</h3>
        <span className="text-note text-soft">last {dayAndTime(learner.last_at)}</span>
      </div>
      <ol className="mt-1 flex flex-wrap gap-1.5" aria-label={`How far ${learner.name} is`}>
        {lesson.steps.map((step, place) => {
          const standing = learner.standings.find(({ step_id }) => step_id === step.id);
          const said = `Step ${place + 1}: ${saidOf(standing)}`;
          return (
            <li key={step.id} title={said} aria-label={said}>
              <StandingMark standing={standing} number={place + 1} />
            </li>
          );
        })}
      </ol>
      {learner.attempts.length > 0 && (
        <ul className="mt-1.5 flex flex-wrap gap-x-4 gap-y-1">
          {learner.attempts.map((one) => {
            const place = lesson.steps.findIndex(({ id }) => id === one.step_id);
            const name = `Step ${place + 1}: “${one.name}”`;
            return (
              <li key={one.id}>
                {place < 0 ? (
                  <span className="text-soft">At a step that is gone: “{one.name}”</span>
                ) : (
                  <Link to={`/practice/${lesson.id}/${place + 1}?attempt=${one.id}`} className="link">
                    {name}
                  </Link>
                )}
              </li>
            );
          })}
        </ul>
      )}
      {learner.questions.map((one) => (
        <Answering key={one.id} question={one} onAnswered={() => void refreshLearners(lesson.id)} />
      ))}
    </article>
  );
}
