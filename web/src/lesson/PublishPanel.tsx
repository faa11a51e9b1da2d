import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import {
  client,
  type Concern,
  type Edition,
  got,
  type Lesson,
  type Step,
  type StepContent,
} from "../api/client";
import { refreshEditions, refreshLesson, shownLesson, useEditions } from "../api/queries";
import { messageOf } from "../ui/messageOf";
import { Panel } from "../ui/Panel";
import { drafts } from "./drafts";

interface Props {
  lesson: Lesson;
  onClose: () => void;
  onEditions: () => void;
}

/** Publishing: what the checkup has to say of all steps, notes on the edition, and a reason where there are concerns. */
export function PublishPanel({ lesson, onClose, onEditions }: Props) {
  const latest = useEditions(lesson.id).data?.[0];
  const review = useReview(lesson);
  const [notes, setNotes] = useState("");
  const [ruled, setRuled] = useState<Record<string, string | null>>({});
  const { publish, busy, failure, done } = usePublish(lesson);
  if (done) return <Published lesson={lesson} edition={done} onClose={onClose} onEditions={onEditions} />;
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
        {review.data && (
          <Concerns
            lesson={lesson}
            concerns={concerns}
            overruled={overruled}
            onRule={(key, reason) => setRuled({ ...ruled, [key]: reason })}
            onFollow={onClose}
          />
        )}
        <StepsOf lesson={lesson} onFollow={onClose} />
        <Text
          label={latest ? `What is new since edition ${latest.number}` : "Notes on this edition"}
          text={notes}
          onChange={setNotes}
        />
        <Trouble message={failure} />
        <button
          type="submit"
          className="button-strong mt-4"
          disabled={busy || !review.data || impossible || open > 0}
        >
          {busy ? "Publishing…" : open > 0 ? `Still to look at: ${open}` : "Publish"}
        </button>
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
  const [done, setDone] = useState<Edition>();
  const publish = async (notes: string, overruled: Record<string, string>) => {
    setBusy(true);
    setFailure(undefined);
    try {
      const version = shownLesson(lesson.id)?.version ?? lesson.version;
      const path = { lesson_id: lesson.id };
      const body = { version, notes, overruled };
      setDone(await got(client.POST("/api/lessons/{lesson_id}/editions", { params: { path }, body })));
      void refreshEditions(lesson.id);
    } catch (error) {
      setFailure(messageOf(error, "It could not be published."));
    } finally {
      setBusy(false);
    }
  };
  return { publish, busy, failure, done };
}

