import { useEffect } from "react";

import type { Live } from "./live";
import { noteOf } from "./letters";

const TYPED_INTO = "input:not([type=range]), textarea, select, [contenteditable]";
const VELOCITY = 0.8;

interface Playing {
  on: boolean;
  /** The note of the lowest C. */
  base: number;
  onBase: (base: number) => void;
  onEnd: () => void;
}

/** Lets letters play while that is on: none of them is a command then. Fields are typed into as ever. */
export function useLetters(live: Live, { on, base, onBase, onEnd }: Playing): void {
  useEffect(() => {
    if (!on) return undefined;
    const held = new Map<string, number>();
    const isPlayed = (event: KeyboardEvent) => {
      const target = event.target instanceof Element ? event.target : null;
      return !(event.ctrlKey || event.metaKey || event.altKey) && !target?.closest(TYPED_INTO);
    };
    const press = (event: KeyboardEvent) => {
      if (!isPlayed(event)) return;
      const note = noteOf(event.code);
      const turn = { PageUp: 12, PageDown: -12 }[event.key];
      if (event.key === "Escape") onEnd();
      else if (turn !== undefined) onBase(Math.min(84, Math.max(0, base + turn)));
      else if (note === undefined) return;
      else if (!event.repeat && !held.has(event.code)) {
        const pitch = base + note;
        held.set(event.code, pitch);
        live.press(pitch, VELOCITY);
      }
      event.preventDefault();
      event.stopImmediatePropagation();
    };
    const release = (event: KeyboardEvent) => {
      const pitch = held.get(event.code);
      if (pitch === undefined) return;
      held.delete(event.code);
      live.release(pitch);
    };
    window.addEventListener("keydown", press, true);
    window.addEventListener("keyup", release, true);
    return () => {
      window.removeEventListener("keydown", press, true);
      window.removeEventListener("keyup", release, true);
      for (const pitch of held.values()) live.release(pitch);
    };
  }, [live, on, base, onBase, onEnd]);
}
