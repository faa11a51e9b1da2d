import { useState } from "react";
import { useParams } from "react-router";

import type { ClassWork } from "../api/client";
import { Answering } from "../lesson/Answering";
import { Guarded } from "../ui/Guarded";
import { Header } from "../ui/Header";
import { Failed, Waiting } from "../ui/Waiting";
import { refreshWork, useWork } from "./classes";
import { WorkTable } from "./WorkTable";

/** A class in one of its lessons, as it goes on: who stands where, what stops them, and what they ask. */
export function WorkScreen() {
  const { classId = "", lessonId = "" } = useParams();
  const work = useWork(classId, lessonId);
  return (
    <div className="flex h-full flex-col">
      <Header
        title={
          work.data && (
            <span className="truncate">
              {work.data.lesson.title}, edition {work.data.lesson.edition}
            </span>
          )
        }
        status={work.error && work.data ? "Asking again…" : undefined}
        places={[
          { label: "Classes", to: "/classes", here: false },
          { label: work.data?.title ?? "Class", to: `/classes/${classId}`, here: false },
        ]}
      />
      {work.error && !work.data && <Failed message={work.error.message} retry={() => void work.refetch()} />}
      {work.isPending && <Waiting>Looking who is there…</Waiting>}
      {work.data && <OpenWork classId={classId} work={work.data} />}
    </div>
  );
}

function OpenWork({ classId, work }: { classId: string; work: ClassWork }) {
  const [chosen, setChosen] = useState<string>();
  const step = work.steps.find(({ id }) => id === chosen) ?? busiest(work);
  return (
    <main className="flex min-h-0 flex-1 narrow:flex-col narrow:overflow-y-auto">
      <h1 className="sr-only">
        {work.title}: {work.lesson.title}
      </h1>
      <div className="min-w-0 flex-1 overflow-auto narrow:overflow-visible">
        <Guarded what="The table" until={[work]}>
          <WorkTable work={work} classId={classId} chosen={step?.id} onChoose={setChosen} />
        </Guarded>
      </div>
      <aside className="w-96 shrink-0 overflow-y-auto border-l border-rule px-5 py-4 narrow:w-full narrow:border-l-0">
        <Guarded what="What stops them" until={[work, step]}>
          {step && <Stops work={work} step={step} />}
        </Guarded>
        <Guarded what="What is asked" until={[work]}>
          <Asked classId={classId} work={work} />
        </Guarded>
      </aside>
    </main>
  );
}

type StepIn = ClassWork["steps"][number];

/** The step at which the most people stand who have not done it. */
function busiest({ steps, people }: ClassWork): StepIn | undefined {
  const stuck = (step: StepIn) =>
    people.filter(
      (one) =>
        one.step_id === step.id &&
        !one.standings.some(({ step_id, state }) => step_id === step.id && state === "done"),
    ).length;
  return steps.reduce<StepIn | undefined>(
    (best, step) => (best && stuck(best) >= stuck(step) ? best : step),
    undefined,
  );
}

/** What remains to be done at a step, and at how many benches. */
function Stops({ work, step }: { work: ClassWork; step: StepIn }) {
  const place = work.steps.findIndex(({ id }) => id === step.id);
  const benches = work.people.filter((one) => one.attempts.some(({ step_id }) => step_id === step.id)).length;
  return (
    <section aria-labelledby="stops" className="mb-8" data-stops={place + 1}>
      <h2 id="stops" className="text-soft">
        What stops them at step {place + 1}
      </h2>
      <p className="mb-2 font-read text-head leading-snug font-semibold">{step.title}</p>
      <p className="mb-3 text-soft">
        {step.here} here now; {benches} with a bench of their own, {step.done} done
      </p>
      {step.stops.length === 0 && (
        <p className="font-read text-read text-soft italic">
          {benches === 0
            ? "Nobody has begun it at a bench of their own."
            : "Nothing that the step tells to do is missing at any bench."}
        </p>
      )}
      <ol>
        {step.stops.map((one) => (
          <li key={one.text} className="mb-3">
            <p className="font-read text-read">{one.text}</p>
            <p className="flex items-center gap-2 text-note text-soft">
              <span className="h-2 flex-1 bg-rule" aria-hidden="true">
                <span
                  className="block h-full bg-compared"
                  style={{ width: `${(100 * one.count) / Math.max(1, benches)}%` }}
                />
              </span>
              missing at {one.count} of {benches}
            </p>
          </li>
        ))}
      </ol>
    </section>
  );
}

/** What waits for an answer, the oldest first, and what was answered. */
function Asked({ classId, work }: { classId: string; work: ClassWork }) {
  const all = work.people.flatMap((one) => one.questions.map((question) => ({ name: one.name, question })));
  const waiting = all
    .filter(({ question }) => !question.answer)
    .toSorted((a, b) => a.question.asked_at.localeCompare(b.question.asked_at));
  const answered = all.filter(({ question }) => question.answer);
  const placeOf = (id: string) => work.steps.findIndex((step) => step.id === id) + 1;
  return (
    <section aria-labelledby="asked">
      <h2 id="asked" className="mb-1 text-soft">
        {waiting.length === 0
          ? "No question waits"
          : `${waiting.length} ${waiting.length === 1 ? "question waits" : "questions wait"}`}
      </h2>
      {[...waiting, ...answered].map(({ name, question }) => (
        <article key={question.id} className="border-t border-rule py-2" data-asks={name}>
          <h3 className="font-read text-read font-semibold">
            {name}
            <span className="font-normal text-soft">
              {placeOf(question.step_id) > 0 && `, at step ${placeOf(question.step_id)}`}
            </span>
          </h3>
          <Answering question={question} onAnswered={() => void refreshWork(classId, work.lesson.id)} />
        </article>
      ))}
    </section>
  );
}
