import { Switch } from "@headlessui/react";
import { useState } from "react";

import { client, got, type Lesson } from "../api/client";
import { showLesson } from "../api/queries";
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
  const area = "field-sizing-content w-full rounded border border-firm bg-paper p-2 font-read text-read";
  return (
    <Panel title="About the lesson" onClose={onClose}>
      <form
        className="overflow-y-auto px-4 pt-2 pb-4"
        onSubmit={(event) => {
          event.preventDefault();
          void keep();
        }}
      >
        <label className="mb-4 block">
          <span className="mb-1 block text-soft">Summary, as the shelf shows it</span>
          <textarea
            rows={3}
            maxLength={2000}
            className={area}
            value={summary}
            onChange={(event) => setSummary(event.target.value)}
          />
        </label>
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
          <label className="block">
            <span className="mb-1 block text-soft">What to say there (Markdown)</span>
            <textarea
              rows={3}
              maxLength={5000}
              className={area}
              value={note}
              onChange={(event) => setNote(event.target.value)}
            />
          </label>
        )}
        {failure && (
          <p role="alert" className="mt-3 text-warn">
            {failure}
          </p>
        )}
        <button type="submit" className="button-strong mt-4">
          Keep
        </button>
      </form>
    </Panel>
  );
}
