import { Link } from "react-router";

import type { AtWork, ClassWork, StepAtWork } from "../api/client";
import { saidOf, StandingMark } from "../lesson/StandingMark";

interface Props {
  work: ClassWork;
  classId: string;
  /** The step of which is told what stops people. */
  chosen: string | undefined;
  onChoose: (stepId: string) => void;
}

/** Who stands at which step, and what they have made there. */
export function WorkTable({ work, classId, chosen, onChoose }: Props) {
  if (work.people.length === 0)
    return (
      <p className="m-8 max-w-lg font-read text-read text-soft italic">
        Nobody has joined the class yet. As soon as somebody does, they stand here, at the step where they
        are.
      </p>
    );
  return (
    <table className="w-full border-collapse text-left">
      <thead className="sticky top-0 z-10 bg-paper">
        <tr>
          <th scope="col" className="sticky left-0 bg-paper px-5 py-2 align-bottom font-normal text-soft">
            {work.people.length} in the class
          </th>
          {work.steps.map((step, place) => (
            <StepHead
              key={step.id}
              step={step}
              number={place + 1}
              chosen={step.id === chosen}
              onChoose={() => onChoose(step.id)}
            />
          ))}
        </tr>
      </thead>
      <tbody>
        {work.people.map((one) => (
          <Row key={one.id} person={one} work={work} classId={classId} chosen={chosen} />
        ))}
      </tbody>
    </table>
  );
}

interface HeadProps {
  step: StepAtWork;
  number: number;
  chosen: boolean;
  onChoose: () => void;
}

function StepHead({ step, number, chosen, onChoose }: HeadProps) {
  return (
    <th scope="col" className={`p-0 align-bottom font-normal ${chosen ? "bg-this-wash" : ""}`}>
      <button
        type="button"
        aria-pressed={chosen}
        title={`Step ${number}: ${step.title}. What stops people here?`}
        className={`h-full w-full min-w-24 border-b-3 px-2 py-2 text-left hover:bg-this-wash ${chosen ? "border-this" : "border-rule"}`}
        onClick={onChoose}
      >
        <span className="line-clamp-3 text-note leading-snug">
          <b className="font-semibold">{number}</b> {step.title}
        </span>
        <span className="block text-note whitespace-nowrap text-soft">
          {step.here} here, {step.done} done
        </span>
      </button>
    </th>
  );
}

interface RowProps {
  person: AtWork;
  work: ClassWork;
  classId: string;
  chosen: string | undefined;
}

function Row({ person, work, classId, chosen }: RowProps) {
  const asks = person.questions.filter(({ answer }) => !answer);
  return (
    <tr className="border-b border-rule" data-at-work={person.name}>
      <th
        scope="row"
        className="sticky left-0 max-w-56 truncate bg-paper px-5 py-1 font-read text-read font-semibold"
      >
        {person.name}
        {asks.length > 0 && <span className="ml-2 font-work text-note text-warn">asks</span>}
        {!person.step_id && person.standings.length === 0 && (
          <span className="ml-2 font-work text-note font-normal text-soft">not begun</span>
        )}
      </th>
      {work.steps.map((step, place) => (
        <Cell
          key={step.id}
          {...{ person, step, place, classId, lessonId: work.lesson.id }}
          chosen={step.id === chosen}
        />
      ))}
    </tr>
  );
}

interface CellProps {
  person: AtWork;
  step: StepAtWork;
  place: number;
  classId: string;
  lessonId: string;
  chosen: boolean;
}

/** How far somebody is with a step; their bench is opened from here. */
function Cell({ person, step, place, classId, lessonId, chosen }: CellProps) {
  const standing = person.standings.find(({ step_id }) => step_id === step.id);
  const [attempt] = person.attempts.filter(({ step_id }) => step_id === step.id);
  const here = person.step_id === step.id;
  const asks = person.questions.some(({ step_id, answer }) => step_id === step.id && !answer);
  const said = `${person.name}, step ${place + 1}: ${saidOf(standing)}${here ? "; here now" : ""}${asks ? "; asks" : ""}`;
  const mark = (
    <span
      className={`relative inline-block ${here ? "rounded-full outline-2 outline-offset-2 outline-ink" : ""}`}
    >
      <StandingMark standing={standing} number={place + 1} />
      {asks && (
        <span
          aria-hidden="true"
          className="absolute -top-1.5 -right-2 grid size-4 place-items-center rounded-full bg-warn text-note font-bold text-leaf"
        >
          ?
        </span>
      )}
    </span>
  );
  return (
    <td className={`px-2 py-1 ${chosen ? "bg-this-wash" : ""}`} title={said}>
      {attempt ? (
        <Link
          to={`/practice/${lessonId}/${place + 1}?attempt=${attempt.id}&class=${classId}`}
          aria-label={`${said}. Open “${attempt.name}”`}
          className="inline-block p-0.5"
        >
          {mark}
        </Link>
      ) : (
        <span role="img" aria-label={said} className="inline-block p-0.5">
          {mark}
        </span>
      )}
    </td>
  );
}
