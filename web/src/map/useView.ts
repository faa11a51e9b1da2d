import { type PointerEvent, useEffect, useRef, useState } from "react";

import type { Layout } from "./layout";

interface View {
  x: number;
  y: number;
  scale: number;
}

interface Size {
  width: number;
  height: number;
}

const LARGEST_FIT = 1.3;
const SMALLEST = 0.15;
const LARGEST = 3;
const ROOM = 40;

/** Below this scale the drawing for afar is shown. */
const FAR = 0.62;

/** What part of the map is seen: all of it, until somebody zooms or pans; then just that. */
export function useView(near: Layout, afar: Layout) {
  const [frame, setFrame] = useState<SVGSVGElement | null>(null);
  const size = useSize(frame);
  const [chosen, setChosen] = useState<View>();

  const drawnAt = (scale: number) => (scale < FAR ? afar : near);
  const fitting = drawnAt(fit(size, near).scale);
  const view = chosen ?? fit(size, fitting);
  const drawn = chosen ? drawnAt(chosen.scale) : fitting;

  /** Zooms about a point of the frame, in pixels; about its middle where none is given. */
  const zoomBy = (factor: number, at = { x: size.width / 2, y: size.height / 2 }) => {
    const scale = Math.min(LARGEST, Math.max(SMALLEST, view.scale * factor));
    const next = drawnAt(scale);
    // the same place of the other drawing
    const x = ((view.x + at.x / view.scale) * next.width) / drawn.width;
    const y = ((view.y + at.y / view.scale) * next.height) / drawn.height;
    setChosen({ scale, x: x - at.x / scale, y: y - at.y / scale });
  };
  useWheel(frame, zoomBy);

  return {
    drawn,
    frame,
    setFrame,
    viewBox: `${view.x} ${view.y} ${size.width / view.scale} ${size.height / view.scale}`,
    scale: view.scale,
    zoomBy,
    fit: () => setChosen(undefined),
    showOnly: (ids: Set<string>) => setChosen(closeTo(ids, size, near, afar)),
    pan: usePan(view, setChosen),
  };
}

function useSize(frame: SVGSVGElement | null): Size {
  const [size, setSize] = useState<Size>({ width: 600, height: 340 });
  useEffect(() => {
    if (!frame) return undefined;
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    observer.observe(frame);
    return () => observer.disconnect();
  }, [frame]);
  return size;
}

type Zoom = (factor: number, at: { x: number; y: number }) => void;

/** Zooms with the wheel. React listens passively to it, so the page would scroll as well. */
function useWheel(frame: SVGSVGElement | null, zoomBy: Zoom): void {
  const onWheel = useRef(zoomBy);
  useEffect(() => {
    onWheel.current = zoomBy;
  });
  useEffect(() => {
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const box = frame?.getBoundingClientRect();
      if (!box) return;
      const at = { x: event.clientX - box.left, y: event.clientY - box.top };
      onWheel.current(Math.exp(-event.deltaY / 400), at);
    };
    frame?.addEventListener("wheel", wheel, { passive: false });
    return () => frame?.removeEventListener("wheel", wheel);
  }, [frame]);
}

/** Moves the map with the pointer, taken hold of where no card or line is. */
function usePan(view: View, setChosen: (view: View) => void) {
  const [grip, setGrip] = useState<{ x: number; y: number; view: View }>();
  return {
    onPointerDown: (event: PointerEvent<SVGSVGElement>) => {
      if (event.target !== event.currentTarget) return;
      event.currentTarget.setPointerCapture(event.pointerId);
      setGrip({ x: event.clientX, y: event.clientY, view });
    },
    onPointerMove: (event: PointerEvent<SVGSVGElement>) => {
      if (!grip) return;
      setChosen({
        ...grip.view,
        x: grip.view.x - (event.clientX - grip.x) / grip.view.scale,
        y: grip.view.y - (event.clientY - grip.y) / grip.view.scale,
      });
    },
    onPointerUp: () => setGrip(undefined),
  };
}

/** The view that shows some cards as large as they fit. */
function closeTo(ids: Set<string>, size: Size, near: Layout, afar: Layout): View {
  const closely = boxOf(near, ids);
  const isFar = fit(size, closely).scale < FAR;
  const box = isFar ? boxOf(afar, ids) : closely;
  const fitting = fit(size, box, isFar ? 0.99 * FAR : LARGEST_FIT);
  return { ...fitting, x: fitting.x + box.left, y: fitting.y + box.top };
}

/** The part of a drawing that some cards take, with room about them. */
function boxOf(drawn: Layout, ids: Set<string>) {
  const cards = drawn.cards.filter((card) => ids.has(card.id));
  const left = Math.min(...cards.map((card) => card.x)) - ROOM;
  const top = Math.min(...cards.map((card) => card.y)) - ROOM;
  const right = Math.max(...cards.map((card) => card.x)) + drawn.card.width + ROOM;
  const bottom = Math.max(...cards.map((card) => card.y)) + drawn.card.height + ROOM;
  return { left, top, width: right - left, height: bottom - top };
}

/** All of a drawing in the middle of a frame, as large as it fits, but not larger than life. */
function fit(size: Size, drawn: Size, largest = LARGEST_FIT): View {
  const scale = Math.min(largest, size.width / drawn.width, size.height / drawn.height);
  return {
    scale,
    x: (drawn.width - size.width / scale) / 2,
    y: (drawn.height - size.height / scale) / 2,
  };
}
