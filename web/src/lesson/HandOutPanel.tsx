import { useState } from "react";

import { client, got, type HandWish, type Lesson } from "../api/client";
import { useMaking } from "../api/jobs";
import { MakingState } from "../ui/MakingState";
import { Panel } from "../ui/Panel";
import { Segments } from "../ui/Segments";

type Form = HandWish["form"];

const FORMS: { form: Form; title: string; about: string }[] = [
  {
    form: "pdf",
    title: "On paper (PDF)",
    about:
      "Each step with its map, instructions, pictures, values, and room for notes. Black and white will do.",
  },
  {
    form: "html",
    title: "In one file",
    about:
      "A page that needs no server: with all sounds and pictures, to be opened from a stick or sent by mail.",
  },
  {
    form: "package",
    title: "For a learning platform",
    about: "The same page as a package (SCORM 1.2) that reports how far somebody is.",
  },
  {
    form: "markdown",
    title: "As text (Markdown)",
    about: "For those who keep their course in text: one file, with its pictures beside it.",
  },
];

const PAPERS = [
  { value: "A4" as const, word: "A4" },
  { value: "Letter" as const, word: "Letter" },
];
const SOLUTIONS = [
  { value: "with" as const, word: "with all values" },
  { value: "without" as const, word: "values left open" },
];
const SOUNDS = [
  { value: "opus" as const, word: "small (Opus)" },
  { value: "flac" as const, word: "exact (FLAC)" },
];

/** Makes a lesson into a file that is handed out. */
export function HandOutPanel({ lesson, onClose }: { lesson: Lesson; onClose: () => void }) {
  const [form, setForm] = useState<Form>("pdf");
  const [paper, setPaper] = useState<"A4" | "Letter">("A4");
  const [solutions, setSolutions] = useState<"with" | "without">("with");
  const [sound, setSound] = useState<"opus" | "flac">("opus");
  const making = useMaking();
  const sounds = form === "html" || form === "package";
  const make = () => {
    const body: HandWish = {
      form,
      paper,
      solutions: solutions === "with",
      sound,
      number: lesson.edition?.number ?? null,
    };
    making.make("Making the file", () =>
      got(
        client.POST("/api/practice/{lesson_id}/handed", { params: { path: { lesson_id: lesson.id } }, body }),
      ),
    );
  };
  return (
    <Panel title={`Hand out “${lesson.title}”`} onClose={onClose} size="wide">
      <form
        className="min-h-0 overflow-y-auto px-4 pt-2 pb-4"
        onSubmit={(event) => {
          event.preventDefault();
          make();
        }}
      >
        <p className="mb-2 text-soft">
          {lesson.edition ? `Edition ${lesson.edition.number}.` : "As it stands at the desk now."}
        </p>
        <FormChoice form={form} onChoose={setForm} />
        <div className="flex flex-wrap gap-x-8 border-t border-rule pt-2">
          {form === "pdf" && (
            <>
              <Segments label="Paper" options={PAPERS} value={paper} onChange={setPaper} />
              <Segments label="Solutions" options={SOLUTIONS} value={solutions} onChange={setSolutions} />
            </>
          )}
          {sounds && <Segments label="Sound" options={SOUNDS} value={sound} onChange={setSound} />}
        </div>
        <div className="mt-4 flex min-h-9 flex-wrap items-center gap-4">
          <button type="submit" className="button-strong" disabled={making.busy !== undefined}>
            Make it
          </button>
          <MakingState making={making} />
        </div>
      </form>
    </Panel>
  );
}

/** What the file is to be, with a word about each. */
function FormChoice({ form, onChoose }: { form: Form; onChoose: (form: Form) => void }) {
  return (
    <fieldset>
      <legend className="sr-only">What is it to be?</legend>
      {FORMS.map((one) => (
        <label
          key={one.form}
          className={`flex gap-3 border-t border-rule py-2 ${one.form === form ? "bg-this-wash" : ""}`}
        >
          <input
            type="radio"
            name="form"
            className="mt-1 ml-2"
            checked={one.form === form}
            onChange={() => onChoose(one.form)}
          />
          <span>
            <b className="block font-read text-read font-semibold">{one.title}</b>
            <span className="text-soft">{one.about}</span>
          </span>
        </label>
      ))}
    </fieldset>
  );
}
