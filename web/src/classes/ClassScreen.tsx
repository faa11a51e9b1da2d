import { useState } from "react";
import { Link, useParams } from "react-router";

import type { Class } from "../api/client";
import { usePublished } from "../api/queries";
import { Choice } from "../ui/Choice";
import { DateEntry } from "../ui/DateEntry";
import { Guarded } from "../ui/Guarded";
import { Header } from "../ui/Header";
import { Move } from "../ui/Move";
import { Notice } from "../ui/Notice";
import { Failed, Waiting } from "../ui/Waiting";
import { type Changes, spoken, useChanges, useClass } from "./classes";
import { Members } from "./Members";
import { Teaching } from "./Teaching";

/** A class for those who teach it: its code, what is set, who is in it, and who teaches it too. */
export function ClassScreen() {
  const { classId = "" } = useParams();
  const found = useClass(classId);
  return (
    <div className="flex h-full flex-col">
      <Header
        title={<span className="truncate">{found.data?.title}</span>}
        places={[
          { label: "Shelf", to: "/shelf", here: false },
          { label: "Classes", to: "/classes", here: false },
        ]}
      />
      {found.error && !found.data && (
        <Failed message={found.error.message} retry={() => void found.refetch()} />
      )}
      {found.isPending && <Waiting>Fetching the class…</Waiting>}
      {found.data && (
        <main className="flex-1 overflow-y-auto">
          <div className="mx-auto w-full max-w-5xl px-8 pt-8 pb-8 narrow:px-4">
            <OpenClass key={found.data.id} found={found.data} />
          </div>
        </main>
      )}
    </div>
  );
}

function OpenClass({ found }: { found: Class }) {
  const changes = useChanges(found);
  return (
    <>
      <div className="mb-8 flex flex-wrap items-start gap-x-10 gap-y-4">
        <div className="min-w-72 flex-1">
          <Title key={found.title} found={found} changes={changes} />
          <p className="mt-1 text-soft">taught by {found.educators.map(({ name }) => name).join(" and ")}</p>
        </div>
        <Code found={found} changes={changes} />
      </div>
      <Guarded what="The list of lessons" until={[found]}>
        <SetLessons found={found} changes={changes} />
      </Guarded>
      <Guarded what="The list of members" until={[found]}>
        <Members found={found} onRemove={(id) => void changes.without("members", id)} />
      </Guarded>
      <Guarded what="The list of those who teach" until={[found]}>
        <Teaching found={found} changes={changes} />
      </Guarded>
      {changes.failure && (
        <Notice warn onClose={changes.dismiss}>
          {changes.failure}
        </Notice>
      )}
    </>
  );
}

interface Props {
  found: Class;
  changes: Changes;
}

function Title({ found, changes }: Props) {
  const [title, setTitle] = useState(found.title);
  return (
    <>
      <h1 className="sr-only">{found.title}</h1>
      <input
        aria-label="Title of the class"
        maxLength={200}
        className="w-full rounded-sm bg-transparent font-read text-title font-semibold tracking-tight hover:bg-this/5 focus:bg-leaf"
        value={title}
        onChange={(event) => setTitle(event.target.value)}
        onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
        onBlur={() => {
          if (!title.trim()) setTitle(found.title);
          else if (title.trim() !== found.title) void changes.change({ title: title.trim() });
        }}
      />
    </>
  );
}

/** The code, as large as it is read from the back row. */
function Code({ found, changes }: Props) {
  return (
    <section aria-label="The code" className="border border-firm bg-leaf px-5 py-3" data-code={found.code}>
      <p className="text-soft">{found.open ? "Join with the code" : "Nobody can join now"}</p>
      <p
        className={`font-read text-title font-semibold tracking-widest whitespace-nowrap ${found.open ? "" : "text-soft line-through"}`}
      >
        {spoken(found.code)}
      </p>
      <div className="mt-1 flex gap-5">
        <button type="button" className="act" onClick={() => void changes.change({ open: !found.open })}>
          {found.open ? "Close the class" : "Let others join"}
        </button>
        <button type="button" className="act" onClick={() => void changes.renewCode()}>
          Another code
        </button>
      </div>
    </section>
  );
}

function SetLessons({ found, changes }: Props) {
  const { lessons } = found;
  const put = (now: Class["lessons"]) => void changes.change({ lessons: now });
  const move = (place: number, by: number) => {
    const [moved] = lessons.slice(place, place + 1);
    if (moved) put(lessons.toSpliced(place, 1).toSpliced(place + by, 0, moved));
  };
  return (
    <section aria-labelledby="set" className="mb-10">
      <h2 id="set" className="mb-1 font-read text-head font-semibold">
        Lessons
      </h2>
      {lessons.length === 0 && (
        <p className="font-read text-read text-soft italic">
          Nothing is set yet. Choose a published lesson; then you can follow how the class does it.
        </p>
      )}
      <ol>
        {lessons.map((one, place) => (
          <li
            key={one.id}
            className="flex flex-wrap items-center gap-x-4 gap-y-1 border-t border-rule py-2.5"
          >
            <span className="w-5 font-read text-soft">{place + 1}</span>
            <Link
              to={`/classes/${found.id}/${one.id}`}
              className="link flex-1 font-read text-read font-semibold"
            >
              {one.title}
            </Link>
            <span className="text-soft">
              {one.step_count} steps, edition {one.edition}, by {one.owner}
            </span>
            <label className="flex items-center gap-2 text-soft">
              for
              <DateEntry
                label={`Date for “${one.title}”`}
                value={one.due}
                onCommit={(due) => put(lessons.with(place, { ...one, due }))}
              />
            </label>
            <Move word="↑" label={`Move “${one.title}” up`} off={place === 0} run={() => move(place, -1)} />
            <Move
              word="↓"
              label={`Move “${one.title}” down`}
              off={place === lessons.length - 1}
              run={() => move(place, 1)}
            />
            <Move
              word="Take out"
              label={`Take out “${one.title}”`}
              run={() => put(lessons.filter(({ id }) => id !== one.id))}
            />
          </li>
        ))}
      </ol>
      <SetAnother found={found} onSet={(id) => put([...lessons, { ...BLANK, id }])} />
    </section>
  );
}

const BLANK = { title: "", owner: "", edition: 0, step_count: 0, due: null };

function SetAnother({ found, onSet }: { found: Class; onSet: (id: string) => void }) {
  const published = usePublished("");
  const [chosen, setChosen] = useState("");
  const taken = new Set(found.lessons.map(({ id }) => id));
  const free = published.data?.filter(({ id }) => !taken.has(id)) ?? [];
  if (published.data && free.length === 0)
    return <p className="mt-3 text-soft">There is no other published lesson.</p>;
  const options = free.map((one) => ({ value: one.id, word: `${one.title} (by ${one.owner})` }));
  return (
    <form
      className="mt-3 flex items-center gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        onSet(chosen);
        setChosen("");
      }}
    >
      <span className="text-soft">A published lesson</span>
      <Choice
        label="A published lesson"
        value={chosen}
        options={[{ value: "", word: "Choose…" }, ...options]}
        onChange={setChosen}
      />
      <button type="submit" className="button" disabled={!free.some(({ id }) => id === chosen)}>
        Set it
      </button>
    </form>
  );
}
