import { useState } from "react";

import type { LensWish, Plate } from "../api/client";
import { type Against, type Kind, newSlot, type Scene, type Slot } from "./views";

export const MOST_SLOTS = 3;

/** The lenses at the bench: how many, what each shows, and what stands behind them. Nothing of it belongs to the lesson. */
export function useLenses() {
  const [slots, setSlots] = useState<Slot[]>(() => [newSlot("wave"), newSlot("spectrum")]);
  const [against, setAgainst] = useState<Against>("fitting");
  const [frozen, setFrozen] = useState<Scene>();
  const [detour, setDetour] = useState<Scene>();
  const [pointing, setPointing] = useState<number>();
  const [shown, setShown] = useState<number>();

  const change = (place: number, part: globalThis.Partial<Slot>) =>
    setSlots((old) => old.map((slot, n) => (n === place ? { ...slot, ...part } : slot)));

  return {
    slots,
    against,
    frozen,
    detour,
    pointing,
    shown,
    change,
    compareWith: setAgainst,
    point: setPointing,
    show: setShown,
    /** Sets how one kind of lens shows what it shows. */
    set: (place: number, part: globalThis.Partial<LensWish>) => {
      const slot = slots[place];
      if (slot)
        change(place, {
          settings: { ...slot.settings, [slot.kind]: { ...slot.settings[slot.kind], ...part } },
        });
    },
    choose: (place: number, kind: Kind) => change(place, { kind }),
    add: () => setSlots((old) => [...old, newSlot(unused(old))].slice(0, MOST_SLOTS)),
    close: (place: number) => setSlots((old) => (old.length > 1 ? old.filter((_, n) => n !== place) : old)),
    /** Listens to a tap too, or no longer. */
    toggleTap: (place: number, tap: string, most: number) => {
      const taps = slots[place]?.taps ?? [];
      if (taps.includes(tap)) change(place, { taps: taps.filter((one) => one !== tap) });
      else change(place, { taps: most === 1 ? [tap] : [...taps, tap].slice(-most) });
    },
    freeze: (scene: Scene) => {
      setFrozen(scene);
      setAgainst("frozen");
    },
    /** Shows and lets hear a detour beside the main line, or no longer. */
    showDetour: (scene: Scene | undefined) => {
      setDetour(scene);
      setAgainst(scene ? "detour" : "fitting");
    },
    /** Shows the live lens of which a plate is a picture. */
    open: (plate: Plate) => {
      const { kind, ...rest } = plate.recipe.view;
      change(0, { kind, taps: [...rest.taps], settings: { [kind]: rest } });
    },
  };
}

export type LensesState = ReturnType<typeof useLenses>;

function unused(slots: Slot[]): Kind {
  const kinds: Kind[] = ["level", "sweep", "response", "wave", "spectrum"];
  return kinds.find((kind) => !slots.some((slot) => slot.kind === kind)) ?? "wave";
}
