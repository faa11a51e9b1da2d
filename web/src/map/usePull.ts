import { type PointerEvent, useState } from "react";

import { split } from "../api/patch";
import type { Point } from "./grid";

/** Pulling a line from a card to another one; let go where it was taken up, it asks where to lead. */
export function usePull(onConnect: ((from: string, to: string | undefined) => void) | undefined) {
  const [line, setLine] = useState<[Point, Point]>();
  const begin = (event: PointerEvent, from: string) => {
    event.stopPropagation();
    const grip = event.currentTarget;
    const svg = grip.closest("svg");
    const matrix = svg?.getScreenCTM()?.inverse();
    if (!svg || !matrix) return;
    const at = (one: globalThis.PointerEvent | PointerEvent): Point =>
      new DOMPoint(one.clientX, one.clientY).matrixTransform(matrix);
    const start = at(event);
    const move = (moved: globalThis.PointerEvent) => setLine([start, at(moved)]);
    const drop = (dropped: globalThis.PointerEvent) => {
      window.removeEventListener("pointermove", move);
      setLine(undefined);
      const under = document.elementFromPoint(dropped.clientX, dropped.clientY);
      const target = under?.closest<SVGGElement>("[data-card]")?.dataset["card"];
      onConnect?.(from, target === split(from)[0] ? undefined : target);
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", drop, { once: true });
  };
  return { begin, line };
}

export type Pull = ReturnType<typeof usePull>;
