import { useState } from "react";
import { useNavigate } from "react-router";

import { client, got, type LessonRow } from "../api/client";
import { useTemplates } from "../api/queries";
import { TitleEntry } from "../ui/TitleEntry";
import { Choice } from "../ui/Choice";
import { messageOf } from "../api/messageOf";

const FROM = "from ";

interface Props {
  lessons: LessonRow[];
  onFailure: (message: string) => void;
}

/** Begins a lesson: with a title, from one of the usual openings or from where another lesson ends. */
export function NewLesson({ lessons, onFailure }: Props) {
  const [title, setTitle] = useState("");
  const [opening, setOpening] = useState("empty");
  const templates = useTemplates().data ?? [];
  const navigate = useNavigate();
  const begin = (named: string) => {
    const wish = { title: named, summary: "" };
    const body = opening.startsWith(FROM)
      ? { ...wish, template: "empty", starts_from: opening.slice(FROM.length) }
      : { ...wish, template: opening };
    got(client.POST("/api/lessons", { body })).then(
      (lesson) => navigate(`/desk/${lesson.id}/1`),
      (error: unknown) => onFailure(messageOf(error)),
    );
  };
  const summary = templates.find((one) => one.id === opening)?.summary;
  return (
    <>
      <TitleEntry label="A new lesson" title={title} onTitle={setTitle} word="Begin" onBegin={begin}>
        <div className="w-64">
          <span className="mb-1 block text-soft">It begins with</span>
          <Choice
            label="It begins with"
            className="w-full"
            value={opening}
            options={[
              ...templates.map((one) => ({ value: one.id, word: one.title })),
              ...lessons.map((one) => ({
                value: `${FROM}${one.id}`,
                word: `The end of ${one.title}`,
                group: "Where another lesson ends",
              })),
            ]}
            onChange={setOpening}
          />
        </div>
      </TitleEntry>
      <p className="mt-2 text-note text-soft">
        {summary ?? "It starts from the last patch of that lesson, and can follow when that changes."}
      </p>
    </>
  );
}
