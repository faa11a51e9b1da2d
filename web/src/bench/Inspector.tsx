import { useState } from "react";

import type { ModuleType, Value } from "../api/client";
import { split, titleOf } from "../api/patch";
import { rules } from "../api/rules";
import { MarkField } from "./MarkField";
import { markAt } from "../marks/marks";
import { NumberEntry } from "../ui/NumberEntry";
import { useBench } from "./BenchContext";
import { Home } from "./Home";
import { ModulePicture } from "./ModulePicture";
import { SectionInspector } from "./SectionInspector";
import type { InspectedModule } from "./inUse";
import { Settings } from "./Settings";
import { Title } from "./Title";

/** The selected module: what it is, its picture, its rulers and choices, and under each input what steers it. */
export function Inspector() {
  const { patch, catalogue, subject, state } = useBench();
  const shown = state.line ? split(state.line.to)[0] : subject;
  const section = patch.sections.find((one) => one.id === shown);
  if (section) return <SectionInspector key={section.id} section={section} />;
  const module = patch.modules.find((one) => one.id === shown);
  const type = module && catalogue.get(module.type);
  if (module && type) return <ModuleInspector module={module} type={type} />;
  return (
    <p className="p-4 font-read text-soft italic">Choose a card on the map to see and change its settings.</p>
  );
}

function ModuleInspector({ module, type }: Pick<InspectedModule, "module" | "type">) {
  const { catalogue, before, edit, moves, state, writing, marks = [], onMarks } = useBench();
  const [marking, setMarking] = useState<string>();
  const at = { kind: "module" as const, module: module.id };
  const marked = marking === module.id || markAt(marks, at) !== undefined;
  const old = before?.patch.modules.find((one) => one.id === module.id && one.type === module.type);
  const turn = (name: string, value: Value) => {
    state.touch({ module: module.id, setting: name });
    moves.set(module.id, name, value);
  };
  const set = writing ? turn : undefined;
  const title = titleOf(module, catalogue);
  return (
    <section aria-label={`Settings of ${title}`} className="px-4 py-2">
      <div className="flex items-baseline gap-2">
        <div className="min-w-0 flex-1">
          <Title
            key={`${module.id}${module.label}`}
            label={module.label}
            title={title}
            onRename={edit && ((label) => edit([{ kind: "rename", module: module.id, label }]))}
          />
        </div>
        {onMarks && !marked && (
          <button
            type="button"
            title="Say what it is for, or give it a number that the text can refer to"
            className="act-quiet text-note"
            onClick={() => setMarking(module.id)}
          >
            Mark…
          </button>
        )}
      </div>
      <Explanation key={type.name} type={type} />
      <Home module={module.id} />
      {(marked || !onMarks) && <MarkField at={at} title={title} />}
      <ModulePicture module={module} type={type} before={old} onSet={set} />
      <Settings module={module} type={type} old={old} set={set} />
      {type.usually === "player" && <Voices />}
    </section>
  );
}

/** What a type of module does, in a line; and at length for whoever asks. */
function Explanation({ type }: { type: ModuleType }) {
  const [open, setOpen] = useState(false);
  return (
    <div className="text-soft">
      <button
        type="button"
        aria-expanded={open}
        title={open ? "In short" : "At length"}
        className="text-left leading-tight text-pretty hover:text-ink coarse:py-1.5"
        onClick={() => setOpen(!open)}
      >
        <b className="font-medium text-ink">{type.title}.</b> {type.summary}
      </button>
      {open && <p className="mt-1 font-read">{type.explanation}</p>}
    </div>
  );
}

/** How many notes can sound at once, each with modules of its own. */
function Voices() {
  const { patch, edit } = useBench();
  return (
    <div className="mt-1.5 flex items-baseline gap-2" title="Each note then has modules of its own.">
      <span className="flex-1">Notes at once</span>
      <NumberEntry
        label="Notes at once"
        ruler={rules.voices}
        value={patch.voices}
        onCommit={edit && ((count) => edit([{ kind: "voices", voices: Math.round(count) }]))}
      />
    </div>
  );
}
