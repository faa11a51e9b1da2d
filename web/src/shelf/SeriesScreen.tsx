import { type ReactNode, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";

import { client, got, type Series } from "../api/client";
import { refreshSeries, showSeries, useLessons, useSeries } from "../api/queries";
import { Header } from "../ui/Header";
import { Notice } from "../ui/Notice";
import { Failed, Waiting } from "../ui/Waiting";
import { LessonLink } from "./LessonLink";
import { TitleEntry } from "./TitleEntry";

/** A series on its own page: its lessons in order, each starting where the one before ends. */
export function SeriesScreen() {
  const { seriesId = "" } = useParams();
  const series = useSeries(seriesId);
  return (
    <div className="flex h-full flex-col">
      <Header
        title={<span className="truncate">{series.data?.title}</span>}
        places={[{ label: "Shelf", to: "/shelf", here: false }]}
      />
      {series.error && !series.data && (
        <Failed message={series.error.message} retry={() => void series.refetch()} />
      )}
      {series.isPending && <Waiting>Fetching the series…</Waiting>}
      {series.data && (
        <main className="flex-1 overflow-y-auto">
          <div className="mx-auto w-full max-w-4xl px-8 pt-10 pb-8">
            {series.data.is_own ? <OwnSeries series={series.data} /> : <OthersSeries series={series.data} />}
          </div>
        </main>
      )}
    </div>
  );
}

function OthersSeries({ series }: { series: Series }) {
  return (
    <>
      <h1 className="font-read text-4xl font-semibold tracking-tight">{series.title}</h1>
      <p className="mt-1 text-soft">by {series.owner}</p>
      <p className="mt-3 mb-6 max-w-2xl font-read text-lg leading-relaxed">{series.summary}</p>
      <ol>
        {series.lessons.map((one, place) => (
          <LessonItem key={one.id} lesson={one} number={place + 1} open={`/practice/${one.id}`}>
            <Link to={`/practice/${one.id}`} className="button-strong">
              {one.begun ? "Go on" : "Begin"}
            </Link>
          </LessonItem>
        ))}
      </ol>
    </>
  );
}

interface ItemProps {
  lesson: Series["lessons"][number];
  number: number;
  open: string;
  children: ReactNode;
}

function LessonItem({ lesson, number, open, children }: ItemProps) {
  return (
    <li className="grid grid-cols-[40px_1fr_auto] items-start gap-x-4 border-t border-rule py-4">
      <span className="font-read text-2xl text-soft">{number}</span>
      <div>
        <LessonLink to={open} title={lesson.title} />
        {lesson.summary && (
          <p className="mt-1 max-w-xl font-read text-base leading-normal">{lesson.summary}</p>
        )}
        <p className="mt-1 text-soft">
          {lesson.step_count} {lesson.step_count === 1 ? "step" : "steps"};{" "}
          {lesson.edition === null ? "not published" : `edition ${lesson.edition}`}
          {lesson.continues && "; starts where another lesson ends"}
        </p>
        {lesson.moved_on && (
          <p className="mt-1 text-warn">
            The lesson that it starts from ends differently now: it can follow.
          </p>
        )}
      </div>
      <div className="flex gap-2">{children}</div>
    </li>
  );
}

function OwnSeries({ series }: { series: Series }) {
  const [title, setTitle] = useState(series.title);
  const [summary, setSummary] = useState(series.summary);
  const [failure, setFailure] = useState<string>();
  const lessons = useLessons();
  const navigate = useNavigate();
  const ids = series.lessons.map((one) => one.id);
  const fail = (error: unknown) => {
    setFailure(error instanceof Error ? error.message : "That did not work.");
    void refreshSeries(series.id);
  };
  const change = (part: Partial<{ title: string; summary: string; lessons: string[] }>) => {
    const body = {
      version: series.version,
      title: series.title,
      summary: series.summary,
      lessons: ids,
      ...part,
    };
    got(client.PUT("/api/series/{series_id}", { params: { path: { series_id: series.id } }, body })).then(
      showSeries,
      fail,
    );
  };
  const move = (place: number, by: number) => {
    const [moved] = ids.slice(place, place + 1);
    if (moved !== undefined) change({ lessons: ids.toSpliced(place, 1).toSpliced(place + by, 0, moved) });
  };
  const dissolve = () => {
    got(client.DELETE("/api/series/{series_id}", { params: { path: { series_id: series.id } } })).then(
      () => navigate("/shelf"),
      fail,
    );
  };
  const free = lessons.data?.filter((one) => one.right === "own" && !ids.includes(one.id)) ?? [];
  return (
    <>
      <input
        aria-label="Title of the series"
        maxLength={200}
        className="w-full rounded-sm bg-transparent font-read text-4xl font-semibold tracking-tight hover:bg-this/5 focus:bg-leaf"
        value={title}
        onChange={(event) => setTitle(event.target.value)}
        onBlur={() => title.trim() && title !== series.title && change({ title: title.trim() })}
      />
      <h1 className="sr-only">{series.title}</h1>
      <textarea
        aria-label="What the series is about"
        placeholder="What is the series about?"
        rows={1}
        maxLength={2000}
        className="mt-2 mb-6 field-sizing-content w-full max-w-2xl resize-none rounded-sm bg-transparent font-read text-lg leading-relaxed placeholder:text-soft hover:bg-this/5 focus:bg-leaf"
        value={summary}
        onChange={(event) => setSummary(event.target.value)}
        onBlur={() => summary !== series.summary && change({ summary })}
      />
      <ol>
        {series.lessons.map((one, place) => (
          <LessonItem key={one.id} lesson={one} number={place + 1} open={`/desk/${one.id}/1`}>
            <button
              type="button"
              className="button"
              aria-label={`Move “${one.title}” up`}
              disabled={place === 0}
              onClick={() => move(place, -1)}
            >
              ↑
            </button>
            <button
              type="button"
              className="button"
              aria-label={`Move “${one.title}” down`}
              disabled={place === ids.length - 1}
              onClick={() => move(place, 1)}
            >
              ↓
            </button>
            <button
              type="button"
              className="button"
              aria-label={`Take out “${one.title}”`}
              onClick={() => change({ lessons: ids.filter((id) => id !== one.id) })}
            >
              Take out
            </button>
          </LessonItem>
        ))}
      </ol>
      {ids.length === 0 && (
        <p className="border-t border-rule py-4 font-read text-lg text-soft italic">
          No lessons yet. Begin one here, or put one in.
        </p>
      )}
      <NextLesson series={series} onFailure={fail} />
      {free.length > 0 && (
        <label className="mt-5 flex items-center gap-3">
          <span className="text-soft">Put in a lesson of yours</span>
          <select
            className="rounded border border-firm bg-leaf px-2 py-1.5"
            value=""
            onChange={(event) => change({ lessons: [...ids, event.target.value] })}
          >
            <option value="">Choose…</option>
            {free.map((one) => (
              <option key={one.id} value={one.id}>
                {one.title}
              </option>
            ))}
          </select>
        </label>
      )}
      <button
        type="button"
        className="mt-10 text-soft underline decoration-rule underline-offset-4 hover:text-warn"
        onClick={dissolve}
      >
        Dissolve the series (its lessons stay)
      </button>
      {failure && (
        <Notice warn onClose={() => setFailure(undefined)}>
          {failure}
        </Notice>
      )}
    </>
  );
}

/** Begins the next lesson, where the last one of the series ends. */
function NextLesson({ series, onFailure }: { series: Series; onFailure: (error: unknown) => void }) {
  const [title, setTitle] = useState("");
  const navigate = useNavigate();
  const last = series.lessons.at(-1);
  const begin = (named: string) => {
    const from = last && last.step_count > 0 ? { starts_from: last.id } : {};
    const body = { title: named, summary: "", template: "empty", series: series.id, ...from };
    got(client.POST("/api/lessons", { body })).then((lesson) => navigate(`/desk/${lesson.id}/1`), onFailure);
  };
  const label = last ? `The next lesson, starting where “${last.title}” ends` : "The first lesson";
  return <TitleEntry label={label} title={title} onTitle={setTitle} word="Begin it" onBegin={begin} />;
}
