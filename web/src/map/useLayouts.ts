import { useEffect, useState } from "react";

import type { Size } from "./grid";
import type { Purposes } from "./labels";
import { closeLayout, type Layout, layout, layoutKey } from "./layout";
import type { Shown } from "./sections";
import { forgetWidths, readFont, workFont } from "./text";

/** A patch laid out for the room that there is, and for a close look where that has no room for pictures. */
export interface Layouts {
  fitting: Layout;
  /** Laid out when somebody looks closely. */
  readonly close: Layout;
}

/** Lays a patch out anew when its wiring, its names or the room change; cards stay where they are if they can. */
export function useLayouts(shown: Shown, { width, height }: Size, zoom: number, purposes: Purposes): Layouts {
  const [habit] = useState(() => new Habit());
  const room = { width: Math.floor(width / zoom), height: Math.floor(height / zoom) };
  return habit.laid(shown, room, purposes, useTypefaces());
}

class Habit {
  private key = "";
  private last: Layouts | undefined;

  laid({ patch, catalogue }: Shown, size: Size, purposes: Purposes, typefaces: boolean): Layouts {
    const key = JSON.stringify([layoutKey(patch), size, [...purposes], typefaces]);
    if (this.last && key === this.key) return this.last;
    const before = this.last;
    const fitting = layout(patch, catalogue, size, before?.fitting, purposes);
    let found = fitting.detail === "pictures" ? fitting : undefined;
    this.last = {
      fitting,
      get close() {
        return (found ??= closeLayout(patch, catalogue, size, fitting, purposes));
      },
    };
    this.key = key;
    return this.last;
  }
}

/** Whether the typefaces have come: before, texts are as wide as those of others. */
function useTypefaces(): boolean {
  const [there, setThere] = useState(false);
  useEffect(() => {
    const fonts = [readFont(15), readFont(15, 600), workFont(12), workFont(12, 600)];
    void Promise.all(fonts.map((font) => document.fonts.load(font))).then(() => {
      forgetWidths();
      setThere(true);
    });
  }, []);
  return there;
}
