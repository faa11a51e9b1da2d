import { Link } from "react-router";

import type { Published } from "../api/client";
import { InSeries } from "./InSeries";
import { LessonLink } from "./LessonLink";

/** A lesson that can be practised, and how far one has come. */
export function PublishedRow({ lesson }: { lesson: Published }) {
  const begun = lesson.begun !== null;
  const newer = begun && lesson.begun !== lesson.edition;
  return (
    <li className="grid grid-cols-[1fr_auto] gap-x-8 gap-y-3 border-t border-rule py-5 narrow:grid-cols-1">
      <div>
        <LessonLink to={`/practice/${lesson.id}`} title={lesson.title} />
        <p className="mt-1 max-w-xl font-read text-read leading-normal">{lesson.summary}</p>
        <p className="mt-2 text-soft">
          {lesson.step_count} {lesson.step_count === 1 ? "step" : "steps"}
          {lesson.has_short && ", also as a short edition"}; by {lesson.owner}
          <InSeries series={lesson.series} />
        </p>
        {begun && (
          <p className="mt-1">
            You are at step {lesson.place + 1}
            {newer && `, in edition ${lesson.begun}; edition ${lesson.edition} is out`}.
          </p>
        )}
      </div>
      <Link to={`/practice/${lesson.id}`} className="button-strong self-start">
        {begun ? "Go on" : "Begin"}
      </Link>
    </li>
  );
}
