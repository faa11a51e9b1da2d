/** What is done with the steps of a lesson: adding, moving, splitting, deleting; what fails is said. */

import type { StoreApi } from "zustand";

import { client, got, type Lesson, type Step, type StepState } from "../api/client";
import { refreshLesson, showLesson, shownLesson } from "../api/queries";
import { changeOf, drafts } from "./drafts";
import { textHistoryOf } from "./textHistory";
import { noteQuestions } from "./questions";
import { messageOf } from "../api/messageOf";

/** What is to be said of what was done, and what can be taken back of it. */
export interface Notes {
  /** The step that was begun by finishing the one before it: its bench goes on where that one was left. */
  goesOn?: string | undefined;
  failure?: string | undefined;
  deleted?: { id: string; title: string; place: number } | undefined;
  /** What has been brought into steps; `start` if it came from the lesson before; `own` are those that kept their own. */
  carriedOn?: { steps: StepState[]; start: boolean; own: number[] } | undefined;
  /** What was left as it stood in a step when it was decided, to be asked again. */
  decided?: { stepId: string; words: string; late: string } | undefined;
  /** A move that would change what is heard, and what. */
  moving?: (Move & { effects: string[] }) | undefined;
}

/** Another order of the steps, and where the one that is shown goes. */
export interface Move {
  steps: string[];
  to: number;
}

/** Where one is: a lesson, and the place of one of its steps. */
export interface Here {
  lesson: Lesson;
  place: number;
  go: (place: number) => void;
  /** Stays at the place, whatever becomes of the steps, until one goes somewhere. */
  hold: () => void;
  notes: StoreApi<Notes>;
}

/** Does something; if that fails, it is said. */
export function attempt({ notes }: Pick<Here, "notes">, action: () => Promise<void>): void {
  drafts.flush();
  action().catch((error: unknown) => notes.setState({ failure: messageOf(error) }));
}

const forgetAll = (steps: Step[]) => steps.forEach((one) => drafts.forget(one.id));
const ofStep = (step: { id: string }) => ({ path: { step_id: step.id } });
const ofLesson = (lesson: Lesson) => ({ path: { lesson_id: lesson.id } });

interface Added {
  /** A step of another lesson that the new one is like. */
  like?: string;
  /** Whether the step before it is closed with a title of its own, if it has none. */
  finishing?: boolean;
}

/** Puts a step behind the one that is shown. */
async function putIn(
  { lesson, place, go, notes }: Here,
  { like, finishing = false }: Added = {},
): Promise<void> {
  const after = lesson.steps[place]?.id ?? null;
  const body = { after, finishing, ...(like !== undefined && { like }) };
  const added = await got(client.POST("/api/lessons/{lesson_id}/steps", { params: ofLesson(lesson), body }));
  await refreshLesson(lesson.id);
  if (finishing) notes.setState({ goesOn: added.id });
  go(after ? place + 1 : 0);
}

export const add = (here: Here) => attempt(here, () => putIn(here));

/** Adds a step of another lesson behind this one. */
export const take = (here: Here, like: string) => attempt(here, () => putIn(here, { like }));

/** Closes the step and begins the next one where it ends. */
export const finish = (here: Here) =>
  attempt(here, async () => {
    const { lesson, place } = here;
    const step = lesson.steps[place];
    await drafts.settled();
    if (!step) return;
    if (shownLesson(lesson.id)?.steps[place]?.instructions.length === 0) {
      here.notes.setState({ failure: "There is nothing to finish: this step does nothing yet." });
      return;
    }
    // what is written meanwhile is kept afterwards: the step may get its title here
    await drafts.during(lesson.id, step, async () => {
      await putIn(here, { finishing: true });
      return shownLesson(lesson.id)?.steps.find((one) => one.id === step.id);
    });
  });

export const duplicate = (here: Here, step: Step) =>
  attempt(here, async () => {
    await got(client.POST("/api/steps/{step_id}/duplicate", { params: ofStep(step) }));
    await refreshLesson(here.lesson.id);
    here.go(here.place + 1);
  });

/** Moves the step that is shown; where that would change what is heard, it is asked first. */
export const move = (here: Here, by: number) =>
  attempt(here, async () => {
    const { lesson, place, notes } = here;
    const steps = lesson.steps.map((step) => step.id);
    const [moved] = steps.splice(place, 1);
    if (moved === undefined) return;
    steps.splice(place + by, 0, moved);
    await drafts.settled();
    const wish: Move = { steps, to: place + by };
    const body = { version: lesson.version, steps };
    const effects = await got(
      client.POST("/api/lessons/{lesson_id}/order/effects", { params: ofLesson(lesson), body }),
    );
    if (effects.length > 0) notes.setState({ moving: { ...wish, effects } });
    else await put(here, wish);
  });

/** Moves the step although that changes what is heard. */
export const moveAllTheSame = (here: Here, wish: Move) => attempt(here, () => put(here, wish));

async function put(here: Here, { steps, to }: Move): Promise<void> {
  const { lesson, go, notes } = here;
  notes.setState({ moving: undefined });
  const body = { version: lesson.version, steps };
  showLesson(await got(client.PUT("/api/lessons/{lesson_id}/order", { params: ofLesson(lesson), body })));
  forgetAll(lesson.steps);
  go(to);
}

/** Undoes what was done last to a lesson as a whole; returns it as it stands then. */
export async function undoLast(lesson: Lesson): Promise<Lesson> {
  drafts.flush();
  await drafts.settled();
  const undone = await got(client.POST("/api/lessons/{lesson_id}/undo", { params: ofLesson(lesson) }));
  forgetAll(lesson.steps);
  showLesson(undone);
  return undone;
}

