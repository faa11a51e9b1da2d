import { Switch } from "@headlessui/react";
import { useState } from "react";

import { client, got, type Lesson } from "../api/client";
import { showLesson } from "../api/queries";
import { Failure } from "../ui/Failure";
import { Panel } from "../ui/Panel";
import { drafts } from "./drafts";
import { messageOf } from "../api/messageOf";

/** What a lesson says of itself, and whether it opens with the sound that it is heading for. */
export function AboutPanel({ lesson, onClose }: { lesson: Lesson; onClose: () => void }) {
  const [summary, setSummary] = useState(lesson.summary);
  const [targetFirst, setTargetFirst] = useState(lesson.target_first);
  const [note, setNote] = useState(lesson.target_note);
  const [failure, setFailure] = useState<string>();
  const keep = async () => {
    try {
      await drafts.settled();
      const path = { lesson_id: lesson.id };
      const { version, title } = lesson;
      const body = { version, title, summary, target_first: targetFirst, target_note: note };
      showLesson(await got(client.PUT("/api/lessons/{lesson_id}", { params: { path }, body })));
      onClose();
    } catch (error) {
      setFailure(messageOf(error, "It could not be kept."));
    }
  };
  return (
    <Panel title="About the lesson" onClose={onClose}>
      <form
        className="overflow-y-auto px-4 pt-2 pb-4"
        onSubmit={(event) => {
          event.preventDefault();
          void keep();
        }}
      >
        <TextEntry
          label="Summary, as the shelf shows it"
          most={2000}
          text={summary}
          onText={setSummary}
          className="mb-4"
        />
        <Switch
          checked={targetFirst}
          onChange={setTargetFirst}
          className="rounded border border-rule px-3 py-1 data-checked:border-this data-checked:bg-this-wash data-checked:font-semibold"
        >
          Open with the target
        </Switch>
        <p className="mt-1 mb-3 text-note text-soft">
          The lesson then begins with the sound of its last step, so that everybody knows where it is heading.
        </p>
        {targetFirst && (
          <TextEntry label="What to say there (Markdown)" most={5000} text={note} onText={setNote} />
        )}
        <Failure said={failure} className="mt-3" />
        <button type="submit" className="button-strong mt-4">
          Keep
        </button>
      </form>
    </Panel>
  );
}

interface TextEntryProps {
  label: string;
  most: number;
  text: string;
  onText: (text: string) => void;
  className?: string;
}

function TextEntry({ label, most, text, onText, className = "" }: TextEntryProps) {
  return (
    <label className={`${className} block`}>
      <span className="mb-1 block text-soft">{label}</span>
      <textarea
        rows={3}
        maxLength={most}
        className="field-sizing-content w-full rounded border border-firm bg-paper p-2 font-read text-read"
        value={text}
        onChange={(event) => onText(event.target.value)}
      />
    </label>
  );
}
