import { useQuery } from "@tanstack/react-query";
import { Choice } from "../ui/Choice";
import { useState } from "react";
import { Link } from "react-router";

import { client, type Edition, got, type Lesson } from "../api/client";
import { useEditions } from "../api/queries";
import { Panel } from "../ui/Panel";
import { ForAnyone } from "./ForAnyone";
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
        <p className="px-4 pt-2 pb-4 font-read text-read text-soft italic">
          Nothing is published yet. Publish the lesson, and learners can follow it.
        </p>
      </Panel>
    );
  return (
    <Panel title={`Editions of “${lesson.title}”`} onClose={onClose} size="page">
      <div className="grid min-h-0 flex-1 grid-cols-[300px_minmax(0,1fr)]">
        <div className="min-h-0 overflow-y-auto border-r border-rule px-4 pt-2 pb-4">
          {newest && <ForAnyone lesson={lesson} newest={newest.number} />}
          <ol>
            {list.map((one) => (
              <EditionRow key={one.number} lesson={lesson} edition={one} />
            ))}
          </ol>
        </div>
        <div className="flex min-h-0 flex-col px-5 pt-2 pb-4">
          <div className="mb-3 flex flex-wrap items-baseline gap-2">
            What differs from
            <Which
              label="The older of two editions"
              value={shown.old}
              list={list}
              onChoose={(old) => setPair({ ...shown, old })}
            />
            to
            <Which
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
      <h3 className="font-read text-read font-semibold">
        <Link to={`/practice/${lesson.id}/1?edition=${edition.number}`} className="hover:text-this">
          Edition {edition.number}
        </Link>
      </h3>
      <p className="text-note text-soft">
        {dayAndTime(edition.published_at)}, {edition.published_by}; {edition.step_count} steps
        {edition.extra_count > 0 && `, ${edition.extra_count} of them extra`}
      </p>
      {edition.notes && <p className="mt-1 font-read">{edition.notes}</p>}
      {edition.reason && (
        <p className="mt-1 text-note whitespace-pre-line">
          <b className="font-semibold">Right as it is:</b> {edition.reason}
        </p>
      )}
    </li>
  );
}

interface WhichProps {
  label: string;
  value: number;
  list: Edition[];
  standing?: boolean;
  onChoose: (number: number) => void;
}

/** Which edition is compared. */
function Which({ label, value, list, standing = false, onChoose }: WhichProps) {
  const now = standing ? [{ value: STANDING, word: "the lesson as it stands" }] : [];
  const options = [...now, ...list.map((one) => ({ value: one.number, word: `edition ${one.number}` }))];
  return <Choice label={label} value={value} options={options} onChange={onChoose} />;
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
