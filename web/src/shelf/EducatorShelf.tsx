import { useState } from "react";

import { client, got, type LessonRow } from "../api/client";
import { refreshShelf, useLessons, usePublished, useSeriesList } from "../api/queries";
import { Notice } from "../ui/Notice";
import { Found } from "./Found";
import { LessonRowView } from "./LessonRowView";
import { NewLesson } from "./NewLesson";
import { PublishedRow } from "./PublishedRow";
import { SeriesList } from "./SeriesList";
import { ShelfFrame } from "./ShelfFrame";

/** An educator's lessons and series, those that are shared with them, and what others have published. */
export function EducatorShelf() {
  const lessons = useLessons();
  const series = useSeriesList();
  const published = usePublished("");
  const [words, setWords] = useState("");
  const [deleted, setDeleted] = useState<LessonRow>();
  const [failure, setFailure] = useState<string>();

  const attempt = (action: Promise<unknown>, done: () => void) => {
    action.then(done, (error: unknown) =>
      setFailure(error instanceof Error ? error.message : "That did not work."),
    );
  };
  const remove = (lesson: LessonRow) =>
    attempt(
      got(client.DELETE("/api/lessons/{lesson_id}", { params: { path: { lesson_id: lesson.id } } })),
      () => {
        setDeleted(lesson);
        void refreshShelf();
      },
    );
  const restore = (lesson: LessonRow) =>
    attempt(
      got(client.POST("/api/lessons/{lesson_id}/restore", { params: { path: { lesson_id: lesson.id } } })),
      () => {
        setDeleted(undefined);
        void refreshShelf();
      },
    );
  const own = new Set(lessons.data?.map((one) => one.id));
  const others = published.data?.filter((one) => !own.has(one.id)) ?? [];

  return (
    <>
      <ShelfFrame lessons={lessons} words={words} onWords={setWords}>
        {(rows) =>
          words.trim() ? (
            <Found words={words} />
          ) : (
            <>
              <ul>
                {rows.map((lesson) => (
                  <LessonRowView key={lesson.id} lesson={lesson} onDelete={() => remove(lesson)} />
                ))}
              </ul>
              {rows.length === 0 && (
                <p className="mb-6 font-read text-lg text-soft italic">
                  The shelf is empty. Begin with a title; the first step is made for you.
                </p>
              )}
              <NewLesson lessons={rows} onFailure={setFailure} />
              <SeriesList series={series.data ?? []} onFailure={setFailure} />
              {others.length > 0 && (
                <section className="mt-10" aria-labelledby="others">
                  <h2 id="others" className="mb-3 font-read text-2xl font-semibold">
                    Published by others
                  </h2>
                  <ul>
                    {others.map((one) => (
                      <PublishedRow key={one.id} lesson={one} />
                    ))}
                  </ul>
                </section>
              )}
            </>
          )
        }
      </ShelfFrame>
      {failure ? (
        <Notice warn onClose={() => setFailure(undefined)}>
          {failure}
        </Notice>
      ) : (
        deleted && (
          <Notice
            action={{ label: "Bring it back", run: () => restore(deleted) }}
            onClose={() => setDeleted(undefined)}
          >
            “{deleted.title}” is deleted.
          </Notice>
        )
      )}
    </>
  );
}
