import { useState } from "react";
import { Link } from "react-router";

import { client, got, type Joined } from "../api/client";
import { messageOf } from "../api/messageOf";
import { Failure } from "../ui/Failure";
import { Panel } from "../ui/Panel";
import { calendarDay } from "../ui/times";
import { refreshJoined, useJoined } from "./classes";

/** The classes that one has joined, with what is set there. */
export function JoinedClasses() {
  const joined = useJoined();
  const [leaving, setLeaving] = useState<Joined>();
  if (joined.error)
    return (
      <p role="alert" className="mb-6 text-warn">
        {joined.error.message}
      </p>
    );
  return (
    <>
      {joined.data?.map((one) => (
        <section key={one.id} aria-label={one.title} className="mb-8" data-joined={one.title}>
          <div className="flex items-baseline gap-4">
            <h2 className="font-read text-head font-semibold">{one.title}</h2>
            <span className="flex-1 text-soft">with {one.educators.join(" and ")}</span>
            <button type="button" className="act-away" onClick={() => setLeaving(one)}>
              Leave…
            </button>
          </div>
          {one.lessons.length === 0 && (
            <p className="mt-2 font-read text-read text-soft italic">Nothing is set yet.</p>
          )}
          <ol className="mt-2">
            {one.lessons.map((lesson, place) => (
              <SetLine key={lesson.id} lesson={lesson} number={place + 1} />
            ))}
          </ol>
        </section>
      ))}
      {leaving && <Leaving joined={leaving} onClose={() => setLeaving(undefined)} />}
    </>
  );
}

function SetLine({ lesson, number }: { lesson: Joined["lessons"][number]; number: number }) {
  const through = lesson.done >= lesson.step_count;
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 border-t border-rule py-2.5">
      <span className="w-5 font-read text-soft">{number}</span>
      <Link to={`/practice/${lesson.id}`} className="link flex-1 font-read text-read font-semibold">
        {lesson.title}
      </Link>
      <span className="text-soft">
        {lesson.done} of {lesson.step_count} done
        {lesson.place !== null && !through && `; you are at step ${lesson.place + 1}`}
      </span>
      <span className={`w-36 text-right ${isLate(lesson.due) && !through ? "text-warn" : "text-soft"}`}>
        {lesson.due && `for ${calendarDay(lesson.due)}`}
      </span>
    </li>
  );
}

/** Whether a day is over. */
const isLate = (due: string | null) => due !== null && due < new Date().toLocaleDateString("sv-SE");

/** Asks what is to become of what one has made. */
function Leaving({ joined, onClose }: { joined: Joined; onClose: () => void }) {
  const [failure, setFailure] = useState<string>();
  const leave = (delete_work: boolean) => {
    const params = { path: { class_id: joined.id }, query: { delete_work } };
    got(client.DELETE("/api/joined/{class_id}", { params })).then(
      () => {
        onClose();
        void refreshJoined();
      },
      (error: unknown) => setFailure(messageOf(error)),
    );
  };
  return (
    <Panel title={`Leave “${joined.title}”`} onClose={onClose}>
      <div className="px-4 pt-2 pb-4">
        <p className="font-read text-read">
          Whoever teaches the class sees nothing of yours any longer. What you have made in its lessons stays
          yours, and you can go on with it; or it is deleted: benches, recordings, questions, and how far you
          were. That cannot be undone.
        </p>
        <Failure said={failure} className="mt-2" />
        <div className="mt-4 flex flex-wrap gap-3">
          <button type="button" className="button-strong" onClick={() => leave(false)}>
            Leave, and keep my work
          </button>
          <button type="button" className="button" onClick={() => leave(true)}>
            Leave, and delete my work
          </button>
          <button type="button" className="button" onClick={onClose}>
            Stay
          </button>
        </div>
      </div>
    </Panel>
  );
}
