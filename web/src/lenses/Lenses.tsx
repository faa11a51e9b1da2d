import { useState } from "react";

import type { LensWish, Module, Patch, Render, SpectrumData, WaveData } from "../api/client";
import { type Catalogue, mainOutput, modulesOf, split, titleOf } from "../api/patch";
import { useLate } from "../ui/useLate";
import { LensFrame, type TapChoice } from "./LensFrame";
import { SpectrumLens } from "./SpectrumLens";
import { WaveLens } from "./WaveLens";

export const FOLLOW = "follow";

export interface LensState {
  waveTap: string;
  spectrumTap: string;
  /** How many cycles the wave lens shows, 0 for the whole phrase; undefined where the module decides. */
  cycles: number | undefined;
}

/** What the two lenses look at; “follow” goes with the selected module. */
export function useLensState(): [LensState, (change: globalThis.Partial<LensState>) => void] {
  const [state, setState] = useState<LensState>({ waveTap: FOLLOW, spectrumTap: FOLLOW, cycles: undefined });
  return [state, (change) => setState((old) => ({ ...old, ...change }))];
}

const realTap = (wanted: string, followed: string, patch: Patch) =>
  wanted !== FOLLOW && modulesOf(patch).some((one) => one.id === split(wanted)[0]) ? wanted : followed;

/** The lenses to ask a render for. What steers is seen over time; its partials are those of what is heard. */
export function wishes(
  state: LensState,
  followed: string | undefined,
  patch: Patch,
  catalogue: Catalogue,
): LensWish[] {
  if (followed === undefined) return [];
  const waveTap = realTap(state.waveTap, followed, patch);
  const sounding = outputKind(followed, patch, catalogue) === "audio" ? followed : heardTap(patch, catalogue);
  const seenOver = catalogue.get(moduleOf(waveTap, patch)?.type ?? "")?.seen_over;
  return [
    { kind: "wave", tap: waveTap, cycles: state.cycles ?? (seenOver === "cycles" ? CYCLES : 0) },
    { kind: "spectrum", tap: realTap(state.spectrumTap, sounding ?? followed, patch) },
  ];
}

const CYCLES = 3;

const moduleOf = (tap: string, patch: Patch) => modulesOf(patch).find((one) => one.id === split(tap)[0]);

function outputKind(tap: string, patch: Patch, catalogue: Catalogue) {
  const outputs = catalogue.get(moduleOf(tap, patch)?.type ?? "")?.outputs;
  return outputs?.find((one) => one.name === split(tap)[1])?.kind;
}

function heardTap(patch: Patch, catalogue: Catalogue): string | undefined {
  const output = modulesOf(patch).find((one) => one.type === "output");
  return output && mainOutput(output, catalogue);
}

/** What stands behind a lens: the same tap in the step before, or what goes into a module that is new. */
export interface Comparison {
  legend: string;
  wave: WaveData | undefined;
  spectrum: SpectrumData | undefined;
}

interface Props {
  patch: Patch;
  catalogue: Catalogue;
  followed: string | undefined;
  state: LensState;
  onState: (change: globalThis.Partial<LensState>) => void;
  render: Render | undefined;
  behind: boolean;
  comparison: Comparison | undefined;
}

export function Lenses({ patch, catalogue, followed, state, onState, render, behind, comparison }: Props) {
  const late = useLate(behind);
  const lenses = render?.lenses ?? [];
  const wave = lenses.find((one) => one.kind === "wave");
  const spectrum = lenses.find((one) => one.kind === "spectrum");
  const taps = (shown: string | undefined) => tapChoices(patch, catalogue, shown);
  const shownCycles = state.cycles ?? (wave && wave.seconds === render?.seconds ? 0 : CYCLES);
  return (
    <div className="grid min-h-0 flex-1 grid-cols-2 gap-5">
      <LensFrame
        name="Wave"
        taps={taps(followed)}
        tap={state.waveTap}
        onTap={(tap) => onState({ waveTap: tap })}
        options={<CyclesSwitch cycles={shownCycles} onChange={(cycles) => onState({ cycles })} />}
        legend={comparison?.wave && comparison.legend}
        sentence={wave?.sentence ?? ""}
        busy={late}
      >
        {wave && <WaveLens data={wave} compared={comparison?.wave} />}
      </LensFrame>
      <LensFrame
        name="Spectrum"
        taps={taps(spectrum?.tap ?? followed)}
        tap={state.spectrumTap}
        onTap={(tap) => onState({ spectrumTap: tap })}
        legend={comparison?.spectrum && comparison.legend}
        sentence={spectrum?.sentence ?? ""}
        busy={late}
      >
        {spectrum && <SpectrumLens data={spectrum} compared={comparison?.spectrum} />}
      </LensFrame>
    </div>
  );
}

function CyclesSwitch({ cycles, onChange }: { cycles: number; onChange: (cycles: number) => void }) {
  const choice = (count: number, word: string) => (
    <button
      type="button"
      aria-pressed={cycles === count}
      className={`border-b-2 px-1 ${cycles === count ? "border-this font-semibold" : "border-transparent text-soft"}`}
      onClick={() => onChange(count)}
    >
      {word}
    </button>
  );
  return (
    <span role="group" aria-label="How much is shown" className="flex gap-2 whitespace-nowrap">
      {choice(CYCLES, "3 cycles")}
      {choice(0, "phrase")}
    </span>
  );
}

function tapChoices(patch: Patch, catalogue: Catalogue, followed: string | undefined): TapChoice[] {
  const word = (module: Module, port: string) =>
    `${titleOf(module, catalogue)}${port === "out" ? "" : `: ${port}`}`;
  const all = modulesOf(patch).flatMap((module) =>
    (catalogue.get(module.type)?.outputs ?? []).map((output) => ({
      tap: `${module.id}.${output.name}`,
      word: word(module, output.name),
    })),
  );
  const selected = all.find((one) => one.tap === followed)?.word;
  return [
    { tap: FOLLOW, word: selected ?? "the output" },
    ...all.map((one) => ({ ...one, word: `always ${one.word}` })),
  ];
}

/** The tap that the lenses follow: the main output of the selected module. */
export function followedTap(
  patch: Patch,
  catalogue: Catalogue,
  selected: string | undefined,
): string | undefined {
  const modules = modulesOf(patch);
  const module =
    modules.find((one) => one.id === selected) ?? modules.find((one) => one.type === "output") ?? modules[0];
  return module && mainOutput(module, catalogue);
}