/** Undoes it from where one is. */
export const undo = (here: Here) =>
  attempt(here, async () => {
    const { lesson, place, notes, go } = here;
    notes.setState({ carriedOn: undefined, deleted: undefined });
    const undone = await undoLast(lesson);
    if (place >= undone.steps.length) go(Math.max(0, undone.steps.length - 1));
  });

export const split = (here: Here, step: Step, after: number) =>
  attempt(here, async () => {
    await drafts.settled();
    const body = { version: drafts.versionOf(step), after };
    here.hold(); // before it is done: what is asked every few seconds may show the new step first
    try {
      await got(client.POST("/api/steps/{step_id}/split", { params: ofStep(step), body }));
      await refreshLesson(here.lesson.id);
    } finally {
      here.go(here.place);
    }
  });

export const join = (here: Here, step: Step) =>
  attempt(here, async () => {
    await drafts.settled();
    const body = { version: drafts.versionOf(step) };
    await got(client.POST("/api/steps/{step_id}/join", { params: ofStep(step), body }));
    drafts.forget(step.id);
    await refreshLesson(here.lesson.id);
    here.go(Math.max(0, here.place - 1));
  });

/** The places of those steps, counted from 1, that have something to decide: they have kept what they had. */
const keptTheirOwn = (lessonId: string, brought: StepState[]): number[] =>
  (shownLesson(lessonId)?.steps ?? []).flatMap(({ id, content }, place) =>
    content.decisions.length > 0 && brought.some((one) => one.id === id) ? [place + 1] : [],
  );

/** Brings a change into the later steps. */
export const carry = (here: Here, step: Step) =>
  attempt(here, async () => {
    const { lesson, place, notes } = here;
    await drafts.settled();
    const steps = await got(client.POST("/api/steps/{step_id}/carry", { params: ofStep(step) }));
    forgetAll(lesson.steps.slice(place));
    await refreshLesson(lesson.id);
    notes.setState({ carriedOn: { steps, start: false, own: keptTheirOwn(lesson.id, steps) } });
  });

/** Lets the lesson start from what the one before it ends with now. */
export const follow = (here: Here) =>
  attempt(here, async () => {
    const { lesson, notes } = here;
    await drafts.settled();
    const steps = await got(client.POST("/api/lessons/{lesson_id}/follow", { params: ofLesson(lesson) }));
    forgetAll(lesson.steps);
    await refreshLesson(lesson.id);
    notes.setState({ carriedOn: { steps, start: true, own: keptTheirOwn(lesson.id, steps) } });
  });

export const remove = (here: Here, step: Step) =>
  attempt(here, async () => {
    const { lesson, place, go, notes } = here;
    await got(client.DELETE("/api/steps/{step_id}", { params: ofStep(step) }));
    drafts.forget(step.id);
    notes.setState({ deleted: { id: step.id, title: step.content.title, place } });
    await refreshLesson(lesson.id);
    go(Math.max(0, Math.min(place, lesson.steps.length - 2)));
  });

export const restore = (here: Here) =>
  attempt(here, async () => {
    const { deleted } = here.notes.getState();
    if (!deleted) return;
    await got(client.POST("/api/steps/{step_id}/restore", { params: ofStep(deleted) }));
    await refreshLesson(here.lesson.id);
    here.go(deleted.place);
    here.notes.setState({ deleted: undefined });
  });

/** Puts what clashes with what others have changed in a step into a step of its own behind it. */
export const keepAsNew = (here: Here, step: Step) =>
  attempt(here, async () => {
    const wish = drafts.wishOf(step.id);
    if (!wish) return;
    await got(client.POST("/api/steps/{step_id}/beside", { params: ofStep(step), body: changeOf(wish) }));
    drafts.forget(step.id);
    await refreshLesson(here.lesson.id);
    here.go(here.lesson.steps.findIndex((one) => one.id === step.id) + 1);
  });

/** Brings back a step that somebody has deleted while it was changed here, and keeps what was changed. */
export const bringBack = (here: Here, id: string) =>
  attempt(here, async () => {
    const back = await got(client.POST("/api/steps/{step_id}/restore", { params: ofStep({ id }) }));
    await refreshLesson(here.lesson.id);
    const place = shownLesson(here.lesson.id)?.steps.findIndex((one) => one.id === back.id);
    if (place !== undefined) here.go(place);
    drafts.goOn(id);
  });

/** Decides what was left open when a change was carried on: the edits of the earlier step, or what stands here. */
export const decide = (here: Here, step: Step, number: number, early: boolean) =>
  attempt(here, async () => {
    const { patch, decisions } = drafts.contentOf(step);
    const body = { patch, edits: decisions[number]?.edits ?? [] };
    const decided = early ? (await got(client.POST("/api/patches/edits", { body }))).patch : patch;
    if (early) noteQuestions(step.id, patch, decisions);
    else noteDecided(here, step, number);
    drafts.change(here.lesson.id, step, { patch: decided, decisions: decisions.toSpliced(number, 1) });
  });

/** Lets it be asked again what was left as it stands. */
function noteDecided({ notes }: Here, step: Step, number: number): void {
  const content = drafts.contentOf(step);
  const { words, late } = content.decisions[number] ?? { words: "", late: "" };
  textHistoryOf(step.id, content).note(content, { decisions: content.decisions.toSpliced(number, 1) });
  notes.setState({ decided: { stepId: step.id, words, late } });
}
