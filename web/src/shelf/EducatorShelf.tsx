import { useState } from "react";

import { client, got, type LessonRow } from "../api/client";
import { refreshShelf, useLessons, usePublished, useSeriesList } from "../api/queries";
import { messageOf } from "../api/messageOf";
import { Guarded } from "../ui/Guarded";
import { Notice } from "../ui/Notice";
import { InOrder } from "./InOrder";
import { Found } from "./Found";
import { LessonRowView } from "./LessonRowView";
import { NewLesson } from "./NewLesson";
import { OpenBundle } from "./OpenBundle";
import { Openings } from "./Openings";
import { PublishedRow } from "./PublishedRow";
import { SeriesList } from "./SeriesList";
import { ShelfFrame } from "./ShelfFrame";

/** An educator's lessons and series, those that are shared with them, and what others have published. */
export function EducatorShelf() {
  const lessons = useLessons();
  const [words, setWords] = useState("");
  const [deleted, setDeleted] = useState<LessonRow>();
  const [failure, setFailure] = useState<string>();
  const attempt = (action: Promise<unknown>, gone: LessonRow | undefined) =>
    void action.then(
      () => {
        setDeleted(gone);
        void refreshShelf();
      },
      (error: unknown) => setFailure(messageOf(error)),
    );
  const remove = (lesson: LessonRow) =>
    attempt(got(client.DELETE("/api/lessons/{lesson_id}", { params: at(lesson) })), lesson);
  const restore = (lesson: LessonRow) =>
    attempt(got(client.POST("/api/lessons/{lesson_id}/restore", { params: at(lesson) })), undefined);
  return (
    <>
      <ShelfFrame lessons={lessons} words={words} onWords={setWords}>
        {(rows) => (
          <Guarded what="This list" until={[words, rows]}>
            {words.trim() ? (
              <>
                <Found words={words} />
                <Others own={rows} words={words} />
              </>
            ) : (
              <Lessons rows={rows} onDelete={remove} onFailure={setFailure} />
            )}
          </Guarded>
        )}
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

const at = (lesson: LessonRow) => ({ path: { lesson_id: lesson.id } });

interface LessonsProps {
  rows: LessonRow[];
  onDelete: (lesson: LessonRow) => void;
  onFailure: (message: string) => void;
}

function Lessons({ rows, onDelete, onFailure }: LessonsProps) {
  const series = useSeriesList();
  return (
    <>
      <InOrder
        rows={rows}
        draw={(lesson, number) => (
          <LessonRowView key={lesson.id} lesson={lesson} number={number} onDelete={() => onDelete(lesson)} />
        )}
      />
      {rows.length === 0 && <Openings onFailure={onFailure} />}
      <NewLesson lessons={rows} onFailure={onFailure} />
      <OpenBundle />
      <SeriesList series={series.data ?? []} onFailure={onFailure} />
      <Others own={rows} words="" />
    </>
  );
}

/** What others have published: all of it, or what has all words. */
function Others({ own, words }: { own: LessonRow[]; words: string }) {
  const published = usePublished(words);
  const known = new Set(own.map((one) => one.id));
  const others = published.data?.filter((one) => !known.has(one.id)) ?? [];
  if (others.length === 0) return null;
  return (
    <section className="mt-10" aria-labelledby="others">
      <h2 id="others" className="mb-3 font-read text-head font-semibold">
        Published by others
      </h2>
      <InOrder
        rows={others}
        draw={(one, number) => <PublishedRow key={one.id} lesson={one} number={number} />}
      />
    </section>
  );
}
