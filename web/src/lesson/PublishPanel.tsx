import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { client, type Concern, got, type Lesson } from "../api/client";
import { ended, stop } from "../api/jobs";
import { refreshEditions, refreshLesson, shownLesson, useEditions } from "../api/queries";
import { messageOf } from "../api/messageOf";
import { Panel } from "../ui/Panel";
import { drafts } from "./drafts";
import { PublishSteps } from "./PublishSteps";

interface Props {
  lesson: Lesson;
  onClose: () => void;
  onEditions: () => void;
}

/** Publishing: all steps with what the checkup has to say of each, notes on the edition, and a reason where there are concerns. */
export function PublishPanel({ lesson, onClose, onEditions }: Props) {
  const latest = useEditions(lesson.id).data?.[0];
  const review = useReview(lesson);
  const [notes, setNotes] = useState("");
  const [ruled, setRuled] = useState<Record<string, string | null>>({});
  const { publish, busy, part, giveUp, failure, done } = usePublish(lesson);
  if (done) return <Published lesson={lesson} number={done} onClose={onClose} onEditions={onEditions} />;
  const concerns = review.data ?? [];
  const impossible = concerns.some((one) => one.kind === "no-steps");
  const overruled = overruledIn(concerns, ruled);
  const open = concerns.filter(({ key }) => overruled[key] === undefined).length;
  return (
    <Panel title={`Publish edition ${(latest?.number ?? 0) + 1}`} onClose={onClose} size="wide">
      <form
        className="min-h-0 overflow-y-auto px-4 pt-2 pb-4"
        onSubmit={(event) => {
          event.preventDefault();
          void publish(notes, overruled);
        }}
      >
        {review.isPending && (
          <p role="status" className="mb-3 font-read text-read text-soft italic">
            The checkup goes through all {lesson.steps.length} steps…
          </p>
        )}
        <Trouble message={review.error?.message} />
        <PublishSteps
          lesson={lesson}
          concerns={review.data}
          overruled={overruled}
          onRule={(key, reason) => setRuled({ ...ruled, [key]: reason })}
          onFollow={onClose}
        />
        <Text
          label={latest ? `What is new since edition ${latest.number}` : "Notes on this edition"}
          text={notes}
          onChange={setNotes}
        />
        <Trouble message={failure} />
        <div className="mt-4 flex items-center gap-3">
          <button
            type="submit"
            className="button-strong"
            disabled={busy || !review.data || impossible || open > 0}
          >
            {busy ? "Publishing…" : open > 0 ? `Still to look at: ${open}` : "Publish"}
          </button>
          {busy && (
            <>
              <progress aria-label="How much is reviewed" className="h-1.5 w-40" value={part} />
              <button type="button" className="button" onClick={giveUp}>
                Stop
              </button>
            </>
          )}
        </div>
      </form>
    </Panel>
  );
}

/** What the checkup says of all steps as they are kept. */
const useReview = (lesson: Lesson) =>
  useQuery({
    queryKey: ["review", lesson.id],
    staleTime: 0,
    gcTime: 0,
    queryFn: async () => {
      await drafts.settled();
      await refreshLesson(lesson.id);
      const path = { lesson_id: lesson.id };
      return got(client.POST("/api/lessons/{lesson_id}/review", { params: { path } }));
    },
  });

function usePublish(lesson: Lesson) {
  const [failure, setFailure] = useState<string>();
  const [busy, setBusy] = useState(false);
  const [part, setPart] = useState(0);
  const [job, setJob] = useState<string>();
  const [done, setDone] = useState<number>();
  const publish = async (notes: string, overruled: Record<string, string>) => {
    setBusy(true);
    setFailure(undefined);
    setPart(0);
    try {
      const version = shownLesson(lesson.id)?.version ?? lesson.version;
      const path = { lesson_id: lesson.id };
      const body = { version, notes, overruled };
      const asked = await got(client.POST("/api/lessons/{lesson_id}/editions", { params: { path }, body }));
      setJob(asked.id);
      const { state, result } = await ended(asked, setPart);
      if (state === "done") setDone(Number(result?.["number"]));
      void refreshEditions(lesson.id);
    } catch (error) {
      setFailure(messageOf(error, "It could not be published."));
    } finally {
      setBusy(false);
      setJob(undefined);
    }
  };
  const giveUp = () => {
    if (job !== undefined) void stop(job);
  };
  return { publish, busy, part, giveUp, failure, done };
}

function Published({ lesson, number, onClose, onEditions }: Props & { number: number }) {
  return (
    <Panel title={`Edition ${number} is published`} onClose={onClose}>
      <div className="px-4 pt-2 pb-4">
        <p className="mb-4 max-w-md font-read text-read">
          Learners find it on their shelf from now on. Who has begun an earlier edition stays there until they
          move on. What you write now changes nothing in it.
        </p>
        <div className="flex gap-3">
          <button type="button" className="button" onClick={onEditions}>
            All editions
          </button>
          <Link to={`/practice/${lesson.id}/1?edition=${number}`} className="button">
            See it as a learner does
          </Link>
        </div>
      </div>
    </Panel>
  );
}

function Trouble({ message }: { message: string | undefined }) {
  if (message === undefined) return null;
  return (
    <p role="alert" className="mt-3 mb-3 text-warn">
      {message}
    </p>
  );
}

interface TextProps {
  label: string;
  placeholder?: string;
  text: string;
  onChange: (text: string) => void;
}

function Text({ label, placeholder, text, onChange }: TextProps) {
  return (
    <label className="mt-3 block">
      <span className="mb-1 block text-soft">{label}</span>
      <textarea
        rows={2}
        maxLength={2000}
        placeholder={placeholder}
        className="field-sizing-content w-full rounded border border-firm bg-paper p-2 font-read text-read"
        value={text}
        onChange={(event) => onChange(event.target.value)}
      />
    </label>
  );
}

/** Which concerns are right as they are, each with its reason: as in the latest edition, unless it is said otherwise now. */
function overruledIn(concerns: Concern[], ruled: Record<string, string | null>): Record<string, string> {
  const found = concerns.map(({ key, overruled }) => [key, key in ruled ? ruled[key] : overruled] as const);
  return Object.fromEntries(found.filter((one): one is [string, string] => typeof one[1] === "string"));
}
