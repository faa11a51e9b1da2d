import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";

import { isSharp, noteName } from "../ui/units";
import { LETTERS } from "./letters";
import type { Live } from "./live";

const TOUCHED_MS = 500;
export const KEYS = 37;

interface Props {
  live: Live;
  /** The note of the lowest key, a C. */
  base: number;
  down: ReadonlySet<number>;
  /** Whether letters play, so that they stand on the keys. */
  letters: boolean;
}

/** The keys on the screen: for the mouse, a finger, the keyboard and a screen reader. */
export function Keyboard({ live, base, down, letters }: Props) {
  const [here, setHere] = useState(0);
  const keys = Array.from({ length: KEYS }, (_, n) => base + n);
  const whites = keys.filter((pitch) => !isSharp(pitch)).length;
  const row = useRef<HTMLDivElement>(null);
  const go = (event: KeyboardEvent) => {
    const step = { ArrowRight: 1, ArrowLeft: -1, Home: -KEYS, End: KEYS }[event.key];
    if (step === undefined) return;
    event.preventDefault();
    const next = Math.min(KEYS - 1, Math.max(0, here + step));
    setHere(next);
    row.current?.querySelector<HTMLButtonElement>(`[data-key="${base + next}"]`)?.focus();
  };
  let white = 0;
  return (
    <div
      ref={row}
      role="group"
      aria-label="Keys"
      className="min-w-0 flex-1 touch-none overflow-hidden select-none narrow:h-20 narrow:flex-none"
      onKeyDown={go}
    >
      {/* a thumb needs wider keys: on a small screen those further up are an octave away */}
      <div className="relative h-full narrow:w-[210%]">
        {keys.map((pitch, n) => {
          const sharp = isSharp(pitch);
          const left = sharp ? white - 0.31 : white++;
          return (
            <Key
              key={pitch}
              {...{ live, pitch, sharp }}
              letter={letters ? LETTERS.get(n) : undefined}
              pressed={down.has(pitch)}
              inRow={n === here}
              style={{ left: `${(100 * left) / whites}%`, width: `${(100 * (sharp ? 0.62 : 1)) / whites}%` }}
            />
          );
        })}
      </div>
    </div>
  );
}

interface KeyProps {
  live: Live;
  pitch: number;
  sharp: boolean;
  letter: string | undefined;
  pressed: boolean;
  inRow: boolean;
  style: { left: string; width: string };
}

function Key({ live, pitch, sharp, letter, pressed, inRow, style }: KeyProps) {
  const held = useRef(false);
  const press = (velocity: number) => {
    if (held.current) return;
    held.current = true;
    live.press(pitch, velocity);
  };
  const release = () => {
    if (!held.current) return;
    held.current = false;
    live.release(pitch);
  };
  const struck = (event: PointerEvent<HTMLElement>) => {
    const { top, height } = event.currentTarget.getBoundingClientRect();
    return 0.35 + 0.6 * Math.min(1, Math.max(0, (event.clientY - top) / height));
  };
  const byKey = (event: KeyboardEvent) => (event.key === "Enter" || event.key === " ") && !event.repeat;
  const words = (
    <span aria-hidden="true" className="text-note leading-none">
      {letter ?? (pitch % 12 === 0 ? noteName(pitch) : "")}
    </span>
  );
  const ground = pressed
    ? "bg-this text-leaf border-this"
    : sharp
      ? "bg-ink text-leaf border-ink"
      : "bg-leaf text-soft border-rule";
  return (
    <button
      type="button"
      data-key={pitch}
      aria-label={noteName(pitch)}
      aria-pressed={pressed}
      tabIndex={inRow ? 0 : -1}
      style={style}
      className={`absolute top-0 flex items-end justify-center border pb-1 ${sharp ? "z-10 h-[62%]" : "h-full"} ${ground}`}
      onPointerDown={(event) => press(struck(event))}
      onPointerEnter={(event) => event.buttons === 1 && press(struck(event))}
      onPointerUp={release}
      onPointerLeave={release}
      onBlur={release}
      onKeyDown={(event) => {
        if (!byKey(event)) return;
        event.preventDefault();
        press(0.8);
      }}
      onKeyUp={release}
      onClick={({ detail }) => {
        // a screen reader presses and lets go at once
        if (detail !== 0 || held.current) return;
        press(0.8);
        setTimeout(release, TOUCHED_MS);
      }}
    >
      {words}
    </button>
  );
}
