import { Switch } from "@headlessui/react";
import { useStore } from "zustand";
import { useEffect, useState, useSyncExternalStore } from "react";

import type { Patch, Phrase, Render } from "../api/client";
import { type Catalogue, outputModule } from "../api/patch";
import { AGAINST } from "../lenses/views";
import { phraseSeconds } from "../phrase/phrases";
import { decibels, noteName, trimmed } from "../ui/units";
import { useKeys } from "../ui/useKeys";
import { useLate } from "../ui/useLate";
import { useBench } from "./BenchContext";
import { PhraseStrip } from "./PhraseStrip";
import { Player } from "./player";
import { InCompany } from "./company/InCompany";
import { useCompany } from "./company/useCompany";
import { listeningOf } from "./store";
import { useMatchedGains } from "./useMatchedGains";
import { type Which, WhichSound } from "./WhichSound";

export interface Sound {
  key: string;
  seconds: number;
  peakDb: number | null;
}

/** Plays the phrase: one key, with this step or the one before it, once or round and round. */
export function Transport() {
  const { phrase, seen, compared, whose, sound: held } = useBench();
  const { sound, other } = useSounds();
  const [which, setWhich] = useState<Which>("this");
  const [loop, setLoop] = useState(false);
  const chosen = which === "other" && other ? other : sound;
  const gains = useMatchedGains(sound?.key, other?.key);
  const gain = (chosen === other ? gains?.other : gains?.this) ?? 1;
  const { player, playing, toggle } = usePlaying(
    chosen?.key,
    other?.key,
    loop ? phraseSeconds(phrase) : null,
    gain,
  );
  useCompany(player);
  const otherName = compared?.name ?? AGAINST[seen.scene ? seen.against : "before"];
  useEffect(() => {
    held.hold(toggle);
    return () => held.hold(undefined);
  });
  useKeys({
    Space: toggle,
    L: () => setLoop(!loop),
    B: () => other && setWhich(which === "this" ? "other" : "this"),
  });
  return (
    <section
      aria-label="Playing"
      className="flex min-h-17 shrink-0 items-center gap-4 border-t border-rule bg-leaf px-5 tight:gap-2.5 tight:px-3 narrow:flex-wrap narrow:gap-x-1! narrow:gap-y-1 narrow:px-2! narrow:py-1.5"
    >
      <PlayButton playing={playing.playing} possible={chosen !== undefined} onToggle={toggle} />
      <PlayLive />
      <WhichSound
        word={whose ?? "This step"}
        which={which}
        onChange={setWhich}
        otherName={other && otherName}
      />
      <InCompany />
      <LoopSwitch loop={loop} onLoop={setLoop} />
      <PhraseButton />
      <PhraseStrip seconds={chosen?.seconds} player={player} playing={playing.playing} />
      <Level player={player} />
      <div
        className="w-36 shrink-0 text-right leading-tight text-soft tight:w-24 narrow:hidden"
        aria-live="polite"
      >
        <Standing failed={playing.failed} sound={chosen} />
      </div>
    </section>
  );
}

function LoopSwitch({ loop, onLoop }: { loop: boolean; onLoop: (loop: boolean) => void }) {
  return (
    <Switch
      checked={loop}
      onChange={onLoop}
      title="Play round and round (L)"
      className="rounded border border-rule px-3 py-1.5 narrow:px-2 data-checked:border-this data-checked:bg-this-wash data-checked:font-semibold data-checked:text-this"
    >
      Loop
    </Switch>
  );
}

/** What the phrase is called, and the way to it. */
function PhraseButton() {
  const { phrase, state } = useBench();
  return (
    <button
      type="button"
      title="The phrase (4)"
      className={`group w-40 shrink-0 text-left leading-tight tight:hidden ${phrase.company.length > 0 ? "max-[1500px]:hidden" : ""}`}
      onClick={() => state.show("phrase")}
    >
      <span className="line-clamp-2 font-medium group-hover:text-this">{phrase.title || "Phrase"}</span>
      <span className="block text-soft">{phraseText(phrase)}</span>
    </button>
  );
}

/** The sound of this step, and the one that it can be compared with by ear. */
function useSounds(): { sound: Sound | undefined; other: Sound | undefined } {
  const { patch, catalogue, now, earlier, compared } = useBench();
  return {
    sound: soundOf(now.data, patch, catalogue),
    other: compared && soundOf(earlier, compared.patch, catalogue),
  };
}

function soundOf(render: Render | undefined, patch: Patch, catalogue: Catalogue): Sound | undefined {
  if (!render) return undefined;
  const output = outputModule(patch, catalogue);
  const sides = ["left", "right"].flatMap((side) => render.measures[`${output?.id ?? ""}.${side}`] ?? []);
  const peak = Math.max(0, ...sides.map((side) => Math.max(side.greatest, -side.least)));
  return { key: render.key, seconds: render.seconds, peakDb: peak < 1e-4 ? null : decibels(peak) };
}

