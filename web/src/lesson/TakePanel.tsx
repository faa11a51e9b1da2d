import { useState } from "react";

import { client, type FoundStep, got, type Lesson, type StepContent } from "../api/client";
import { useSearch } from "../api/queries";
import { Failure } from "../ui/Failure";
import { Panel } from "../ui/Panel";
import { Excerpt } from "./Excerpt";
import { messageOf } from "../api/messageOf";

interface Props {
  lesson: Lesson;
  /** Takes a step as it is behind the present one, or only its patch and phrase into it. */
  onStep: (step: string) => void;
  onPatch: (content: Pick<StepContent, "patch" | "phrase">) => void;
  onClose: () => void;
}

/** Finds a step in another lesson, to take it over whole or only its patch. */
export function TakePanel({ lesson, onStep, onPatch, onClose }: Props) {
  const [words, setWords] = useState("");
  const [failure, setFailure] = useState<string>();
  const { found, busy } = useSearch(words);
  const takePatch = async (step: FoundStep) => {
    try {
      const path = { lesson_id: step.lesson };
      const other = await got(client.GET("/api/lessons/{lesson_id}", { params: { path } }));
      const content = other.steps.find((one) => one.id === step.step)?.content;
      if (!content) throw new Error("The step is not there any longer.");
      onPatch({ patch: content.patch, phrase: content.phrase });
    } catch (error) {
      setFailure(messageOf(error));
    }
  };
  const others = found.filter((one) => one.lesson !== lesson.id);
  return (
    <Panel title="Take from another lesson" onClose={onClose} size="wide">
      <div className="flex min-h-0 flex-col px-4 pt-2 pb-4">
        <input
          autoFocus
          type="search"
          aria-label="Words of the step"
          placeholder="Words of its title, its text, or a type of module"
          maxLength={200}
          className="rounded border border-firm bg-paper px-3 py-2 text-read"
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
        <Failure said={failure} className="mt-2" />
        <ul className="mt-2 min-h-0 flex-1 overflow-y-auto">
          {others.map((one) => (
            <FoundRow
              key={one.step}
              found={one}
              onStep={() => onStep(one.step)}
              onPatch={() => void takePatch(one)}
            />
          ))}
        </ul>
        {others.length === 0 && (
          <p role="status" className="mt-2 font-read text-soft italic">
            {!words.trim()
              ? "Every step of your other lessons, and of those shared with you."
              : busy
                ? "Looking…"
                : "No step of another lesson has all these words."}
          </p>
        )}
      </div>
    </Panel>
  );
}

interface FoundRowProps {
  found: FoundStep;
  onStep: () => void;
  onPatch: () => void;
}

function FoundRow({ found, onStep, onPatch }: FoundRowProps) {
  return (
    <li className="flex items-start gap-4 border-t border-rule py-2" data-found={found.step}>
      <div className="min-w-0 flex-1">
        <div className="font-semibold">{found.title}</div>
        <div className="text-note text-soft">
          {found.lesson_title}, step {found.place + 1}
        </div>
        <Excerpt pieces={found.excerpt} />
      </div>
      <button type="button" className="button" onClick={onStep}>
        The step
      </button>
      <button type="button" className="button" onClick={onPatch}>
        Only its patch
      </button>
    </li>
  );
}
