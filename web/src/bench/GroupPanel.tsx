import { type SyntheticEvent, useState } from "react";

import { titleOf } from "../api/patch";
import { Panel } from "../ui/Panel";
import { useBench } from "./BenchContext";

/** Asks for the name of a new section. */
export function GroupPanel({ modules }: { modules: string[] }) {
  const { patch, catalogue, state, act } = useBench();
  const [label, setLabel] = useState("");
  const titles = patch.modules
    .filter((one) => modules.includes(one.id))
    .map((one) => titleOf(one, catalogue));
  const submit = (event: SyntheticEvent) => {
    event.preventDefault();
    act([{ kind: "group", modules, label }]);
  };
  return (
    <Panel title="Group into a section" onClose={() => state.ask(undefined)}>
      <form className="flex flex-col gap-3 px-4 pt-1 pb-4" onSubmit={submit}>
        <p className="text-soft">{titles.join(", ")}</p>
        <div className="flex gap-3">
          <input
            autoFocus
            aria-label="Name of the section"
            placeholder="What do they do together?"
            maxLength={60}
            className="flex-1 rounded border border-firm bg-paper px-3 py-2 outline-none focus:border-this"
            value={label}
            onChange={(event) => setLabel(event.target.value)}
          />
          <button type="submit" className="button-strong">
            Group
          </button>
        </div>
      </form>
    </Panel>
  );
}
