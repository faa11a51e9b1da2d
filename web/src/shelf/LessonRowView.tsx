import { Link } from "react-router";

import type { LessonRow } from "../api/client";
import { day } from "../ui/times";
import { InSeries } from "./InSeries";
import { LessonLink } from "./LessonLink";

/** A lesson as its educators find it. */
export function LessonRowView({ lesson, onDelete }: { lesson: LessonRow; onDelete: () => void }) {
  const writes = lesson.right !== "read";
  const open = writes ? `/desk/${lesson.id}/1` : `/practice/${lesson.id}/1`;
  return (
    <li className="grid grid-cols-[1fr_auto] gap-x-8 gap-y-3 border-t border-rule py-5 narrow:grid-cols-1">
      <div>
        <LessonLink to={open} title={lesson.title} />
        <p className="mt-1 max-w-xl font-read text-read leading-normal">{lesson.summary}</p>
        <p className="mt-2 text-soft">
          {lesson.step_count} {lesson.step_count === 1 ? "step" : "steps"}, last changed on{" "}
          {day(lesson.updated_at)}; {lesson.edition === null ? "not published" : `edition ${lesson.edition}`}
          {lesson.right !== "own" &&
            `; ${lesson.owner} shares it with you for ${writes ? "writing too" : "reading"}`}
          <InSeries series={lesson.series} />
        </p>
      </div>
      <div className="flex flex-col items-stretch gap-2 self-start pt-1 text-center narrow:flex-row narrow:flex-wrap narrow:items-center narrow:gap-4">
        {writes && (
          <Link to={open} className="button-strong">
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
