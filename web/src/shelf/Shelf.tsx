import { type SubmitEvent, useState } from "react";
import { Link, useNavigate } from "react-router";

import { client, got, type LessonRow } from "../api/client";
import { refreshShelf, useLessons } from "../api/queries";
import { Header } from "../ui/Header";
import { Notice } from "../ui/Notice";
import { Failed, Waiting } from "../ui/Waiting";

/** All lessons. */
export function Shelf() {
  const lessons = useLessons();
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

  return (
    <div className="flex h-full flex-col">
      <Header />
      {lessons.error && !lessons.data && (
        <Failed message={lessons.error.message} retry={() => void lessons.refetch()} />
      )}
      {lessons.isPending && <Waiting>Fetching the lessons…</Waiting>}
      {lessons.data && (
        <main className="mx-auto flex w-full max-w-4xl flex-1 flex-col px-8 pt-10 pb-8">
          <h1 className="mb-6 font-read text-4xl font-semibold tracking-tight">Lessons</h1>
          <ul>
            {lessons.data.map((lesson) => (
              <Row key={lesson.id} lesson={lesson} onDelete={() => remove(lesson)} />
            ))}
          </ul>
          {lessons.data.length === 0 && (
            <p className="mb-6 font-read text-lg text-soft italic">
              The shelf is empty. Begin with a title; the first step is made for you.
            </p>
          )}
          <NewLesson onFailure={setFailure} />
        </main>
      )}
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
    </div>
  );
}

function Row({ lesson, onDelete }: { lesson: LessonRow; onDelete: () => void }) {
  const changed = new Date(lesson.updated_at).toLocaleDateString("en-GB", { day: "numeric", month: "long" });
  return (
    <li className="grid grid-cols-[1fr_auto] gap-x-8 border-t border-rule py-5">
      <div>
        <h2 className="font-read text-2xl font-semibold">
          <Link to={`/desk/${lesson.id}/1`} className="hover:text-this">
            {lesson.title}
          </Link>
        </h2>
        <p className="mt-1 max-w-xl font-read text-[16.5px] leading-normal">{lesson.summary}</p>
        <p className="mt-2 text-soft">
          {lesson.step_count} {lesson.step_count === 1 ? "step" : "steps"}, last changed on {changed}
        </p>
      </div>
      <div className="flex flex-col items-stretch gap-2 self-start pt-1 text-center">
        <Link to={`/desk/${lesson.id}/1`} className="button-strong">
          Open at the desk
        </Link>
        <Link to={`/practice/${lesson.id}/1`} className="button">
          Practise
        </Link>
        <button
          type="button"
          aria-label={`Delete “${lesson.title}”`}
          className="text-soft underline decoration-rule underline-offset-4 hover:text-warn"
          onClick={onDelete}
        >
          Delete
        </button>
      </div>
    </li>
  );
}

function NewLesson({ onFailure }: { onFailure: (message: string) => void }) {
  const [title, setTitle] = useState("");
  const navigate = useNavigate();
  const begin = (event: SubmitEvent) => {
    event.preventDefault();
    if (!title.trim()) return;
    got(client.POST("/api/lessons", { body: { title: title.trim(), summary: "" } })).then(
      (lesson) => navigate(`/desk/${lesson.id}/1`),
      (error: unknown) => onFailure(error instanceof Error ? error.message : "That did not work."),
    );
  };
  return (
    <form className="flex items-end gap-3 border-t border-rule pt-5" onSubmit={begin}>
      <label className="flex-1">
        <span className="mb-1 block text-soft">A new lesson</span>
        <input
          className="w-full border-b border-firm bg-transparent py-1 font-read text-xl placeholder:text-soft/70 focus:bg-leaf"
          placeholder="Its title"
          maxLength={200}
          value={title}
          onChange={(event) => setTitle(event.target.value)}
        />
      </label>
      <button type="submit" className="button" disabled={!title.trim()}>
        Begin
      </button>
    </form>
  );
}
