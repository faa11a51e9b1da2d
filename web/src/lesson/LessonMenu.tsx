import { useState } from "react";
import { useNavigate, useParams } from "react-router";

import { client, got, type Lesson } from "../api/client";
import { ActionMenu } from "../ui/ActionMenu";
import { AboutPanel } from "./AboutPanel";
import { EditionsPanel } from "./EditionsPanel";
import { HandOutPanel } from "./HandOutPanel";
import { LearnersPanel } from "./LearnersPanel";
import { PublishPanel } from "./PublishPanel";
import { SharePanel } from "./SharePanel";
import { undoLast } from "./steps";
import { messageOf } from "../api/messageOf";

type Shown = "about" | "hand-out" | "share" | "publish" | "editions" | "learners";

interface Props {
  lesson: Lesson;
  onFailure: (message: string) => void;
}

/** What can be done with a lesson as a whole. */
export function LessonMenu({ lesson, onFailure }: Props) {
  const [shown, setShown] = useState<Shown>();
  const navigate = useNavigate();
  const { place = "1" } = useParams();
  const close = () => setShown(undefined);
  const duplicate = () => {
    const path = { lesson_id: lesson.id };
    got(client.POST("/api/lessons/{lesson_id}/duplicate", { params: { path } })).then(
      (copy) => void navigate(`/desk/${copy.id}/1`),
      (error: unknown) => onFailure(messageOf(error)),
    );
  };
  const undo = () => {
    undoLast(lesson).then(
      ({ id, steps }) => void navigate(`/desk/${id}/${Math.min(Number(place), Math.max(1, steps.length))}`),
      (error: unknown) => onFailure(messageOf(error)),
    );
  };
  const items = [
    ...(lesson.undo === null ? [] : [{ word: `Undo: ${lesson.undo}`, run: undo }]),
    { word: "About the lesson…", run: () => setShown("about") },
    { word: "Share with an educator…", run: () => setShown("share") },
    { word: "Publish…", run: () => setShown("publish") },
    { word: "Editions…", run: () => setShown("editions") },
    { word: "Learners…", run: () => setShown("learners") },
    { word: "Hand it out…", run: () => setShown("hand-out") },
    { word: "Duplicate", run: duplicate },
    {
      word: "Save as a bundle",
      run: () => {
        window.location.href = `/api/lessons/${lesson.id}/bundle`;
      },
    },
  ];
  return (
    <>
      <ActionMenu
        actions={items}
        anchor="bottom start"
        className="rounded px-2 py-0.5 font-medium text-soft hover:bg-this/10 hover:text-ink"
      >
        Lesson…
      </ActionMenu>
      {shown === "about" && <AboutPanel lesson={lesson} onClose={close} />}
      {shown === "share" && <SharePanel lesson={lesson} onClose={close} />}
      {shown === "publish" && (
        <PublishPanel lesson={lesson} onClose={close} onEditions={() => setShown("editions")} />
      )}
      {shown === "hand-out" && <HandOutPanel lesson={lesson} onClose={close} />}
      {shown === "learners" && <LearnersPanel lesson={lesson} onClose={close} />}
      {shown === "editions" && <EditionsPanel lesson={lesson} onClose={close} />}
    </>
  );
}
