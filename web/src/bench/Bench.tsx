import { useState } from "react";

import type { Instruction, LensWish, Patch, Phrase, Render, SpectrumData, WaveData } from "../api/client";
import { type Catalogue, inputOf, modulesOf, split } from "../api/patch";
import { type Comparison, followedTap, Lenses, useLensState, wishes } from "../lenses/Lenses";
import { PatchMap } from "../map/PatchMap";
import { decibels } from "../ui/units";
import { useLate } from "../ui/useLate";
import { Inspector } from "./Inspector";
import { type Sound, Transport } from "./Transport";
import { useRender } from "./useRender";

interface Props {
  patch: Patch;
  phrase: Phrase;
  /** The step before, if there is one. */
  before: { patch: Patch; phrase: Phrase } | undefined;
  instructions: Instruction[];
  catalogue: Catalogue;
  /** Without it nothing can be changed. */
  onChange?: (patch: Patch) => void;
}

/** The place where the patch is: the map, the lenses, the selected module, and the playing. */
export function Bench({ patch, phrase, before, instructions, catalogue, onChange }: Props) {
  const [chosen, setChosen] = useState<string>();
  const [lensState, setLensState] = useLensState();
  const selected = modulesOf(patch).some((one) => one.id === chosen) ? chosen : subject(patch, instructions);
  const followed = followedTap(patch, catalogue, selected);
  const asked = wishes(lensState, followed, patch, catalogue);
  const inner = innerTap(patch, before?.patch, followed, catalogue);
  const now = useRender(patch, phrase, inner ? besideInner(asked, followed, inner) : asked);
  const beforeHas = before && asked.every((one) => hasTap(before.patch, one.tap));
  const earlier = useRender(before?.patch, before?.phrase, beforeHas && !inner ? asked : []);
  const busy = useLate(now.behind);

  return (
    <>
      <div className="grid min-h-0 min-w-0 grid-cols-[1fr_292px] grid-rows-[minmax(0,1fr)_280px]">
        <div className="flex min-h-0 min-w-0 items-center justify-center px-4 py-2" data-map>
          <PatchMap
            patch={patch}
            before={before?.patch}
            catalogue={catalogue}
            measures={now.data?.measures}
            selected={selected}
            onSelect={setChosen}
          />
        </div>
        <div className="overflow-y-auto border-l border-rule">
          <Inspector
            patch={patch}
            before={before?.patch}
            catalogue={catalogue}
            measures={now.data?.measures}
            selected={selected}
            onChange={onChange}
          />
        </div>
        <div className="col-span-full flex min-h-0 min-w-0 flex-col border-t border-rule px-4 pt-2 pb-1">
          {now.error && !now.data ? (
            <Silence message={now.error.message} retry={now.retry} />
          ) : (
            <Lenses
              patch={patch}
              catalogue={catalogue}
              followed={followed}
              state={lensState}
              onState={setLensState}
              render={now.data}
              behind={now.behind}
              comparison={
                inner ? comparison(now.data, 2, "what goes in") : comparison(earlier.data, 0, "before")
              }
            />
          )}
        </div>
      </div>
      <div className="col-span-full">
        <Transport
          phrase={phrase}
          sound={soundOf(now.data, patch)}
          before={before && soundOf(earlier.data, before.patch)}
          busy={busy}
          part={now.part}
          onStop={now.stop}
          trouble={now.data ? now.error?.message : undefined}
          onRetry={now.retry}
        />
      </div>
    </>
  );
}

function Silence({ message, retry }: { message: string; retry: () => void }) {
  return (
    <div role="alert" className="m-auto text-center">
      <p className="mb-2 font-read text-warn">{message} The patch could not be heard.</p>
      <button type="button" className="button" onClick={retry}>
        Try again
      </button>
    </div>
  );
}

/** The module that a step is about: the first that it adds, or the first that it changes. */
function subject(patch: Patch, instructions: Instruction[]): string | undefined {
  const present = new Set(modulesOf(patch).map((one) => one.id));
  const first =
    instructions.find((one) => one.kind === "add" || one.kind === "insert") ??
    instructions.find((one) => present.has(one.module));
  if (first && present.has(first.module)) return first.module;
  return modulesOf(patch).find((one) => one.type === "output")?.id;
}

/** For a module that is new in this step there is no before: then the lenses compare with what goes into it. */
function innerTap(
  patch: Patch,
  before: Patch | undefined,
  followed: string | undefined,
  catalogue: Catalogue,
) {
  if (!before || followed === undefined || hasTap(before, followed)) return undefined;
  const tap = `${split(followed)[0]}.in`;
  return inputOf(patch, tap, catalogue) ? tap : undefined;
}

/** The same moments of what goes in and of what comes out. */
const besideInner = (asked: LensWish[], followed: string | undefined, inner: string): LensWish[] => [
  ...asked.map((one) => (one.kind === "wave" ? { ...one, held_by: inner } : one)),
  ...asked.map((one) => (one.tap === followed ? { ...one, tap: inner } : one)),
];

const hasTap = (patch: Patch, tap: string) => modulesOf(patch).some((one) => one.id === split(tap)[0]);

function comparison(render: Render | undefined, from: number, legend: string): Comparison | undefined {
  const lenses = render?.lenses.slice(from, from + 2) ?? [];
  const wave = lenses.find((one): one is WaveData => one.kind === "wave");
  const spectrum = lenses.find((one): one is SpectrumData => one.kind === "spectrum");
  return wave || spectrum ? { legend, wave, spectrum } : undefined;
}

function soundOf(render: Render | undefined, patch: Patch): Sound | undefined {
  if (!render) return undefined;
  const output = modulesOf(patch).find((one) => one.type === "output");
  const sides = ["left", "right"].flatMap((side) => render.measures[`${output?.id ?? ""}.${side}`] ?? []);
  const peak = Math.max(0, ...sides.map((side) => Math.max(side.greatest, -side.least)));
  return { key: render.key, seconds: render.seconds, peakDb: peak < 1e-4 ? null : decibels(peak) };
}
