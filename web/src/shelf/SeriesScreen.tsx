import { type ReactNode, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";

import { client, got, type Series } from "../api/client";
import { useMaking } from "../api/jobs";
import { refreshSeries, showSeries, useLessons, useSeries } from "../api/queries";
import { Guarded } from "../ui/Guarded";
import { Header } from "../ui/Header";
import { Choice } from "../ui/Choice";
import { MakingState } from "../ui/MakingState";
import { messageOf } from "../api/messageOf";
import { Move } from "../ui/Move";
import { Notice } from "../ui/Notice";
import { Failed, Waiting } from "../ui/Waiting";
import { LessonLink } from "./LessonLink";
import { TitleEntry } from "../ui/TitleEntry";

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
            <Guarded what="This series" until={[series.data]}>
              {series.data.is_own ? (
                <OwnSeries series={series.data} />
              ) : (
                <OthersSeries series={series.data} />
              )}
            </Guarded>
          </div>
        </main>
      )}
    </div>
  );
}

function OthersSeries({ series }: { series: Series }) {
  return (
    <>
      <h1 className="font-read text-title font-semibold tracking-tight">{series.title}</h1>
      <p className="mt-1 text-soft">by {series.owner}</p>
      <p className="mt-3 mb-6 max-w-2xl font-read text-read leading-relaxed">{series.summary}</p>
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
    <li className="grid grid-cols-[40px_1fr_auto] items-start gap-x-4 narrow:grid-cols-[28px_1fr] border-t border-rule py-4">
      <span className="font-read text-head text-soft">{number}</span>
      <div>
        <LessonLink to={open} title={lesson.title} />
        {lesson.summary && (
          <p className="mt-1 max-w-xl font-read text-read leading-normal">{lesson.summary}</p>
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

interface SeriesPart {
  title?: string;
  summary?: string;
  lessons?: string[];
}

/** Changing a series; what fails is said, and the series fetched anew. */
function useChange(series: Series) {
  const [failure, setFailure] = useState<string>();
  const navigate = useNavigate();
  const params = { path: { series_id: series.id } };
  const fail = (error: unknown) => {
    setFailure(messageOf(error));
    void refreshSeries(series.id);
  };
  const change = (part: SeriesPart) => {
    const { version, title, summary } = series;
    const body = { version, title, summary, lessons: series.lessons.map((one) => one.id), ...part };
    got(client.PUT("/api/series/{series_id}", { params, body })).then(showSeries, fail);
  };
  const dissolve = () => {
    got(client.DELETE("/api/series/{series_id}", { params })).then(() => navigate("/shelf"), fail);
  };
  return { change, dissolve, fail, failure, dismiss: () => setFailure(undefined) };
}

type Change = (part: SeriesPart) => void;

function OwnSeries({ series }: { series: Series }) {
  const { change, dissolve, fail, failure, dismiss } = useChange(series);
  return (
    <>
      <SeriesText series={series} onChange={change} />
      <OwnLessons series={series} onChange={change} />
      <NextLesson series={series} onFailure={fail} />
      <PutIn series={series} onChange={change} />
      <SaveSeries series={series} />
      <button type="button" className="act-away mt-10" onClick={dissolve}>
        Dissolve the series (its lessons stay)
      </button>
      {failure && (
        <Notice warn onClose={dismiss}>
          {failure}
        </Notice>
      )}
    </>
  );
}

/** Saves the series with all its lessons as one file. */
function SaveSeries({ series }: { series: Series }) {
  const making = useMaking();
  const save = () =>
    making.make("Packing it", () =>
      got(client.POST("/api/series/{series_id}/bundle", { params: { path: { series_id: series.id } } })),
    );
  return (
    <div className="mt-6 flex flex-wrap items-center gap-3">
      {!making.busy && (
        <button type="button" className="button" onClick={save}>
          Save as a bundle
        </button>
      )}
      <MakingState making={making} />
    </div>
  );
}

function SeriesText({ series, onChange }: { series: Series; onChange: Change }) {
  const [title, setTitle] = useState(series.title);
  const [summary, setSummary] = useState(series.summary);
  return (
    <>
      <input
        aria-label="Title of the series"
        maxLength={200}
        className="w-full rounded-sm bg-transparent font-read text-title font-semibold tracking-tight hover:bg-this/5 focus:bg-leaf"
        value={title}
        onChange={(event) => setTitle(event.target.value)}
        onBlur={() => title.trim() && title !== series.title && onChange({ title: title.trim() })}
      />
      <h1 className="sr-only">{series.title}</h1>
      <textarea
        aria-label="What the series is about"
        placeholder="What is the series about?"
        rows={1}
        maxLength={2000}
        className="mt-2 mb-6 field-sizing-content w-full max-w-2xl resize-none rounded-sm bg-transparent font-read text-read leading-relaxed placeholder:text-soft hover:bg-this/5 focus:bg-leaf"
        value={summary}
        onChange={(event) => setSummary(event.target.value)}
        onBlur={() => summary !== series.summary && onChange({ summary })}
      />
    </>
  );
}

function OwnLessons({ series, onChange }: { series: Series; onChange: Change }) {
  const ids = series.lessons.map((one) => one.id);
  const move = (place: number, by: number) => {
    const [moved] = ids.slice(place, place + 1);
    if (moved !== undefined) onChange({ lessons: ids.toSpliced(place, 1).toSpliced(place + by, 0, moved) });
  };
  if (ids.length === 0)
    return (
      <p className="border-t border-rule py-4 font-read text-read text-soft italic">
        No lessons yet. Begin one here, or put one in.
      </p>
    );
  return (
    <ol>
      {series.lessons.map((one, place) => (
        <LessonItem key={one.id} lesson={one} number={place + 1} open={`/desk/${one.id}/1`}>
          <Move word="↑" label={`Move “${one.title}” up`} off={place === 0} run={() => move(place, -1)} />
          <Move
            word="↓"
            label={`Move “${one.title}” down`}
            off={place === ids.length - 1}
            run={() => move(place, 1)}
          />
          <Move
            word="Take out"
            label={`Take out “${one.title}”`}
            run={() => onChange({ lessons: ids.filter((id) => id !== one.id) })}
          />
        </LessonItem>
      ))}
    </ol>
  );
}

/** Puts a lesson of one's own into the series. */
function PutIn({ series, onChange }: { series: Series; onChange: Change }) {
  const lessons = useLessons();
  const [chosen, setChosen] = useState("");
  const ids = series.lessons.map((one) => one.id);
  const free = lessons.data?.filter((one) => one.right === "own" && !ids.includes(one.id)) ?? [];
  if (free.length === 0) return null;
  return (
    <form
      className="mt-5 flex items-center gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        onChange({ lessons: [...ids, chosen] });
        setChosen("");
      }}
    >
      <span className="text-soft">A lesson of yours</span>
      <Choice
        label="A lesson of yours"
        value={chosen}
        options={[{ value: "", word: "Choose…" }, ...free.map((one) => ({ value: one.id, word: one.title }))]}
        onChange={setChosen}
      />
      <button type="submit" className="button" disabled={!free.some((one) => one.id === chosen)}>
        Put it in
      </button>
    </form>
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
