import { createContext, useContext, useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { createStore, type StoreApi, useStore } from "zustand";

import type { Detour, Lesson, Step, StepContent } from "../api/client";
import type { LookAt } from "../bench/store";
import { type Lenses, useLenses } from "../lenses/store";
import { drafts, useContents } from "./drafts";
import type { OpenLesson } from "./LessonScreen";
import type { Here, Notes } from "./steps";
import { textHistoryOf, textsIn } from "./textHistory";
import { useOthers } from "./together";

/** What is done and shown at the desk beside the lesson itself. */
export interface DeskState extends Notes {
  /** With capture on, building is writing. */
  capturing: boolean;
  /** Whether something of another lesson is being chosen. */
  taking: boolean;
  /** The detour that is on the bench, with its step before it. */
  building: string | undefined;
  /** What the text points to. */
  lookAt: LookAt | undefined;
}

const createDesk = (): StoreApi<DeskState> =>
  createStore<DeskState>(() => ({ capturing: false, taking: false, building: undefined, lookAt: undefined }));

/** What all parts of the desk stand on. */
export interface DeskView extends Omit<OpenLesson, "lesson" | "place">, Here {
  /** What stands in each of the steps now. */
  contents: StepContent[];
  desk: StoreApi<DeskState>;
  state: DeskState;
  lenses: Lenses;
  to: (place: number) => string;
  /** Who else is at each of the steps. */
  others: string[][];
  /** The step that is shown, if the lesson has one here. */
  open: OpenStep | undefined;
}

/** A step that is being written. */
export interface OpenStep {
  step: Step;
  content: StepContent;
  /** Changes parts; `from` is what they were changed from, if others may have changed them since. */
  change: (part: Partial<StepContent>, from?: Partial<StepContent>) => void;
  /** Takes back what was written last in the texts, or does it again. */
  travelTexts: (way: "undo" | "redo") => void;
  /** The detour that is on the bench. */
  detour: Detour | undefined;
  build: (id: string | undefined) => void;
  showDetour: (detour: Detour | undefined) => void;
}

export function useDeskView({ lesson, catalogue, place: wanted }: OpenLesson): DeskView {
  const { place, to, go, hold } = useStaying(lesson, wanted);
  const [desk] = useState(createDesk);
  const state = useStore(desk);
  const lenses = useLenses();
  useEffect(() => {
    drafts.capturing = state.capturing;
  }, [state.capturing]);
  const contents = useContents(lesson.steps);
  const here = { lesson, place, notes: desk, go, hold };
  const others = useOthers(lesson, place, desk);
  const step = lesson.steps[place];
  const content = contents[place];
  const open = step && content && { step, content, ...doingWith(step, content, { lesson, lenses, desk }) };
  const detour = open?.content.detours.find((one) => `${open.step.id}/${one.id}` === state.building);
  const shown = open && { ...open, detour };
  return { ...here, contents, catalogue, desk, state, lenses, to, others, open: shown };
}

/** Stays at the step that is shown when others put steps before it, or take some out. */
function useStaying(lesson: Lesson, wanted: number) {
  const navigate = useNavigate();
  const [shown, setShown] = useState<{ id: string | undefined; wanted: number }>();
  /** Whether one stays at the place rather than at the step, while one's own doing moves the steps. */
  const [held, setHeld] = useState(false);
  const same = !held && shown?.wanted === wanted ? lesson.steps.findIndex((one) => one.id === shown.id) : -1;
  const place = same < 0 ? wanted : same;
  const id = lesson.steps[place]?.id;
  if (shown?.wanted !== wanted || shown.id !== id) setShown({ id, wanted });
  const to = (there: number) => `/desk/${lesson.id}/${there + 1}`;
  const address = to(place);
  useEffect(() => {
    if (place !== wanted) void navigate(address, { replace: true });
  }, [navigate, place, wanted, address]);
  const hold = () => setHeld(true);
  const go = (there: number) => {
    setHeld(false);
    setShown(undefined);
    void navigate(to(there));
  };
  return { place, to, go, hold };
}

type Around = Pick<DeskView, "lesson" | "lenses" | "desk">;

/** What can be done with the step that is shown. */
function doingWith(step: Step, content: StepContent, { lesson, lenses, desk }: Around) {
  return {
    change: (part: Partial<StepContent>, from?: Partial<StepContent>) => {
      const texts = textsIn(part);
      if (Object.keys(texts).length > 0) textHistoryOf(step.id, content).note(content, texts);
      drafts.change(lesson.id, step, part, from);
    },
    travelTexts: (way: "undo" | "redo") => {
      const { now, before } = textHistoryOf(step.id, content).travel(way) ?? {};
      if (now) drafts.change(lesson.id, step, now, before);
    },
    build: (id: string | undefined) => {
      lenses.showDetour(undefined);
      const building = id === undefined ? undefined : `${step.id}/${id}`;
      desk.setState({ building, goesOn: step.id });
    },
    showDetour: (one: Detour | undefined) =>
      lenses.showDetour(one && { patch: one.patch, phrase: one.phrase ?? content.phrase, name: one.name }),
  };
}

export const DeskContext = createContext<DeskView | undefined>(undefined);

export function useDesk(): DeskView {
  const view = useContext(DeskContext);
  if (!view) throw new Error("This is no part of a desk.");
  return view;
}

/** The step that is shown; only for what is not there without one. */
export function useOpenStep(): OpenStep {
  const { open } = useDesk();
  if (!open) throw new Error("There is no step here.");
  return open;
}
