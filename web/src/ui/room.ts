import { create } from "zustand";
import { persist } from "zustand/middleware";

/** What is seen where there is room for one part of a step at a time. */
export type Pane = "text" | "map" | "lens" | "rulers";

/** A page of the projector’s view: what is read, the map, or one of the lenses. */
export type Projected = "text" | "map" | number;

/** How somebody divides the room of a step; it belongs to them, not to the lesson. */
interface Room {
  /** How high is what stands beneath the map, in pixels; 0 where it is folded away. */
  foot: number;
  text: boolean;
  inspector: boolean;
  /** The settings whose rulers are divided evenly where they usually grow by ratios. */
  even: string[];
  pane: Pane;
  /** What the projector’s view shows, while it is there. */
  projected: Projected | undefined;
  put: (part: Partial<Omit<Room, "put">>) => void;
}

export const USUAL_FOOT = 262;

export const useRoom = create<Room>()(
  persist(
    (put) => ({
      foot: USUAL_FOOT,
      text: true,
      inspector: true,
      even: [],
      pane: "text",
      projected: undefined,
      put,
    }),
    {
      name: "inner-tone/room",
      partialize: ({ foot, text, inspector, even }) => ({ foot, text, inspector, even }),
    },
  ),
);

/** Brings back what stands beneath the map. */
export function unfoldFoot(): void {
  if (useRoom.getState().foot === 0) foldFoot();
}

/** Folds what stands beneath the map away, or unfolds it. */
export function foldFoot(): void {
  const { foot, put } = useRoom.getState();
  put({ foot: foot > 0 ? 0 : USUAL_FOOT });
}
