import { Link } from "react-router";

import type { Lesson } from "../api/client";

interface Props {
  start: NonNullable<Lesson["start"]>;
  /** Lets the lesson follow when the one before has moved on. */
  onFollow?: () => void;
}

/** Says where a lesson starts from, and whether that has moved on. */
export function StartNote({ start, onFollow }: Props) {
  const { lesson, title, moved_on: moved } = start;
  if (moved.length === 0 || !onFollow)
    return (
      <p className="mb-2 text-note text-soft">
        {lesson ? (
          <>
            Starts from where{" "}
            <Link to={`/desk/${lesson}/1`} className="link">
              {title}
            </Link>{" "}
            ends.
          </>
        ) : (
          "Starts from where another lesson ended."
        )}
      </p>
    );
  return (
    <div className="mb-3 border border-this bg-this-wash p-2.5" data-moved-on>
      <p>
        <b className="font-semibold">{title}</b>, from whose end this lesson starts, ends differently now:
      </p>
      <ul className="mt-1 text-note">
        {moved.slice(0, 4).map((one, place) => (
          <li key={place}>{one.text}</li>
        ))}
        {moved.length > 4 && <li>and {moved.length - 4} more</li>}
      </ul>
      <button type="button" className="button mt-1.5" onClick={onFollow}>
        Follow in all steps
      </button>
    </div>
  );
}
