import { Link } from "react-router";

import type { LessonRow } from "../api/client";
import { day } from "../ui/times";
import { InSeries } from "./InSeries";
import { rowLook, summaryLook } from "./InOrder";
import { LessonLink } from "./LessonLink";

interface Props {
  lesson: LessonRow;
  /** Its place in the series under whose title it stands. */
  number: number | undefined;
  onDelete: () => void;
}

/** A lesson as its educators find it; in a series, a line of it. */
export function LessonRowView({ lesson, number, onDelete }: Props) {
  const writes = lesson.right !== "read";
  const open = writes ? `/desk/${lesson.id}/1` : `/practice/${lesson.id}/1`;
  return (
    <li className={rowLook(number)}>
      <div className="min-w-0">
        <LessonLink to={open} title={lesson.title} number={number} />
        <p className={summaryLook(number)}>{lesson.summary}</p>
        <p className={number === undefined ? "mt-2 text-soft" : "pl-7 text-soft"}>
          {lesson.step_count} {lesson.step_count === 1 ? "step" : "steps"}, last changed on{" "}
          {day(lesson.updated_at)}; {lesson.edition === null ? "not published" : `edition ${lesson.edition}`}
          {lesson.right !== "own" &&
            `; ${lesson.owner} shares it with you for ${writes ? "writing too" : "reading"}`}
          {number === undefined && <InSeries series={lesson.series} />}
        </p>
      </div>
      <div
        className={`flex gap-2 self-start pt-1 text-center narrow:flex-row narrow:flex-wrap narrow:items-center narrow:gap-4 ${
          number === undefined ? "flex-col items-stretch" : "items-baseline gap-3"
        }`}
      >
        {writes && (
          <Link to={open} className={number === undefined ? "button-strong" : "button"}>
            Open at the desk
          </Link>
        )}
        <Link to={`/practice/${lesson.id}/1`} className="button">
          Practise
        </Link>
        {lesson.right === "own" && (
          <button
            type="button"
            aria-label={`Delete “${lesson.title}”`}
            className="act-away"
            onClick={onDelete}
          >
            Delete
          </button>
        )}
      </div>
    </li>
  );
}
