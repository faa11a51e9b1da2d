import type { ReactNode } from "react";
import { useParams } from "react-router";

import type { Lesson } from "../api/client";
import type { Catalogue } from "../api/patch";
import { useLesson } from "../api/queries";
import { useCatalogueMap } from "../bench/useCatalogueMap";
import { Header } from "../ui/Header";
import { Failed, Waiting } from "../ui/Waiting";
import { SaveState } from "./SaveState";

export interface OpenLesson {
  lesson: Lesson;
  catalogue: Catalogue;
  /** Which step is shown, from 0. */
  place: number;
}

interface Props {
  screen: "desk" | "practice";
  /** What stands in the place of the lesson's plain title. */
  title?: (lesson: Lesson) => ReactNode;
  children: (open: OpenLesson) => ReactNode;
}

/** What the screens of a lesson share: fetching it, the line at the top, and what is shown when it is not there. */
export function LessonScreen({ screen, title, children }: Props) {
  const { lessonId = "", place: wanted = "1" } = useParams();
  const lesson = useLesson(lessonId);
  const catalogue = useCatalogueMap();
  const last = Math.max(0, (lesson.data?.steps.length ?? 1) - 1);
  const place = Math.min(Math.max(0, Number(wanted) - 1 || 0), last);
  const failed = lesson.error && !lesson.data;
  const places = [
    { label: "Shelf", to: "/shelf", here: false },
    { label: "Desk", to: `/desk/${lessonId}/${place + 1}`, here: screen === "desk" },
    { label: "Practice", to: `/practice/${lessonId}/${place + 1}`, here: screen === "practice" },
  ];
  return (
    <div className="flex h-full min-h-[640px] min-w-[1024px] flex-col">
      <Header
        title={lesson.data && (title ? title(lesson.data) : lesson.data.title)}
        status={
          lesson.data && screen === "desk" && <SaveState updatedAt={lesson.data.steps[place]?.updated_at} />
        }
        places={places}
      />
      {failed && <Failed message={lesson.error.message} retry={() => void lesson.refetch()} />}
      {!failed && (!lesson.data || !catalogue) && <Waiting>Opening the lesson…</Waiting>}
      {lesson.data && catalogue && children({ lesson: lesson.data, catalogue, place })}
    </div>
  );
}
