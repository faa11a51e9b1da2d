import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { client, type CompanyPart, got } from "../../api/client";
import { useLesson, useLessons } from "../../api/queries";
import { Failure } from "../../ui/Failure";
import { Choice } from "../../ui/Choice";

interface Props {
  onAdd: (part: CompanyPart) => void;
}

/** Brings somebody in: one of those that come with the program, or a step of a lesson. */
export function AddPart({ onAdd }: Props) {
  const [choosing, setChoosing] = useState(false);
  const { data, error } = useQuery({
    queryKey: ["company parts"],
    staleTime: Infinity,
    queryFn: () => got(client.GET("/api/company/shipped")),
  });
  return (
    <div className="mt-2">
      <div className="flex flex-wrap items-center gap-2">
        <span className="font-semibold text-soft">Bring in</span>
        {data?.map(({ part, about }) => (
          <button key={part.id} type="button" className="button" title={about} onClick={() => onAdd(part)}>
            {part.name}
          </button>
        ))}
        <button type="button" className="button" onClick={() => setChoosing(!choosing)}>
          A step of a lesson…
        </button>
      </div>
      <Failure said={error?.message} className="mt-1" />
      {choosing && (
        <StepChoice
          onChoose={(part) => {
            setChoosing(false);
            onAdd(part);
          }}
        />
      )}
    </div>
  );
}

const NONE = "";

/** A step of one of the lessons that one writes, as it sounds with its own phrase. */
function StepChoice({ onChoose }: { onChoose: (part: CompanyPart) => void }) {
  const lessons = useLessons();
  const [lesson, setLesson] = useState(NONE);
  const rows = lessons.data ?? [];
  return (
    <div className="mt-2 flex flex-wrap items-center gap-3">
      <Choice
        label="Lesson"
        value={lesson}
        options={[
          { value: NONE, word: "Which lesson?" },
          ...rows.map(({ id, title }) => ({ value: id, word: title || "Untitled" })),
        ]}
        onChange={setLesson}
      />
      {lesson !== NONE && <Steps lesson={lesson} onChoose={onChoose} />}
      {lessons.data && rows.length === 0 && (
        <span className="text-soft">You have no lessons to take one from.</span>
      )}
      <Failure said={lessons.error?.message} />
    </div>
  );
}

function Steps({ lesson, onChoose }: { lesson: string; onChoose: (part: CompanyPart) => void }) {
  const { data } = useLesson(lesson);
  const steps = data?.steps ?? [];
  return (
    <Choice
      label="Step"
      value={NONE}
      options={[
        { value: NONE, word: "Which step?" },
        ...steps.map(({ id, content }, place) => ({ value: id, word: `${place + 1}. ${content.title}` })),
      ]}
      onChange={(id) => {
        const step = steps.find((one) => one.id === id);
        if (!step) return;
        const { format, version, title, tempo, beats, notes, gestures } = step.content.phrase;
        const phrase = { format, version, title, tempo, beats, notes, gestures };
        const name = (data?.title ?? step.content.title).slice(0, 60) || "A step";
        onChoose({
          ...{ id: "part", name, patch: step.content.patch, phrase },
          ...{ level: 0, pan: 0, fade_in: 0, fade_out: 0, muted: false },
        });
      }}
    />
  );
}
