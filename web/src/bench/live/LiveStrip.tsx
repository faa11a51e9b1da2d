import { useEffect, useState } from "react";
import { useStore } from "zustand";

import type { Phrase } from "../../api/client";
import { useBench } from "../BenchContext";
import { type Control, controlsOf } from "../../phrase/controls";
import { ActionMenu } from "../../ui/ActionMenu";
import { decibels, trimmed, withUnit } from "../../ui/units";
import { useKeys } from "../../ui/useKeys";
import { Keyboard } from "../../live/Keyboard";
import type { LiveState, Performing } from "../../live/states";
import { Recording } from "./Recording";
import { useInput } from "../../live/useInput";
import { useLetters } from "../../live/useLetters";

const USUAL_PITCH = 48;
const PERFORMED: Record<Performing, string> = {
  nothing: "Nobody else plays",
  note: "A held note",
  phrase: "The phrase, round and round",
  chord: "Up and down a chord",
};
const MENU =
  "rounded border border-rule bg-leaf px-2 py-0.5 whitespace-nowrap hover:border-firm data-open:bg-this-wash";

/** The bench as an instrument: what plays it, its controls and its keys. */
export function LiveStrip() {
  const { live, phrase } = useBench();
  const state = useStore(live.state);
  const [letters, setLetters] = useState(true);
  const [base, setBase] = useState(() => baseFor(phrase));
  const on = state.phase === "on";
  const end = () => setLetters(false);
  useLetters(live, { on: on && letters, base, onBase: setBase, onEnd: end });
  useKeys({
    End: live.silence,
    Space: () => live.perform(state.performing === "nothing" ? "phrase" : "nothing", phrase),
  });
  return (
    <section
      aria-label="Playing live"
      data-live={state.phase}
      data-gaps={state.gaps}
      data-heard-ms={state.heardMs}
      data-seen-ms={state.seenMs}
      data-loudest={state.loudest}
      className="border-t-2 border-this bg-leaf"
    >
      <Upper {...{ state, letters, setLetters, base, setBase }} />
      <div className="flex h-17 items-stretch gap-3 px-5 narrow:h-auto narrow:flex-col narrow:gap-1.5 narrow:px-3">
        <Controls state={state} />
        <div className="flex min-w-0 flex-1 pb-2">
          <Keyboard {...{ live, base, letters: on && letters }} down={state.down} />
        </div>
      </div>
    </section>
  );
}

/** The C beneath the lowest note of a phrase: where a sound is meant to be played. */
const baseFor = ({ notes }: Phrase): number =>
  12 * Math.floor(Math.min(...notes.map(({ pitch }) => pitch), notes.length > 0 ? 127 : USUAL_PITCH) / 12);

interface UpperProps {
  state: LiveState;
  letters: boolean;
  setLetters: (on: boolean) => void;
  base: number;
  setBase: (base: number) => void;
}

/** What plays, in which tempo, and what becomes of it. */
function Upper({ state, letters, setLetters, base, setBase }: UpperProps) {
  const { live, phrase } = useBench();
  const actions = (Object.keys(PERFORMED) as Performing[]).map((what) => ({
    word: PERFORMED[what],
    run: () => live.perform(what, phrase),
  }));
  return (
    <div className="flex min-h-11 flex-wrap items-center gap-x-2.5 gap-y-1 px-5 text-work narrow:px-3 narrow:py-1">
      <button type="button" className="button-strong shrink-0" onClick={live.stop}>
        Stop playing
      </button>
      <button
        type="button"
        aria-pressed={letters}
        title="Letters play notes; none of them is a command then (Esc ends it)"
        className={`shrink-0 rounded border px-2 py-0.5 ${letters ? "border-this bg-this font-semibold text-leaf" : "border-rule"}`}
        onClick={(event) => {
          setLetters(!letters);
          event.currentTarget.blur();
        }}
      >
        {letters ? "Letters play notes" : "Letters are commands"}
      </button>
      <Octave {...{ base, setBase }} />
      <ActionMenu
        label={`The simulated player: ${PERFORMED[state.performing]}`}
        actions={actions}
        anchor="top end"
        className={MENU}
      >
        {PERFORMED[state.performing]}
      </ActionMenu>
      <Devices />
      <Tempo state={state} />
      <span className="flex-1" />
      <Recording state={state} />
      <button
        type="button"
        className="button shrink-0"
        aria-pressed={state.frozen}
        title="Freeze the pictures, and compare what comes with them (J)"
        onClick={() => live.freeze(!state.frozen)}
      >
        {state.frozen ? "Thaw" : "Freeze"}
      </button>
      <button
        type="button"
        className="button shrink-0"
        title="Silence everything (End)"
        onClick={live.silence}
      >
        Silence
      </button>
      <How state={state} />
    </div>
  );
}

