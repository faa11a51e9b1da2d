import { useState } from "react";
import { useNavigate } from "react-router";

import { client, got, type Lesson, type Step, type StepState } from "../api/client";
import { refreshLesson, showLesson } from "../api/queries";
import { drafts } from "./drafts";

interface Deleted {
  id: string;
  title: string;
  place: number;
}

/** What has been brought into steps and can be taken back as one; `start` if it came from the lesson before. */
interface CarriedOn {
  steps: StepState[];
  start: boolean;
}

/** Adding, duplicating, moving and deleting the steps of a lesson; what fails is said. */
export function useSteps(lesson: Lesson, place: number) {
  const navigate = useNavigate();
  const [deleted, setDeleted] = useState<Deleted>();
  const [failure, setFailure] = useState<string>();
  const [carriedOn, setCarriedOn] = useState<CarriedOn>();
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
          body: { after, finishing: false },
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
      await drafts.settled();
      showLesson(
        await got(
          client.PUT("/api/lessons/{lesson_id}/order", {
            params: { path: { lesson_id: lesson.id } },
            body: { version: lesson.version, steps },
          }),
        ),
      );
      lesson.steps.forEach((one) => drafts.forget(one.id));
      go(place + by);
    });

  const split = (step: Step, after: number) =>
    attempt(async () => {
      await drafts.settled();
      const version = drafts.versionOf(step);
      const path = { step_id: step.id };
      await got(client.POST("/api/steps/{step_id}/split", { params: { path }, body: { version, after } }));
      await refreshLesson(lesson.id);
    });

  const join = (step: Step) =>
    attempt(async () => {
      await drafts.settled();
      const version = drafts.versionOf(step);
      const path = { step_id: step.id };
      await got(client.POST("/api/steps/{step_id}/join", { params: { path }, body: { version } }));
      drafts.forget(step.id);
      await refreshLesson(lesson.id);
      go(Math.max(0, place - 1));
    });

  const carry = (step: Step) =>
    attempt(async () => {
      await drafts.settled();
      const path = { step_id: step.id };
      const steps = await got(client.POST("/api/steps/{step_id}/carry", { params: { path } }));
      setCarriedOn({ steps, start: false });
      lesson.steps.slice(place).forEach((one) => drafts.forget(one.id));
      await refreshLesson(lesson.id);
    });

  /** Lets the lesson start from what the one before it ends with now. */
  const follow = () =>
    attempt(async () => {
      await drafts.settled();
      const path = { lesson_id: lesson.id };
      const steps = await got(client.POST("/api/lessons/{lesson_id}/follow", { params: { path } }));
      setCarriedOn({ steps, start: true });
      lesson.steps.forEach((one) => drafts.forget(one.id));
      await refreshLesson(lesson.id);
    });

  /** Adds a step of another lesson behind this one. */
  const take = (like: string) =>
    attempt(async () => {
      const after = lesson.steps[place]?.id ?? null;
      const path = { lesson_id: lesson.id };
      await got(
        client.POST("/api/lessons/{lesson_id}/steps", {
          params: { path },
          body: { after, like, finishing: false },
        }),
      );
      await refreshLesson(lesson.id);
      go(after ? place + 1 : 0);
    });

  const takeBack = () =>
    attempt(async () => {
      const states = carriedOn;
      setCarriedOn(undefined);
      if (!states) return;
      const path = { lesson_id: lesson.id };
      showLesson(
        await got(client.POST("/api/lessons/{lesson_id}/take-back", { params: { path }, body: states })),
      );
      lesson.steps.forEach((one) => drafts.forget(one.id));
    });

  /** Closes the step with a title of its own, if it has none, and begins the next one where it ends. */
  const finish = (step: Step) =>
    attempt(async () => {
      await drafts.settled();
      const body = { after: step.id, finishing: true };
      await got(
        client.POST("/api/lessons/{lesson_id}/steps", { params: { path: { lesson_id: lesson.id } }, body }),
      );
      await refreshLesson(lesson.id);
      go(place + 1);
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
    split,
    join,
    carry,
    follow,
    take,
    carriedOn,
    takeBack,
    dismissCarriedOn: () => setCarriedOn(undefined),
    finish,
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
