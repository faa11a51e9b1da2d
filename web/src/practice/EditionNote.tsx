import { useState } from "react";
import { Link, useNavigate } from "react-router";

import { client, got, type Lesson } from "../api/client";
import { refreshPractice } from "../api/queries";
import { messageOf } from "../api/messageOf";
import { Failure } from "../ui/Failure";

/** Says which edition of a lesson this is where there is a choice: a newer one, a shorter one. */
export function EditionNote({ lesson, place }: { lesson: Lesson; place: number }) {
  const navigate = useNavigate();
  const [failure, setFailure] = useState<string>();
  const { edition } = lesson;
  if (!edition) return null;
  const learns = lesson.right === null;
  const newer = learns && edition.begun && edition.number < edition.latest;
  const moveOn = async () => {
    try {
      const body = { place, short: edition.short, newest: true };
      const there = await got(
        client.PUT("/api/practice/{lesson_id}", { params: { path: { lesson_id: lesson.id } }, body }),
      );
      await refreshPractice(lesson.id);
      await navigate(`/practice/${lesson.id}/${there.place + 1}`);
    } catch (error) {
      setFailure(messageOf(error));
    }
  };
  const extra = lesson.steps[place]?.content.extra;
  const choice = edition.has_short && (place === 0 || extra);
  if (!newer && !choice) return null;
  return (
    <div className="mb-3 border border-compared bg-leaf p-2.5" data-edition={edition.number}>
      {newer && (
        <>
          <p>
            You are in edition {edition.number}. Edition {edition.latest} is out.
          </p>
          <button type="button" className="button mt-1.5" onClick={() => void moveOn()}>
            Move on to edition {edition.latest}
          </button>
        </>
      )}
      {choice && (
        <p className={newer ? "mt-2" : ""}>
          {edition.short
            ? "This is the short edition. "
            : extra
              ? "This step is extra. "
              : "Steps with a dashed ring are extra. "}
          <Link
            to={`/practice/${lesson.id}/1?${new URLSearchParams({
              ...(learns ? {} : { edition: String(edition.number) }),
              short: edition.short ? "no" : "yes",
            })}`}
            className="link"
          >
            {edition.short ? "Follow the whole lesson" : "Follow the short edition"}
          </Link>
        </p>
      )}
      <Failure said={failure} />
    </div>
  );
}
