import { createContext, useContext, useEffect } from "react";
import { createStore, type StoreApi, useStore } from "zustand";

import type { LensPlace, LensWish, Moment, Plate, StepLenses } from "../api/client";
import { type Against, newSlot, type Counterpart, type Heard, type Slot } from "./views";
import { type LensKind, KINDS, lensRule, USUAL } from "../api/rules";

export const MOST_SLOTS = 3;

/** The lenses at the bench: how many, what each shows, and what stands behind them. */
export interface Lenses {
  slots: Slot[];
  against: Against;
  frozen: Counterpart | undefined;
  /** A detour that is shown and heard beside the main line. */
  detour: Counterpart | undefined;
  /** A recording that can stand behind the lenses. */
  recording: Heard | undefined;
  /** The moment that is looked at here, where it is another than the step's; null is the note that says most. */
  moment: Moment | null | undefined;
  /** The lens whose taps are pointed at on the map. */
  pointing: number | undefined;
  /** How often somebody has set a lens, or what stands behind them. */
  handled: number;

  change: (place: number, part: Partial<Slot>) => void;
  /** Sets how one kind of lens shows what it shows. */
  set: (place: number, part: Partial<LensWish>) => void;
  choose: (place: number, kind: LensKind) => void;
  add: () => void;
  close: (place: number) => void;
  /** Listens to a tap too, or no longer. */
  toggleTap: (place: number, tap: string) => void;
  compareWith: (against: Against) => void;
  freeze: (scene: Counterpart) => void;
  showDetour: (scene: Counterpart | undefined) => void;
  showRecording: (recording: Heard) => void;
  /** Shows the live lens of which a plate is a picture. */
  open: (plate: Plate) => void;
  point: (place: number | undefined) => void;
  /** Has a lens of a kind listen to a tap, in the first place if none does. */
  show: (place: LensPlace) => void;
  lookAt: (moment: Moment | null | undefined) => void;
  /** Sets up the lenses that belong to a step. */
  setUp: (lenses: StepLenses) => void;
}

const STARTING: Pick<
  Lenses,
  "slots" | "against" | "frozen" | "detour" | "recording" | "moment" | "pointing" | "handled"
> = {
  slots: USUAL.map(newSlot),
  against: "fitting",
  frozen: undefined,
  detour: undefined,
  recording: undefined,
  moment: undefined,
  pointing: undefined,
  handled: 0,
};

export const createLenses = (): StoreApi<Lenses> =>
  createStore<Lenses>()((put) => {
    const handle = (part: (now: Lenses) => Partial<Lenses>) =>
      put((now) => ({ ...part(now), handled: now.handled + 1 }));
    const changed = (slots: Slot[], place: number, part: (slot: Slot) => Partial<Slot>) =>
      slots.map((slot, n) => (n === place ? { ...slot, ...part(slot) } : slot));
    const change = (place: number, part: (slot: Slot) => Partial<Slot>) =>
      handle(({ slots }) => ({ slots: changed(slots, place, part) }));
    return {
      ...STARTING,
      change: (place, part) => change(place, () => part),
      set: (place, part) => change(place, (slot) => withSettings(slot, part)),
      choose: (place, kind) => change(place, () => ({ kind })),
      add: () => handle(({ slots }) => ({ slots: [...slots, newSlot(unused(slots))].slice(0, MOST_SLOTS) })),
      close: (place) =>
        handle(({ slots }) => ({ slots: slots.length > 1 ? slots.filter((_, n) => n !== place) : slots })),
      toggleTap: (place, tap) => change(place, (slot) => withTap(slot, tap)),
      compareWith: (against) => handle(() => ({ against })),
      freeze: (frozen) => put({ frozen, against: "frozen" }),
      showDetour: (detour) => put({ detour, against: detour ? "detour" : "fitting" }),
      showRecording: (recording) => put({ recording, against: "recording" }),
      open: ({ recipe }) => {
        const { kind, ...rest } = recipe.view;
        const slot = { kind, taps: [...rest.taps], settings: { [kind]: rest } };
        put(({ slots }) => ({ slots: changed(slots, 0, () => slot), moment: recipe.moment ?? null }));
      },
      show: ({ lens, tap }) =>
        put(({ slots }) => {
          const there = slots.some((one) => one.kind === lens && one.taps.includes(tap));
          const same = slots.findIndex((one) => one.kind === lens);
          const shown = { kind: lens, taps: [tap] };
          return there ? {} : { slots: changed(slots, Math.max(0, same), () => shown) };
        }),
      point: (pointing) => put({ pointing }),
      lookAt: (moment) => put({ moment }),
      setUp: (wanted) =>
        put((now) => {
          if (JSON.stringify(wanted) === JSON.stringify(keptOf(now))) return {};
          const slots = wanted.slots.map(({ kind, taps, settings, table }) => ({
            ...{ kind, taps: [...taps], table },
            settings: { [kind]: settings },
          }));
          return { slots, against: wanted.against };
        }),
    };
  });

/** The lenses as a step keeps them: without what stands behind them only for a while. */
export const keptOf = ({ slots, against }: Pick<Lenses, "slots" | "against">): StepLenses => ({
  slots: slots.map(({ kind, taps, settings, table }) => ({
    kind,
    taps,
    settings: { ...settings[kind] } as NonNullable<StepLenses["slots"][number]["settings"]>,
    table,
  })),
  against: against === "detour" || against === "frozen" || against === "recording" ? "fitting" : against,
});

const withSettings = (slot: Slot, part: Partial<LensWish>): Partial<Slot> => ({
  settings: { ...slot.settings, [slot.kind]: { ...slot.settings[slot.kind], ...part } },
});

function withTap(slot: Slot, tap: string): Partial<Slot> {
  const most = lensRule(slot.kind).most_taps;
  if (slot.taps.includes(tap)) return { taps: slot.taps.filter((one) => one !== tap) };
  return { taps: most === 1 ? [tap] : [...slot.taps, tap].slice(-most) };
}

function unused(slots: Slot[]): LensKind {
  const kinds = [...KINDS.filter((kind) => !USUAL.includes(kind)), ...USUAL];
  return kinds.find((kind) => !slots.some((slot) => slot.kind === kind)) ?? lensRule().kind;
}

/** The lenses of the screen that is shown. */
export const LensesContext = createContext<StoreApi<Lenses> | undefined>(undefined);

export const useLenses = (): Lenses => useStore(useLensStore());

/** Calls back whenever somebody has set a lens, or what stands behind them. */
export function useWhenSet(callBack: (lenses: Lenses) => void): void {
  const store = useLensStore();
  useEffect(() =>
    store.subscribe((now, before) => {
      if (now.handled !== before.handled) callBack(now);
    }),
  );
}

function useLensStore(): StoreApi<Lenses> {
  const store = useContext(LensesContext);
  if (!store) throw new Error("There are no lenses on this screen.");
  return store;
}
