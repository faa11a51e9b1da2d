import { useState } from "react";

import { client, got, type Lesson } from "../api/client";
import { refreshLesson, showLesson } from "../api/queries";
import { messageOf } from "../api/messageOf";

interface Props {
  lesson: Lesson;
  onFailure: (message: string) => void;
}

/** The title of the lesson, changed where it stands; kept when it is left. */
export function LessonTitle({ lesson, onFailure }: Props) {
  const [typed, setTyped] = useState<string | null>(null);
  const commit = () => {
    const title = (typed ?? "").trim();
    setTyped(null);
    if (!title || title === lesson.title) return;
    got(
      client.PUT("/api/lessons/{lesson_id}", {
        params: { path: { lesson_id: lesson.id } },
        keepalive: true, // whoever goes elsewhere at once has renamed it all the same
        body: {
          version: lesson.version,
          title,
          summary: lesson.summary,
          target_first: lesson.target_first,
          target_note: lesson.target_note,
        },
      }),
    ).then(showLesson, (error: unknown) => {
      onFailure(messageOf(error, "The title could not be kept."));
      void refreshLesson(lesson.id);
    });
  };
  return (
    <input
      aria-label="Title of the lesson"
      maxLength={200}
      className="field-sizing-content max-w-full min-w-24 rounded-sm bg-transparent px-1 text-ink hover:bg-this/5 focus:bg-leaf"
      value={typed ?? lesson.title}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={commit}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        if (event.key === "Escape") setTyped(null);
      }}
    />
  );
}
