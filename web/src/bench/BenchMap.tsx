import type { DragEvent } from "react";

import type { Edit, Ends, StepMark } from "../api/client";
import { isSection } from "../api/patch";
import { followedTap } from "../lenses/views";
import { PatchMap } from "../map/PatchMap";
import { messageOf } from "../api/messageOf";
import { useBench } from "./BenchContext";
import { draggedFile, openedFrom } from "./documents";
import { heardAs } from "./store";

const NONE: StepMark[] = [];

/** The map of the patch; where a lens is being pointed, what is chosen on it is a tap. */
export function BenchMap({ zoom }: { zoom?: number }) {
  const { patch, before, catalogue, state, lenses, map, now, findings = [], ...bench } = useBench();
  const { pointing } = lenses;
  const select = (ids: string[]) => {
    const tap = ids[0] === undefined ? undefined : followedTap(patch, catalogue, ids[0], undefined);
    if (pointing === undefined || tap === undefined) state.select(ids);
    else lenses.toggleTap(pointing, tap);
  };
  const selectLine = (ends: Ends) => {
    if (pointing === undefined) state.selectLine(ends);
    else lenses.toggleTap(pointing, ends.from);
  };
  const open = (id: string) => {
    if (isSection(patch, id)) bench.edit?.([opened(id)]);
    else if (bench.writing) state.rename(id);
  };
  const rename = (id: string, label: string | undefined) => {
    state.rename(undefined);
    if (label !== undefined)
      bench.edit?.([isSection(patch, id) ? relabelled(id, label) : renamed(id, label)]);
  };
  const connect = (port: string, only: string | undefined) =>
    state.ask({ what: "connect", connecting: { port, into: false, only } });
  const drop = useDrop();
  return (
    <div
      className="relative h-full min-h-0 min-w-0"
      data-map
      onDragOver={(event) => {
        if (bench.writing && event.dataTransfer.types.includes("Files")) event.preventDefault();
      }}
      onDrop={drop}
    >
      {patch.modules.length === 0 && <Empty />}
      <PatchMap
        hold={zoom === undefined ? map.hold : undefined}
        zoom={zoom ?? 1}
        patch={patch}
        before={before?.patch}
        catalogue={catalogue}
        measures={now.data?.measures}
        silences={now.data?.silences}
        findings={findings}
        marks={bench.marks ?? NONE}
        reach={findings[0]?.code === "no-sound" ? now.data?.reach : undefined}
        heard={(id) => heardAs(state, id)}
        selected={bench.chosen}
        line={state.line}
        renaming={state.renaming}
        onSelect={select}
        onLine={selectLine}
        onConnect={bench.writing ? connect : undefined}
        onOpen={open}
        onRenamed={rename}
      />
    </div>
  );
}

function Empty() {
  const { writing } = useBench();
  return (
    <p className="absolute inset-0 m-auto h-fit w-fit max-w-sm text-center font-read text-read text-soft">
      Nothing is here yet.
      {writing && " Press A and say what you need: a player, a tone, an output…"}
    </p>
  );
}

/** Opens a file that is dropped: a patch, a phrase, or both. */
function useDrop() {
  const bench = useBench();
  const { state } = bench;
  return (event: DragEvent) => {
    const file = bench.writing ? draggedFile(event) : undefined;
    if (!file) return;
    event.preventDefault();
    openedFrom(file).then(
      ({ name, patch: whole, phrase }) => {
        if (whole) bench.moves.open(whole);
        if (phrase) bench.moves.play(phrase);
        state.say(`The ${whole ? "patch" : "phrase"} of “${name}” is here. Undo brings back what was there.`);
      },
      (error: unknown) => state.say(messageOf(error)),
    );
  };
}

const opened = (section: string): Edit => ({ kind: "section", section, open: true, name: "" });
const relabelled = (section: string, label: string): Edit => ({ kind: "section", section, label, name: "" });
const renamed = (module: string, label: string): Edit => ({ kind: "rename", module, label });
