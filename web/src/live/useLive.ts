import { useEffect, useState } from "react";
import { useStore } from "zustand";

import type { Render } from "../api/client";
import { Live } from "./live";
import type { LiveScene, LiveState } from "./states";

/** The bench as an instrument, which follows what is changed at it; and how it sounds, while it is played. */
export function useLive(scene: LiveScene): { live: Live; playing: LiveState | undefined } {
  const [live] = useState(() => new Live());
  const state = useStore(live.state);
  useEffect(() => live.follow(scene));
  useEffect(() => () => live.stop(), [live]);
  useEffect(() => {
    const hidden = () => document.hidden && live.releaseAll();
    window.addEventListener("blur", live.releaseAll);
    document.addEventListener("visibilitychange", hidden);
    return () => {
      window.removeEventListener("blur", live.releaseAll);
      document.removeEventListener("visibilitychange", hidden);
    };
  }, [live]);
  return { live, playing: isPlaying(state) ? state : undefined };
}

export const isPlaying = ({ phase }: Pick<LiveState, "phase">): boolean => phase === "on" || phase === "lost";

/** A render with the pictures of what sounds now, while it is played. */
export function shownLive(render: Render | undefined, playing: LiveState | undefined): Render | undefined {
  if (!render || !playing) return render;
  // what is not seen yet is not shown: the pictures of the render would be taken for those of what sounds
  const lenses = (playing.charts ?? []).flatMap((one, n) => one ?? render.lenses[n] ?? []);
  return { ...render, lenses, measures: playing.measures ?? render.measures };
}
