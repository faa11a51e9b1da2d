import type { UseQueryResult } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { useParams } from "react-router";

import type { Lesson } from "../api/client";
import type { Catalogue } from "../api/patch";
import { useCatalogueMap } from "../bench/useCatalogueMap";
import { createLenses, LensesContext } from "../lenses/store";
import { Header } from "../ui/Header";
import { Failed, Waiting } from "../ui/Waiting";
import { SaveState } from "./SaveState";

/** The place of a lesson's target, before its first step. */
export const TARGET = -1;

export interface OpenLesson {
  lesson: Lesson;
  catalogue: Catalogue;
  /** Which step is shown, from 0; or the target, before the first. */
  place: number;
}

interface Props {
  screen: "desk" | "practice";
  lesson: UseQueryResult<Lesson>;
  /** What stands at the top for the lesson. */
  title: (lesson: Lesson) => ReactNode;
  children: (open: OpenLesson) => ReactNode;
}

/** What the screens of a lesson share: waiting for it, the line at the top, and what is shown when it is not there. */
export function LessonScreen({ screen, lesson, title, children }: Props) {
  const { lessonId = "", place: wanted } = useParams();
  const catalogue = useCatalogueMap();
  const [lenses] = useState(createLenses);
  const place = lesson.data ? placeIn(lesson.data, wanted) : 0;
  const failed = lesson.error && !lesson.data;
  const writes = lesson.data?.right === "own" || lesson.data?.right === "write";
  const places = [
    { label: "Shelf", to: "/shelf", here: false },
    ...(writes || screen === "desk"
      ? [{ label: "Desk", to: `/desk/${lessonId}/${place + 1}`, here: screen === "desk" }]
      : []),
    { label: "Practice", to: `/practice/${lessonId}/${place + 1}`, here: screen === "practice" },
  ];
  return (
    <div className="sheet flex h-full flex-col">
      <Header
        title={lesson.data && title(lesson.data)}
        status={
          lesson.data && screen === "desk" && <SaveState updatedAt={lesson.data.steps[place]?.updated_at} />
        }
        places={places}
      />
      {failed && <Failed message={lesson.error.message} retry={() => void lesson.refetch()} />}
      {!failed && (!lesson.data || !catalogue) && <Waiting>Opening the lesson…</Waiting>}
      {lesson.data && catalogue && (
        <LensesContext value={lenses}>{children({ lesson: lesson.data, catalogue, place })}</LensesContext>
      )}
    </div>
  );
}

/** The place that an address means: the step that it names, or else where one has come to, or the beginning. */
function placeIn(lesson: Lesson, wanted: string | undefined): number {
  const first = lesson.target_first && lesson.steps.length > 0 ? TARGET : 0;
  const usual = lesson.edition?.begun ? lesson.edition.place : first;
  const place = wanted === undefined ? usual : Number(wanted) - 1 || 0;
  return Math.min(Math.max(first, place), Math.max(0, lesson.steps.length - 1));
}
