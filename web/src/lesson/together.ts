/** Others at the same lesson: who is where, and what they have changed, as soon as it is known. */

import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import type { StoreApi } from "zustand";

import { client, got, type Here, type Lesson } from "../api/client";
import { refreshLesson, shownLesson } from "../api/queries";
import { drafts } from "./drafts";
import type { Notes } from "./steps";

/** How one is called where one has the lesson open in another window. */
export const YOU = "You, elsewhere";
const EVERY_MS = 3_000;
/** What this window is known by. */
const WINDOW = crypto.randomUUID();

/** Who else is at each of a lesson's steps, by name. */
export function useOthers(lesson: Lesson, place: number, notes: StoreApi<Notes>): string[][] {
  const step = lesson.steps[place]?.id ?? null;
  const asked = useQuery({
    queryKey: ["here", lesson.id, step],
    queryFn: () => askHere(lesson.id, step),
    refetchInterval: EVERY_MS,
    staleTime: 0,
    retry: false,
    placeholderData: (previous) => previous,
  });
  const here = asked.data;
  useEffect(() => {
    if (here) void catchUp(lesson.id, here, step, notes);
  }, [here, lesson.id, step, notes]);
  useEffect(() => {
    const leave = () => void askHere(lesson.id, null, true).catch(() => undefined);
    window.addEventListener("pagehide", leave);
    return () => {
      window.removeEventListener("pagehide", leave);
      leave();
    };
  }, [lesson.id]);
  const names = (id: string) =>
    (here?.others ?? []).filter((one) => one.step === id).map((one) => (one.me ? YOU : one.name));
  return lesson.steps.map(({ id }) => names(id));
}

const askHere = (id: string, step: string | null, leaving = false) =>
  got(
    client.POST("/api/lessons/{lesson_id}/here", {
      params: { path: { lesson_id: id } },
      body: { window: WINDOW, step, leaving },
      keepalive: leaving,
    }),
  );

/** Shows what others have changed; says so if the step that is shown is gone. */
async function catchUp(id: string, here: Here, step: string | null, notes: StoreApi<Notes>): Promise<void> {
  const before = shownLesson(id);
  if (!before || !isBehind(before, here) || drafts.snapshot().state !== "kept") return;
  await refreshLesson(id);
  const place = before.steps.findIndex((one) => one.id === step);
  const title = before.steps[place]?.content.title ?? "";
  const isGone = place >= 0 && !shownLesson(id)?.steps.some((one) => one.id === step);
  if (step !== null && isGone) notes.setState({ deleted: { id: step, title, place } });
}

/** Whether the server has something newer of a lesson than is shown. */
function isBehind(lesson: Lesson, { version, steps }: Here): boolean {
  const sameSteps =
    steps.length === lesson.steps.length && steps.every(({ id }, place) => lesson.steps[place]?.id === id);
  const newer = steps.some((one, place) => {
    const step = lesson.steps[place];
    return step && one.version > drafts.versionOf(step);
  });
  return version > lesson.version || !sameSteps || newer;
}
