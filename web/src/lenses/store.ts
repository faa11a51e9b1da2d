import { createContext, useContext } from "react";
import { createStore, type StoreApi, useStore } from "zustand";

import type { LensWish, Moment, Plate } from "../api/client";
import { type Against, type Kind, lensRule, newSlot, type Counterpart, type Slot } from "./views";

export const MOST_SLOTS = 3;

/** The lenses at the bench: how many, what each shows, and what stands behind them. Nothing of it belongs to the lesson. */
export interface Lenses {
  slots: Slot[];
  against: Against;
  frozen: Counterpart | undefined;
  /** A detour that is shown and heard beside the main line. */
  detour: Counterpart | undefined;
  /** The moment that is looked at here, where it is another than the step's; null is the note that says most. */
  moment: Moment | null | undefined;
  /** The lens whose taps are pointed at on the map. */
  pointing: number | undefined;
  /** The lens that is shown large. */
  shown: number | undefined;

  change: (place: number, part: Partial<Slot>) => void;
  /** Sets how one kind of lens shows what it shows. */
  set: (place: number, part: Partial<LensWish>) => void;
  choose: (place: number, kind: Kind) => void;
  add: () => void;
  close: (place: number) => void;
  /** Listens to a tap too, or no longer. */
  toggleTap: (place: number, tap: string) => void;
  compareWith: (against: Against) => void;
  freeze: (scene: Counterpart) => void;
  showDetour: (scene: Counterpart | undefined) => void;
  /** Shows the live lens of which a plate is a picture. */
  open: (plate: Plate) => void;
  point: (place: number | undefined) => void;
  show: (place: number | undefined) => void;
  lookAt: (moment: Moment | null | undefined) => void;
}

const STARTING: Pick<Lenses, "slots" | "against" | "frozen" | "detour" | "moment" | "pointing" | "shown"> = {
  slots: [newSlot("wave"), newSlot("spectrum")],
  against: "fitting",
  frozen: undefined,
  detour: undefined,
  moment: undefined,
  pointing: undefined,
  shown: undefined,
};

export const createLenses = (): StoreApi<Lenses> =>
  createStore<Lenses>()((put) => {
    const change = (place: number, part: (slot: Slot) => Partial<Slot>) =>
      put(({ slots }) => ({
        slots: slots.map((slot, n) => (n === place ? { ...slot, ...part(slot) } : slot)),
      }));
    return {
      ...STARTING,
      change: (place, part) => change(place, () => part),
      set: (place, part) => change(place, (slot) => withSettings(slot, part)),
      choose: (place, kind) => change(place, () => ({ kind })),
      add: () => put(({ slots }) => ({ slots: [...slots, newSlot(unused(slots))].slice(0, MOST_SLOTS) })),
      close: (place) =>
        put(({ slots }) => ({ slots: slots.length > 1 ? slots.filter((_, n) => n !== place) : slots })),
      toggleTap: (place, tap) => change(place, (slot) => withTap(slot, tap)),
      compareWith: (against) => put({ against }),
      freeze: (frozen) => put({ frozen, against: "frozen" }),
      showDetour: (detour) => put({ detour, against: detour ? "detour" : "fitting" }),
      open: ({ recipe }) => {
        const { kind, ...rest } = recipe.view;
        change(0, () => ({ kind, taps: [...rest.taps], settings: { [kind]: rest } }));
        put({ moment: recipe.moment ?? null });
      },
      point: (pointing) => put({ pointing }),
      show: (shown) => put({ shown }),
      lookAt: (moment) => put({ moment }),
    };
  });

const withSettings = (slot: Slot, part: Partial<LensWish>): Partial<Slot> => ({
  settings: { ...slot.settings, [slot.kind]: { ...slot.settings[slot.kind], ...part } },
});

function withTap(slot: Slot, tap: string): Partial<Slot> {
  const most = lensRule(slot.kind).most_taps;
  if (slot.taps.includes(tap)) return { taps: slot.taps.filter((one) => one !== tap) };
  return { taps: most === 1 ? [tap] : [...slot.taps, tap].slice(-most) };
}

function unused(slots: Slot[]): Kind {
  const kinds: Kind[] = ["level", "sweep", "response", "wave", "spectrum"];
  return kinds.find((kind) => !slots.some((slot) => slot.kind === kind)) ?? "wave";
}

/** The lenses of the screen that is shown. */
export const LensesContext = createContext<StoreApi<Lenses> | undefined>(undefined);

export function useLenses(): Lenses {
  const store = useContext(LensesContext);
  if (!store) throw new Error("There are no lenses on this screen.");
  return useStore(store);
}
