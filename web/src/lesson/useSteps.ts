import { useState } from "react";
import { useNavigate } from "react-router";

import { client, got, type Lesson, type Step } from "../api/client";
import { refreshLesson, showLesson } from "../api/queries";
import { drafts } from "./drafts";

interface Deleted {
  id: string;
  title: string;
  place: number;
}

/** Adding, duplicating, moving and deleting the steps of a lesson; what fails is said. */
export function useSteps(lesson: Lesson, place: number) {
  const navigate = useNavigate();
  const [deleted, setDeleted] = useState<Deleted>();
  const [failure, setFailure] = useState<string>();
  const go = (to: number) => void navigate(`/desk/${lesson.id}/${to + 1}`);

  const attempt = (action: () => Promise<void>) => {
    drafts.flush();
    action().catch((error: unknown) =>
      setFailure(error instanceof Error ? error.message : "That did not work."),
    );
  };

  const add = () =>
    attempt(async () => {
      const after = lesson.steps[place]?.id ?? null;
      await got(
        client.POST("/api/lessons/{lesson_id}/steps", {
          params: { path: { lesson_id: lesson.id } },
          body: { after },
        }),
      );
      await refreshLesson(lesson.id);
      go(after ? place + 1 : 0);
    });

  const duplicate = (step: Step) =>
    attempt(async () => {
      await got(client.POST("/api/steps/{step_id}/duplicate", { params: { path: { step_id: step.id } } }));
      await refreshLesson(lesson.id);
      go(place + 1);
    });

  const move = (by: number) =>
    attempt(async () => {
      const steps = lesson.steps.map((step) => step.id);
      const [moved] = steps.splice(place, 1);
      if (moved === undefined) return;
      steps.splice(place + by, 0, moved);
      showLesson(
        await got(
          client.PUT("/api/lessons/{lesson_id}/order", {
            params: { path: { lesson_id: lesson.id } },
            body: { version: lesson.version, steps },
          }),
        ),
      );
      go(place + by);
    });

  const remove = (step: Step) =>
    attempt(async () => {
      await got(client.DELETE("/api/steps/{step_id}", { params: { path: { step_id: step.id } } }));
      drafts.forget(step.id);
      setDeleted({ id: step.id, title: step.content.title, place });
      await refreshLesson(lesson.id);
      go(Math.max(0, Math.min(place, lesson.steps.length - 2)));
    });

  const restore = () =>
    attempt(async () => {
      if (!deleted) return;
      await got(client.POST("/api/steps/{step_id}/restore", { params: { path: { step_id: deleted.id } } }));
      await refreshLesson(lesson.id);
      go(deleted.place);
      setDeleted(undefined);
    });

  /** Puts the draft of a step that was changed elsewhere into a new step behind it. */
  const keepAsNew = (step: Step) =>
    attempt(async () => {
      const mine = drafts.contentOf(step);
      const copy = await got(
        client.POST("/api/steps/{step_id}/duplicate", { params: { path: { step_id: step.id } } }),
      );
      await got(
        client.PUT("/api/steps/{step_id}", {
          params: { path: { step_id: copy.id } },
          body: { version: copy.version, content: { ...mine, title: `${mine.title} (my version)` } },
        }),
      );
      drafts.forget(step.id);
      await refreshLesson(lesson.id);
      go(place + 1);
    });

  const showTheirs = (step: Step) =>
    attempt(async () => {
      drafts.forget(step.id);
      await refreshLesson(lesson.id);
    });

  return {
    add,
    duplicate,
    move,
    remove,
    restore,
    keepAsNew,
    showTheirs,
    deleted,
    dismissDeleted: () => setDeleted(undefined),
    failure,
    dismissFailure: () => setFailure(undefined),
  };
}
