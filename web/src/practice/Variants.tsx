import { type ReactNode, useState } from "react";

import { type Attempt, client, got, type Lesson, type OwnBench, type Patch, type Step } from "../api/client";
import { queries } from "../api/queries";
import { Failure } from "../ui/Failure";
import { ActionMenu } from "../ui/ActionMenu";
import { messageOf } from "../api/messageOf";
import { attempts, refreshOwn, useMade } from "./attempts";
import { begun } from "./OwnStep";

interface Props {
  lesson: Lesson;
  step: Step;
  place: number;
  own: OwnBench;
  attempt: Attempt;
  patch: Patch;
  onChoose: (id: string) => void;
  /** Whether all of it is kept. */
  keeping: ReactNode;
}

/** The variants that one has kept of a step, under names; and where to begin again. */
export function Variants({ lesson, step, place, own, attempt, patch, onChoose, keeping }: Props) {
  const { name } = useMade(attempt);
  const [naming, setNaming] = useState(false);
  const [failure, setFailure] = useState<string>();
  const attemptTo = (work: () => Promise<unknown>) => {
    setFailure(undefined);
    work().catch((error: unknown) => setFailure(messageOf(error)));
  };
  const branch = (called: string, from?: Patch) =>
    attemptTo(async () => onChoose((await begun(lesson.id, step.id, called, from)).id));
  const before = lesson.steps[place - 1];
  const fromOwn = async () => {
    if (!before) return;
    const path = { lesson_id: lesson.id, step_id: before.id };
    const there = await got(
      client.GET("/api/practice/{lesson_id}/steps/{step_id}/bench", { params: { path } }),
    );
    const [latest] = there.attempts;
    if (!latest) throw new Error("You have nothing of your own at the step before.");
    onChoose((await begun(lesson.id, step.id, fresh("From my own", own.attempts), latest.patch)).id);
  };
  const others = own.attempts.filter((one) => one.id !== attempt.id);
  const actions = [
    ...others.map((one) => ({ word: `Open “${one.name}”`, run: () => onChoose(one.id) })),
    { word: "Keep a variant…", run: () => branch(fresh(name, own.attempts), patch) },
    { word: "Begin again", run: () => branch(fresh("Again", own.attempts)) },
    ...(before ? [{ word: "Begin with my own step before", run: () => attemptTo(fromOwn) }] : []),
    { word: "Rename…", run: () => setNaming(true) },
    {
      word: attempt.may_show ? "Do not show it to others" : "Let it be shown to the class",
      run: () => attemptTo(() => agree(lesson, step, attempt)),
    },
    ...(others.length > 0
      ? [{ word: "Delete this variant", run: () => attemptTo(() => remove(lesson, step, attempt)) }]
      : []),
  ];
  return (
    <div className="mb-2.5 text-note text-soft" data-variant={name}>
      <div className="flex items-baseline gap-2">
        {naming ? (
          <NameEntry
            name={name}
            onName={(called) => attempts.change(attempt, { name: called })}
            onEnd={() => setNaming(false)}
          />
        ) : (
          <span className="min-w-0 flex-1 truncate">
            <b className="font-semibold text-ink">{name}</b>, {keeping}
            {attempt.may_show && ", may be shown"}
          </span>
        )}
        <ActionMenu actions={actions} className="rounded px-1.5 hover:bg-this/10 hover:text-ink">
          Variants{others.length > 0 ? ` (${own.attempts.length})` : ""}…
        </ActionMenu>
      </div>
      <Failure said={failure} />
    </div>
  );
}

interface NameEntryProps {
  name: string;
  onName: (name: string) => void;
  onEnd: () => void;
}

/** The name of a variant, as it is written; Escape leaves it as it was. */
function NameEntry({ name, onName, onEnd }: NameEntryProps) {
  return (
    <input
      autoFocus
      aria-label="Name of this variant"
      maxLength={60}
      defaultValue={name}
      className="min-w-0 flex-1 rounded border border-firm bg-leaf px-1.5 text-ink"
      onBlur={(event) => {
        const called = event.currentTarget.value.trim();
        if (called && called !== name) onName(called);
        onEnd();
      }}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        if (event.key === "Escape") {
          event.currentTarget.value = name;
          event.currentTarget.blur();
        }
      }}
    />
  );
}

/** Lets others see a variant, or no longer. */
async function agree(lesson: Lesson, step: Step, attempt: Attempt): Promise<void> {
  const params = { path: { attempt_id: attempt.id } };
  const body = { version: attempt.version, may_show: !attempt.may_show, shown: false };
  await got(client.PUT("/api/attempts/{attempt_id}", { params, body }));
  await refreshOwn(lesson.id, step.id);
}

async function remove(lesson: Lesson, step: Step, attempt: Attempt): Promise<void> {
  const path = { attempt_id: attempt.id };
  await got(client.DELETE("/api/attempts/{attempt_id}", { params: { path } }));
  attempts.forget(attempt.id);
  queries.setQueryData<OwnBench>(["own", lesson.id, step.id], (bench) =>
    bench ? { ...bench, attempts: bench.attempts.filter((one) => one.id !== attempt.id) } : bench,
  );
  await refreshOwn(lesson.id, step.id);
}

/** A name that none of one's variants has yet. */
function fresh(wanted: string, known: Attempt[]): string {
  const base = wanted.replace(/ \d+$/, "").slice(0, 54);
  const taken = new Set(known.map((one) => one.name));
  if (!taken.has(base)) return base;
  let number = 2;
  while (taken.has(`${base} ${number}`)) number++;
  return `${base} ${number}`;
}