/** Playing a sound, which goes on at its place when another takes over; the other one is kept ready. */
function usePlaying(
  key: string | undefined,
  otherKey: string | undefined,
  loopSeconds: number | null,
  gain: number,
) {
  const [player] = useState(() => new Player());
  const playing = useSyncExternalStore(player.subscribe, player.snapshot);

  useEffect(() => {
    if (key === undefined) return;
    player.prepare(key);
    void player.change(key, loopSeconds, gain);
  }, [player, key, loopSeconds, gain]);

  useEffect(() => {
    if (otherKey !== undefined) player.prepare(otherKey);
  }, [player, otherKey]);

  useEffect(() => () => player.stop(), [player]);

  const toggle = () => {
    if (playing.playing) player.stop();
    else if (key !== undefined) void player.play(key, loopSeconds, gain);
  };
  return { player, playing, toggle };
}

/** Makes the bench an instrument; and says why it is none, if it could not be. */
function PlayLive() {
  const { live, patch, phrase, state, seen } = useBench();
  const { text } = useStore(live.state);
  const { say } = state;
  useEffect(() => {
    if (text !== undefined) say(text);
  }, [text, say]);
  const views = seen.views.filter((one) => one !== undefined);
  const start = () => void live.start({ patch, phrase, listening: listeningOf(state), views });
  useKeys({ V: start });
  return (
    <button
      type="button"
      className="button shrink-0 narrow:px-2!"
      title="Play it yourself (V)"
      onClick={start}
    >
      Play live
    </button>
  );
}

interface PlayButtonProps {
  playing: boolean;
  possible: boolean;
  onToggle: () => void;
}

function PlayButton({ playing, possible, onToggle }: PlayButtonProps) {
  return (
    <button
      type="button"
      aria-label={playing ? "Stop" : "Play the phrase"}
      aria-keyshortcuts="Space"
      title={playing ? "Stop (space bar)" : "Play the phrase (space bar)"}
      data-playing={playing}
      className="grid size-11 shrink-0 place-items-center rounded-full bg-ink text-leaf disabled:bg-soft"
      disabled={!possible}
      onClick={onToggle}
    >
      <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden="true" fill="currentColor">
        {playing ? <rect x="3" y="3" width="10" height="10" /> : <path d="M4 2L14 8L4 14Z" />}
      </svg>
    </button>
  );
}

function Level({ player }: { player: Player }) {
  const [level, setLevel] = useState(80);
  return (
    <label className="flex items-center gap-2 text-soft narrow:hidden">
      Level
      <input
        type="range"
        min="0"
        max="100"
        value={level}
        className="w-20 accent-ink"
        onChange={(event) => {
          const value = Number(event.target.value);
          setLevel(value);
          player.setLevel((value / 100) ** 2 / 0.8);
        }}
      />
    </label>
  );
}

/** How it stands with the sound: what is wrong with it, how far it is, or how long and how loud it is. */
function Standing({ failed, sound }: { failed: string | null; sound: Sound | undefined }) {
  const { now, late } = useBench();
  const busy = useLate(late);
  if (now.data && now.error) return <Trouble message={now.error.message} onRetry={now.retry} />;
  if (now.part !== undefined) return <Progress part={now.part} onStop={now.stop} />;
  return failed ?? (busy ? "Computing…" : <Reading sound={sound} />);
}

function Progress({ part, onStop }: { part: number; onStop: () => void }) {
  return (
    <div className="flex items-center justify-end gap-2">
      <progress className="h-2 w-16" value={part} aria-label="How much is computed" />
      <button type="button" className="act" onClick={onStop}>
        Stop
      </button>
    </div>
  );
}

function Trouble({ message, onRetry }: { message: string; onRetry: () => void }) {
  return (
    <>
      <div className="text-warn">{message}</div>
      <button type="button" className="act" onClick={onRetry}>
        Try again
      </button>
    </>
  );
}

function Reading({ sound }: { sound: Sound | undefined }) {
  if (!sound) return null;
  return (
    <>
      <div>{trimmed(sound.seconds, 3)} s</div>
      <div>{sound.peakDb === null ? "silent" : `peak ${trimmed(sound.peakDb, 2)} dB`}</div>
    </>
  );
}

function phraseText(phrase: Phrase): string {
  const pitches = [...new Set(phrase.notes.map((note) => note.pitch))].toSorted((a, b) => a - b);
  const low = pitches[0];
  const high = pitches.at(-1);
  const range =
    low === undefined || high === undefined
      ? "no notes"
      : low === high
        ? noteName(low)
        : `${noteName(low)} to ${noteName(high)}`;
  return `${range}, ${trimmed(phrase.beats)} beats at ${trimmed(phrase.tempo)}`;
}
