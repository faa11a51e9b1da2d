import { Switch } from "@headlessui/react";
import { useEffect, useState, useSyncExternalStore } from "react";

import type { Phrase } from "../api/client";
import { noteName, trimmed } from "../ui/units";
import { useKeys } from "../ui/useKeys";
import { Player } from "./player";
import { useMatchedGains } from "./useMatchedGains";
import { type Which, WhichSound } from "./WhichSound";

export interface Sound {
  key: string;
  seconds: number;
  peakDb: number | null;
}

interface Props {
  phrase: Phrase;
  /** Shows the phrase large. */
  onPhrase: () => void;
  sound: Sound | undefined;
  /** What it can be compared with by ear, and what that is called. */
  other: Sound | undefined;
  otherName: string;
  busy: boolean;
  /** How much of a render that takes long is done, 0 to 1. */
  part: number | undefined;
  onStop: () => void;
  /** Why the latest render is not there, while an earlier one is shown. */
  trouble: string | undefined;
  onRetry: () => void;
}

const phraseSeconds = (phrase: Phrase) => (phrase.beats * 60) / phrase.tempo;

/** Plays the phrase: one key, with this step or the one before it, once or round and round. */
export function Transport({ phrase, sound, other, busy, part, ...props }: Props) {
  const { trouble, onStop, onRetry } = props;
  const [player] = useState(() => new Player());
  const state = useSyncExternalStore(player.subscribe, player.snapshot);
  const [which, setWhich] = useState<Which>("this");
  const [loop, setLoop] = useState(false);
  const [level, setLevel] = useState(80);
  const chosen = which === "other" && other ? other : sound;
  const loopSeconds = loop ? phraseSeconds(phrase) : null;
  const key = chosen?.key;
  const gains = useMatchedGains(sound?.key, other?.key);
  const gain = (chosen === other ? gains?.other : gains?.this) ?? 1;

  useEffect(() => {
    if (key === undefined) return;
    player.prepare(key);
    void player.change(key, loopSeconds, gain);
  }, [player, key, loopSeconds, gain]);

  const otherKey = other?.key;
  useEffect(() => {
    if (otherKey !== undefined) player.prepare(otherKey);
  }, [player, otherKey]);

  useEffect(() => () => player.stop(), [player]);

  const toggle = () => {
    if (state.playing) player.stop();
    else if (key !== undefined) void player.play(key, loopSeconds, gain);
  };
  useKeys({
    Space: toggle,
    L: () => setLoop(!loop),
    B: () => other && setWhich(which === "this" ? "other" : "this"),
  });

  return (
    <section
      aria-label="Playing"
      className="flex h-17 shrink-0 items-center gap-4 border-t border-rule bg-leaf px-5"
    >
      <button
        type="button"
        aria-label={state.playing ? "Stop" : "Play the phrase"}
        aria-keyshortcuts="Space"
        title={state.playing ? "Stop (space bar)" : "Play the phrase (space bar)"}
        data-playing={state.playing}
        className="grid size-11 shrink-0 place-items-center rounded-full bg-ink text-leaf disabled:bg-soft"
        disabled={key === undefined}
        onClick={toggle}
      >
        <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden="true" fill="currentColor">
          {state.playing ? <rect x="3" y="3" width="10" height="10" /> : <path d="M4 2L14 8L4 14Z" />}
        </svg>
      </button>
      <WhichSound which={which} onChange={setWhich} otherName={other && props.otherName} />
      <Switch
        checked={loop}
        onChange={setLoop}
        title="Play round and round (L)"
        className="rounded border border-rule px-3 py-1.5 data-checked:border-this data-checked:bg-this-wash data-checked:font-semibold data-checked:text-this"
      >
        Loop
      </Switch>
      <button
        type="button"
        title="The phrase (4)"
        className="group w-40 shrink-0 text-left leading-tight"
        onClick={props.onPhrase}
      >
        <span className="block truncate font-medium group-hover:text-this">{phrase.title || "Phrase"}</span>
        <span className="block text-soft">{phraseText(phrase)}</span>
      </button>
      <Score phrase={phrase} seconds={chosen?.seconds} player={player} playing={state.playing} />
      <label className="flex items-center gap-2 text-soft">
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
      <div className="w-36 shrink-0 text-right leading-tight text-soft" aria-live="polite">
        {trouble !== undefined ? (
          <Trouble message={trouble} onRetry={onRetry} />
        ) : part !== undefined ? (
          <Progress part={part} onStop={onStop} />
        ) : (
          (state.failed ?? (busy ? "Computing…" : <Reading sound={chosen} />))
        )}
      </div>
    </section>
  );
}

function Progress({ part, onStop }: { part: number; onStop: () => void }) {
  return (
    <div className="flex items-center justify-end gap-2">
      <progress className="h-2 w-16 accent-this" value={part} aria-label="How much is computed" />
      <button type="button" className="underline hover:text-ink" onClick={onStop}>
        Stop
      </button>
    </div>
  );
}

function Trouble({ message, onRetry }: { message: string; onRetry: () => void }) {
  return (
    <>
      <div className="text-warn">{message}</div>
      <button type="button" className="underline hover:text-ink" onClick={onRetry}>
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

interface ScoreProps {
  phrase: Phrase;
  seconds: number | undefined;
  player: Player;
  playing: boolean;
}

/** The notes of the phrase over the time of the render, with the place that is being played. */
function Score({ phrase, seconds, player, playing }: ScoreProps) {
  const total = Math.max(seconds ?? 0, phraseSeconds(phrase));
  const notes = phrase.notes;
  const pitches = notes.map((note) => note.pitch);
  const low = Math.min(...pitches) - 2;
  const range = Math.max(...pitches) + 2 - low;
  const beat = 60 / phrase.tempo;
  const percent = (time: number) => `${(100 * time) / total}%`;
  return (
    <div className="relative h-10 min-w-24 flex-1 border border-rule bg-paper" data-score>
      {Array.from({ length: Math.ceil(phrase.beats) + 1 }, (_, n) => (
        <div
          key={n}
          className={`absolute inset-y-0 border-l ${n % 4 === 0 ? "border-firm" : "border-rule"}`}
          style={{ left: percent(n * beat) }}
        />
      ))}
      {notes.map((note) => (
        <div
          key={`${note.start}-${note.pitch}`}
          className="absolute h-1.5 rounded-xs bg-ink"
          style={{
            left: percent(note.start * beat),
            width: percent(note.length * beat),
            bottom: `${((note.pitch - low) / range) * 80 + 5}%`,
          }}
        />
      ))}
      {playing && <Playhead player={player} total={total} />}
    </div>
  );
}

function Playhead({ player, total }: { player: Player; total: number }) {
  const [position, setPosition] = useState(0);
  useEffect(() => {
    let frame = 0;
    const tick = () => {
      setPosition(player.position());
      frame = requestAnimationFrame(tick);
    };
    frame = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(frame);
  }, [player]);
  return (
    <div
      data-position={position.toFixed(3)}
      className="absolute inset-y-0 border-l-2 border-this"
      style={{ left: `${(100 * Math.min(position, total)) / total}%` }}
    />
  );
}
