import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { client, type Concern, type Edition, got, type Lesson } from "../api/client";
import { refreshEditions, refreshLesson, shownLesson, useEditions } from "../api/queries";
import { Panel } from "../ui/Panel";
import { drafts } from "./drafts";

interface Props {
  lesson: Lesson;
  onClose: () => void;
  onEditions: () => void;
}

/** Publishing: what the checkup has to say of all steps, notes on the edition, and a reason where there are concerns. */
export function PublishPanel({ lesson, onClose, onEditions }: Props) {
  const editions = useEditions(lesson.id);
  const latest = editions.data?.[0];
  const [notes, setNotes] = useState("");
  const [typedReason, setReason] = useState<string>();
  const reason = typedReason ?? latest?.reason ?? "";
  const [failure, setFailure] = useState<string>();
  const [busy, setBusy] = useState(false);
  const [done, setDone] = useState<Edition>();
  const path = { lesson_id: lesson.id };
  const review = useQuery({
    queryKey: ["review", lesson.id],
    staleTime: 0,
    gcTime: 0,
    queryFn: async () => {
      await drafts.settled();
      await refreshLesson(lesson.id);
      return got(client.POST("/api/lessons/{lesson_id}/review", { params: { path } }));
    },
  });
  const publish = async () => {
    setBusy(true);
    setFailure(undefined);
    try {
      const version = shownLesson(lesson.id)?.version ?? lesson.version;
      const body = { version, notes, reason };
      setDone(await got(client.POST("/api/lessons/{lesson_id}/editions", { params: { path }, body })));
      void refreshEditions(lesson.id);
    } catch (error) {
      setFailure(error instanceof Error ? error.message : "It could not be published.");
    } finally {
      setBusy(false);
    }
  };
  const concerns = review.data ?? [];
  const impossible = concerns.some((one) => one.kind === "no-steps");
  if (done)
    return (
      <Panel title={`Edition ${done.number} is published`} onClose={onClose}>
        <div className="px-4 pt-2 pb-4">
          <p className="mb-4 max-w-md font-read text-base">
            Learners find it on their shelf from now on. Who has begun an earlier edition stays there until
            they move on. What you write now changes nothing in it.
          </p>
          <div className="flex gap-3">
            <button type="button" className="button" onClick={onEditions}>
              All editions
            </button>
            <Link to={`/practice/${lesson.id}/1?edition=${done.number}`} className="button">
              See it as a learner does
            </Link>
          </div>
        </div>
      </Panel>
    );
  return (
    <Panel title={`Publish edition ${(latest?.number ?? 0) + 1}`} onClose={onClose} size="wide">
      <form
        className="min-h-0 overflow-y-auto px-4 pt-2 pb-4"
        onSubmit={(event) => {
          event.preventDefault();
          void publish();
        }}
      >
        {review.isPending && (
          <p role="status" className="mb-3 font-read text-base text-soft italic">
            The checkup goes through all {lesson.steps.length} steps…
          </p>
        )}
        {review.error && (
          <p role="alert" className="mb-3 text-warn">
            {review.error.message}
          </p>
        )}
        {review.data && <Concerns lesson={lesson} concerns={concerns} onFollow={onClose} />}
        <label className="mt-3 block">
          <span className="mb-1 block text-soft">
            {latest ? `What is new since edition ${latest.number}` : "Notes on this edition"}
          </span>
          <textarea
            rows={2}
            maxLength={2000}
            className="field-sizing-content w-full rounded border border-firm bg-paper p-2 font-read text-base"
            value={notes}
            onChange={(event) => setNotes(event.target.value)}
          />
        </label>
        {concerns.length > 0 && !impossible && (
          <label className="mt-3 block">
            <span className="mb-1 block text-soft">Why it is right as it is</span>
            <textarea
              rows={2}
              maxLength={2000}
              placeholder="The first steps show on purpose what is missing."
              className="field-sizing-content w-full rounded border border-firm bg-paper p-2 font-read text-base"
              value={reason}
              onChange={(event) => setReason(event.target.value)}
            />
          </label>
        )}
        {failure && (
          <p role="alert" className="mt-3 text-warn">
            {failure}
          </p>
        )}
        <button
          type="submit"
          className="button-strong mt-4"
          disabled={busy || !review.data || impossible || (concerns.length > 0 && !reason.trim())}
        >
          {busy ? "Publishing…" : concerns.length > 0 ? "Publish all the same" : "Publish"}
        </button>
      </form>
    </Panel>
  );
}

function Concerns({
  lesson,
  concerns,
  onFollow,
}: {
  lesson: Lesson;
  concerns: Concern[];
  onFollow: () => void;
}) {
  if (concerns.length === 0)
    return <p className="font-semibold text-ok">The checkup has nothing to say: every step is sound.</p>;
  return (
    <section aria-label="What the checkup says">
      <h3 className="mb-1 font-semibold text-warn">
        {concerns.length === 1 ? "One thing" : `${concerns.length} things`} to look at
      </h3>
      <ul className="border-b border-rule">
        {concerns.map((one, number) => (
          <li key={number} className="grid grid-cols-[64px_1fr] gap-2 border-t border-rule py-1.5">
            {one.place === null ? (
              <span className="text-soft">Lesson</span>
            ) : (
              <Link
                to={`/desk/${lesson.id}/${one.place + 1}`}
                className="text-this underline decoration-rule underline-offset-4 hover:decoration-this"
                onClick={onFollow}
              >
                Step {one.place + 1}
              </Link>
            )}
            <span>
              {one.message} <span className="text-soft">{one.remedy}</span>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
