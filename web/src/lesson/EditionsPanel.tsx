import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { client, type Edition, got, type Lesson } from "../api/client";
import { useEditions } from "../api/queries";
import { Panel } from "../ui/Panel";
import { dayAndTime } from "../ui/times";
import { RevisionView } from "./RevisionView";

const STANDING = 0;

/** The editions of a lesson, and what differs between any two, or between one and the lesson as it stands. */
export function EditionsPanel({ lesson, onClose }: { lesson: Lesson; onClose: () => void }) {
  const editions = useEditions(lesson.id);
  const list = editions.data ?? [];
  const [pair, setPair] = useState<{ old: number; new: number }>();
  const [newest, before] = list;
  const shown = pair ?? {
    old: before?.number ?? newest?.number ?? 0,
    new: before ? (newest?.number ?? 0) : 0,
  };
  if (editions.data && !newest)
    return (
      <Panel title="Editions" onClose={onClose}>
        <p className="px-4 pt-2 pb-4 font-read text-base text-soft italic">
          Nothing is published yet. Publish the lesson, and learners can follow it.
        </p>
      </Panel>
    );
  return (
    <Panel title={`Editions of “${lesson.title}”`} onClose={onClose} size="page">
      <div className="grid min-h-0 flex-1 grid-cols-[300px_minmax(0,1fr)]">
        <ol className="min-h-0 overflow-y-auto border-r border-rule px-4 pt-2 pb-4">
          {list.map((one) => (
            <EditionRow key={one.number} lesson={lesson} edition={one} />
          ))}
        </ol>
        <div className="flex min-h-0 flex-col px-5 pt-2 pb-4">
          <div className="mb-3 flex flex-wrap items-baseline gap-2">
            What differs from
            <Choice
              label="The older of two editions"
              value={shown.old}
              list={list}
              onChoose={(old) => setPair({ ...shown, old })}
            />
            to
            <Choice
              label="The newer of two editions"
              value={shown.new}
              list={list}
              standing
              onChoose={(to) => setPair({ ...shown, new: to })}
            />
          </div>
          {newest && <Difference lesson={lesson} old={shown.old} to={shown.new} />}
        </div>
      </div>
    </Panel>
  );
}

function EditionRow({ lesson, edition }: { lesson: Lesson; edition: Edition }) {
  return (
    <li className="border-t border-rule py-2 first:border-t-0">
      <h3 className="font-read text-lg font-semibold">
        <Link to={`/practice/${lesson.id}/1?edition=${edition.number}`} className="hover:text-this">
          Edition {edition.number}
        </Link>
      </h3>
      <p className="text-[13px] text-soft">
        {dayAndTime(edition.published_at)}, {edition.published_by}; {edition.step_count} steps
        {edition.extra_count > 0 && `, ${edition.extra_count} of them extra`}
      </p>
      {edition.notes && <p className="mt-1 font-read">{edition.notes}</p>}
      {edition.reason && (
        <p className="mt-1 text-[13px] whitespace-pre-line">
          <b className="font-semibold">Right as it is:</b> {edition.reason}
        </p>
      )}
    </li>
  );
}

interface ChoiceProps {
  label: string;
  value: number;
  list: Edition[];
  standing?: boolean;
  onChoose: (number: number) => void;
}

function Choice({ label, value, list, standing = false, onChoose }: ChoiceProps) {
  return (
    <select
      aria-label={label}
      className="rounded border border-firm bg-leaf px-2 py-0.5 font-semibold"
      value={value}
      onChange={(event) => onChoose(Number(event.target.value))}
    >
      {standing && <option value={STANDING}>the lesson as it stands</option>}
      {list.map((one) => (
        <option key={one.number} value={one.number}>
          edition {one.number}
        </option>
      ))}
    </select>
  );
}

function Difference({ lesson, old, to }: { lesson: Lesson; old: number; to: number }) {
  const found = useQuery({
    queryKey: ["difference", lesson.id, old, to, to === STANDING ? lesson.version : 0],
    staleTime: to === STANDING ? 0 : Infinity,
    queryFn: () =>
      got(
        client.GET("/api/lessons/{lesson_id}/difference", {
          params: { path: { lesson_id: lesson.id }, query: { old, new: to } },
        }),
      ),
  });
  if (found.error)
    return (
      <p role="alert" className="text-warn">
        {found.error.message}
      </p>
    );
  return found.data ? <RevisionView revision={found.data} /> : null;
}
