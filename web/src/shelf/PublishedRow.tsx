import { Link } from "react-router";

import type { Published } from "../api/client";
import { InSeries } from "./InSeries";
import { rowLook, summaryLook } from "./InOrder";
import { LessonLink } from "./LessonLink";

const STEP = 13;

/** A lesson that can be practised, and how far one has come; in a series, a line of it. */
export function PublishedRow({ lesson, number }: { lesson: Published; number: number | undefined }) {
  const begun = lesson.begun !== null;
  const newer = begun && lesson.begun !== lesson.edition;
  return (
    <li className={rowLook(number)}>
      <div className="min-w-0">
        <LessonLink to={`/practice/${lesson.id}`} title={lesson.title} number={number} />
        <p className={summaryLook(number)}>{lesson.summary}</p>
        <p className={number === undefined ? "mt-2 text-soft" : "pl-7 text-soft"}>
          {lesson.step_count} {lesson.step_count === 1 ? "step" : "steps"}
          {lesson.has_short && ", also as a short edition"}; by {lesson.owner}
          {number === undefined && <InSeries series={lesson.series} />}
        </p>
        {begun && (
          <p className="mt-1 flex flex-wrap items-center gap-x-3">
            <Way lesson={lesson} />
            <span>
              You are at step {lesson.place + 1}
              {newer && `, in edition ${lesson.begun}; edition ${lesson.edition} is out`}
              {lesson.done > 0 && `; ${lesson.done} done at your own bench`}.
            </span>
          </p>
        )}
      </div>
      <Link
        to={`/practice/${lesson.id}`}
        className={`self-start ${number === undefined ? "button-strong" : "button"}`}
      >
        {begun ? (isThrough(lesson) ? "Look again" : "Go on") : "Begin"}
      </Link>
    </li>
  );
}

/** Whether one has been at the end. */
export const isThrough = ({ begun, reached, length }: Published): boolean =>
  begun !== null && reached >= length - 1;

/** The steps as they stand in a row: where one has been, where one is. */
function Way({ lesson }: { lesson: Published }) {
  const { length, reached, place } = lesson;
  return (
    <svg width={length * STEP} height="12" aria-hidden="true" data-way={`${reached + 1}/${length}`}>
      {Array.from({ length }, (_, n) => (
        <circle
          key={n}
          cx={n * STEP + STEP / 2}
          cy="6"
          r={n === place ? 5 : 3.5}
          fill={n <= reached ? "var(--color-ink)" : "var(--color-leaf)"}
          stroke="var(--color-ink)"
        />
      ))}
    </svg>
  );
}
