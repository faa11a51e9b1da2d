import { type PointerEvent, useEffect, useRef, useState } from "react";

import type { Size } from "./grid";
import type { Layout } from "./layout";
import type { Layouts } from "./useLayouts";

interface Vantage {
  x: number;
  y: number;
  scale: number;
}

/** A part of one of the two drawings. */
interface View extends Vantage {
  close: boolean;
}

const LARGEST_FIT = 1.4;
const SMALLEST = 0.3;
const LARGEST = 3;
const ROOM = 40;

/** From this scale on the drawing with pictures is shown, where all of it has room for names only. */
const NEAR = 0.9;

/** What part of the map is seen: all of it, until somebody zooms or pans; then just that. */
export function useView(frame: SVGSVGElement | null, size: Size, layouts: Layouts, larger: number) {
  const { fitting } = layouts;
  const fit = (drawn: Size) => fitted(size, drawn, larger);
  const [chosen, setChosen] = useState<View>();
  const view = chosen ?? { ...fit(fitting), close: false };
  const drawn = view.close ? layouts.close : fitting;

  /** Zooms about a point of the frame, in pixels; about its middle where none is given. */
  const zoomBy = (factor: number, at = { x: size.width / 2, y: size.height / 2 }) => {
    const zoom = Math.max(SMALLEST, (view.scale / fit(drawn).scale) * factor);
    const { close } = layouts;
    const isClose = fit(close).scale * zoom >= NEAR;
    const next = isClose ? close : fitting;
    const scale = Math.min(LARGEST, fit(next).scale * zoom);
    // the same place of the other drawing
    const x = ((view.x + at.x / view.scale) * next.width) / drawn.width;
    const y = ((view.y + at.y / view.scale) * next.height) / drawn.height;
    setChosen({ scale, x: x - at.x / scale, y: y - at.y / scale, close: isClose });
  };
  useWheel(frame, zoomBy);

  return {
    drawn,
    viewBox: `${view.x} ${view.y} ${size.width / view.scale} ${size.height / view.scale}`,
    scale: view.scale,
    zoomBy,
    fit: () => setChosen(undefined),
    showOnly: (ids: Set<string>) => setChosen(closeTo(ids, fit, layouts)),
    pan: usePan(view, setChosen),
  };
}

export function useSize(frame: SVGSVGElement | null): Size {
  const [size, setSize] = useState<Size>({ width: 600, height: 340 });
  useEffect(() => {
    if (!frame) return undefined;
    const observer = new ResizeObserver(([entry]) => {
      if (entry && entry.contentRect.width > 0)
        setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
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
function closeTo(ids: Set<string>, fit: (drawn: Size) => Vantage, { fitting, close }: Layouts): View {
  const nearly = boxOf(close, ids);
  const isClose = fit(nearly).scale >= NEAR;
  const box = isClose ? nearly : boxOf(fitting, ids);
  const view = fit(box);
  return { ...view, x: view.x + box.left, y: view.y + box.top, close: isClose };
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

/** All of a drawing in the middle of a frame, as large as it fits, but not much larger than life. */
function fitted(size: Size, drawn: Size, larger: number): Vantage {
  const scale = Math.min(larger * LARGEST_FIT, size.width / drawn.width, size.height / drawn.height);
  return {
    scale,
    x: (drawn.width - size.width / scale) / 2,
    y: (drawn.height - size.height / scale) / 2,
  };
}