function Published({ lesson, edition, onClose, onEditions }: Props & { edition: Edition }) {
  return (
    <Panel title={`Edition ${edition.number} is published`} onClose={onClose}>
      <div className="px-4 pt-2 pb-4">
        <p className="mb-4 max-w-md font-read text-read">
          Learners find it on their shelf from now on. Who has begun an earlier edition stays there until they
          move on. What you write now changes nothing in it.
        </p>
        <div className="flex gap-3">
          <button type="button" className="button" onClick={onEditions}>
            All editions
          </button>
          <Link to={`/practice/${lesson.id}/1?edition=${edition.number}`} className="button">
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

interface ConcernsProps {
  lesson: Lesson;
  concerns: Concern[];
  overruled: Record<string, string>;
  onRule: (key: string, reason: string | null) => void;
  onFollow: () => void;
}

function Concerns({ lesson, concerns, overruled, onRule, onFollow }: ConcernsProps) {
  if (concerns.length === 0)
    return <p className="font-semibold text-ok">The checkup has nothing to say: every step is sound.</p>;
  return (
    <section aria-label="What the checkup says">
      <h3 className="mb-1 font-semibold text-warn">
        {concerns.length === 1 ? "One thing" : `${concerns.length} things`} to look at
      </h3>
      <ul className="border-b border-rule">
        {concerns.map((one) => (
          <li key={one.key} className="grid grid-cols-[64px_1fr_190px] gap-2 border-t border-rule py-1.5">
            {one.place === null ? (
              <span className="text-soft">Lesson</span>
            ) : (
              <StepLink lesson={lesson} place={one.place} onFollow={onFollow} />
            )}
            <span className={overruled[one.key] === undefined ? "" : "text-soft"}>
              {one.message} <span className="text-soft">{one.remedy}</span>
            </span>
            {one.kind !== "no-steps" && (
              <Ruling
                concern={one}
                reason={overruled[one.key]}
                onRule={(reason) => onRule(one.key, reason)}
              />
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

interface StepLinkProps {
  lesson: Lesson;
  place: number;
  onFollow: () => void;
}

function StepLink({ lesson, place, onFollow }: StepLinkProps) {
  return (
    <Link
      to={`/desk/${lesson.id}/${place + 1}`}
      title={lesson.steps[place]?.content.title}
      className="text-this underline decoration-rule underline-offset-4 hover:decoration-this"
      onClick={onFollow}
    >
      Step {place + 1}
    </Link>
  );
}

/** What a step does not say yet, if anything. */
function gapsIn({ content, instructions }: Step, place: number): string[] {
  return [
    ...(isUntitled(content) ? ["no title"] : []),
    ...(content.why.trim() ? [] : ["no why"]),
    ...(content.listen.trim() ? [] : ["nothing to listen for"]),
    ...(place > 0 && instructions.length === 0 ? ["nothing to do"] : []),
    ...(content.decisions.length > 0 ? ["undecided"] : []),
  ];
}

const isUntitled = ({ title }: StepContent) => ["", "New step", "First step"].includes(title.trim());

/** What will be published: every step by its title, what it does not say, and what the short edition leaves out. */
function StepsOf({ lesson, onFollow }: { lesson: Lesson; onFollow: () => void }) {
  const extra = lesson.steps.filter(({ content }) => content.extra).length;
  const { length } = lesson.steps;
  if (length === 0) return null;
  return (
    <section aria-label="The steps" className="mt-3" data-steps>
      <h3 className="mb-1 font-semibold text-soft">
        {length === 1 ? "One step" : `${length} steps`}
        {extra > 0 && `, ${length - extra} of them in the short edition`}
      </h3>
      <ol
        className="max-h-56 overflow-y-auto border-b border-rule"
        tabIndex={0}
        aria-label="Steps and their gaps"
      >
        {lesson.steps.map((step, place) => {
          const gaps = gapsIn(step, place);
          return (
            <li
              key={step.id}
              className="grid grid-cols-[64px_1fr_auto] items-baseline gap-2 border-t border-rule py-1"
            >
              <StepLink lesson={lesson} place={place} onFollow={onFollow} />
              <span className="font-read">
                {step.content.title || "Untitled"}
                {step.content.extra && <i className="text-soft"> – not in the short edition</i>}
              </span>
              <span className="text-note text-warn">{gaps.join(", ")}</span>
            </li>
          );
        })}
      </ol>
    </section>
  );
}

interface RulingProps {
  concern: Concern;
  reason: string | undefined;
  onRule: (reason: string | null) => void;
}

/** Says that a concern is right as it is, and why if somebody wants to. */
function Ruling({ concern, reason, onRule }: RulingProps) {
  return (
    <div>
      <label className="flex items-baseline gap-2">
        <input
          type="checkbox"
          className="accent-ink"
          aria-label={`Right as it is: ${concern.message}`}
          checked={reason !== undefined}
          onChange={(event) => onRule(event.target.checked ? "" : null)}
        />
        Right as it is
      </label>
      {reason !== undefined && (
        <input
          aria-label={`Why it is right: ${concern.message}`}
          placeholder="because…"
          maxLength={500}
          className="mt-1 w-full rounded border border-rule bg-paper px-1.5 font-read text-work"
          value={reason}
          onChange={(event) => onRule(event.target.value)}
        />
      )}
    </div>
  );
}