function Octave({ base, setBase }: Pick<UpperProps, "base" | "setBase">) {
  const step = (by: number) => setBase(Math.min(84, Math.max(0, base + by)));
  return (
    <span className="flex shrink-0 items-center gap-0.5">
      <button
        type="button"
        className="px-1"
        aria-label="An octave lower"
        title="An octave lower (Page down)"
        onClick={() => step(-12)}
      >
        ◂
      </button>
      <span className="text-soft">octave</span>
      <button
        type="button"
        className="px-1"
        aria-label="An octave higher"
        title="An octave higher (Page up)"
        onClick={() => step(12)}
      >
        ▸
      </button>
    </span>
  );
}

/** Which MIDI device plays. */
function Devices() {
  const { live, patch, catalogue, state } = useBench();
  const playing = useStore(live.state, ({ phase }) => phase === "on");
  const input = useInput(live, playing);
  const { text, look } = input;
  const { say } = state;
  useEffect(() => {
    if (text !== undefined) say(text);
  }, [text, say]);
  const levers = controlsOf(patch, catalogue).filter(({ control }) => control.startsWith("lever:"));
  const actions = [
    { word: "No MIDI device", run: () => input.choose(undefined) },
    ...input.found.map((one) => ({ word: one.name, run: () => input.choose(one) })),
    { word: "Look for devices…", run: () => void look() },
    ...levers.map(({ control, name }, n) => ({
      word:
        input.learning === control ? `${name}: move what should move it…` : `Let a controller move ${name}…`,
      run: () => input.learn(control),
      apart: n === 0,
    })),
  ];
  const words = input.learning ? "Move what should move it…" : (input.chosen?.name ?? "No MIDI device");
  return (
    <ActionMenu label={`MIDI device: ${words}`} actions={actions} anchor="top end" className={MENU}>
      {words}
    </ActionMenu>
  );
}

function Tempo({ state }: { state: LiveState }) {
  const { live } = useBench();
  const { standing } = state;
  return (
    <span className="flex shrink-0 items-center gap-1.5" data-outside={standing?.outside}>
      <span className="tabular-nums">{standing ? trimmed(standing.tempo, 4) : "–"}</span>
      <span className="text-soft">{standing?.outside ? "bpm, outside" : "bpm"}</span>
      {standing && !standing.runs && <span className="text-warn">stopped</span>}
      <button
        type="button"
        className="rounded border border-rule px-2 py-0.5"
        onPointerDown={() => live.tap()}
        onClick={({ detail }) => detail === 0 && live.tap()}
        title="Tap the beat"
      >
        Tap
      </button>
    </span>
  );
}

/** How it stands: what is wrong, or how soon it sounds. */
function How({ state }: { state: LiveState }) {
  const { phase, text, gaps, ahead, loudest } = state;
  const words =
    phase === "starting"
      ? "Getting ready…"
      : phase === "lost"
        ? "The line was lost; coming back…"
        : (text ?? `${loudness(loudest)}${gaps > 0 ? `, ${gaps} gap${gaps === 1 ? "" : "s"}` : ""}`);
  const warns = phase === "lost" || text !== undefined;
  return (
    <span
      className={`min-w-0 truncate text-right ${warns ? "text-warn" : "text-soft"}`}
      title={phase === "on" ? `${words}; ${trimmed(ahead / 48, 2)} ms ahead` : words}
      aria-live="polite"
    >
      {words}
    </span>
  );
}

const loudness = (peak: number): string => (peak < 1e-4 ? "silent" : `${trimmed(decibels(peak), 2)} dB`);

/** Bend, wheel and all of the patch's levers, which are scrolled through where there are many. */
function Controls({ state }: { state: LiveState }) {
  const { patch, catalogue } = useBench();
  const all = controlsOf(patch, catalogue);
  const [wheel, bend, ...levers] = all;
  return (
    <div className="flex max-w-[70%] shrink-0 items-stretch gap-3 overflow-x-auto pb-2 leading-4 [scrollbar-width:thin] narrow:max-w-full narrow:flex-wrap">
      {[bend, wheel, ...levers].map(
        (one) => one && <Slider key={one.control} one={one} at={state.controls[one.control]} />,
      )}
    </div>
  );
}

function Slider({ one, at }: { one: Control; at: number | undefined }) {
  const { live } = useBench();
  const isBend = one.control === "bend";
  const position = at ?? one.rest;
  const back = () => isBend && live.move(one.control, 0);
  return (
    <label className="flex w-24 shrink-0 flex-col justify-between">
      <span className="truncate text-soft" title={one.name}>
        {one.name}
      </span>
      <input
        type="range"
        min={isBend ? -1 : 0}
        max={1}
        step={0.005}
        value={position}
        aria-valuetext={withUnit(one.valueAt(position), one.ruler.unit)}
        data-control={one.control}
        className="w-full accent-ink"
        onChange={({ target }) => live.move(one.control, Number(target.value))}
        onPointerUp={back}
        onBlur={back}
      />
      <span className="tabular-nums">{withUnit(one.valueAt(position), one.ruler.unit)}</span>
    </label>
  );
}
