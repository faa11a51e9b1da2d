import type { Value } from "../api/client";
import { split, titleOf } from "../api/patch";
import { rules } from "../api/rules";
import { NumberEntry } from "../ui/NumberEntry";
import { useBench } from "./BenchContext";
import { ModulePicture } from "./ModulePicture";
import { SectionInspector } from "./SectionInspector";
import { type InspectedModule, Settings } from "./Settings";
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
  const { catalogue, before, edit, moves, writing } = useBench();
  const old = before?.patch.modules.find((one) => one.id === module.id && one.type === module.type);
  const set = writing ? (name: string, value: Value) => moves.set(module.id, name, value) : undefined;
  const title = titleOf(module, catalogue);
  return (
    <section aria-label={`Settings of ${title}`} className="px-4 py-3">
      <Title
        key={`${module.id}${module.label}`}
        label={module.label}
        title={title}
        onRename={edit && ((label) => edit([{ kind: "rename", module: module.id, label }]))}
      />
      <p className="truncate text-soft" title={`${type.summary} ${type.explanation}`}>
        <b className="font-medium text-ink">{type.title}.</b> {type.summary}
      </p>
      <Home module={module.id} />
      <ModulePicture module={module} type={type} before={old} onSet={set} />
      <Settings module={module} type={type} old={old} set={set} />
      {type.usually === "player" && <Voices />}
    </section>
  );
}

/** The section that a module is in. */
function Home({ module }: { module: string }) {
  const { patch, state } = useBench();
  const home = patch.sections.find((one) => one.modules.includes(module));
  if (!home) return null;
  return (
    <p className="text-soft">
      In the section{" "}
      <button
        type="button"
        className="font-medium text-ink underline decoration-firm decoration-dotted hover:text-this"
        onClick={() => state.select([home.id])}
      >
        {home.label}
      </button>
    </p>
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
