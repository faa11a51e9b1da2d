import { type PointerEvent, useEffect, useRef, useState } from "react";

import { CARD, type Card } from "./layout";

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

/** What part of the map is seen: all of it, until somebody zooms or pans; then just that. */
export function useView(drawn: Size) {
  const [frame, setFrame] = useState<SVGSVGElement | null>(null);
  const [size, setSize] = useState<Size>({ width: 600, height: 340 });
  const [chosen, setChosen] = useState<View>();
  const [grip, setGrip] = useState<{ x: number; y: number; view: View }>();

  const fitted = fit(size, drawn);
  const view = chosen ?? fitted;

  useEffect(() => {
    if (!frame) return undefined;
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    observer.observe(frame);
    return () => observer.disconnect();
  }, [frame]);

  /** Zooms about a point of the frame, in pixels; about its middle where none is given. */
  const zoomBy = (factor: number, at = { x: size.width / 2, y: size.height / 2 }) => {
    const scale = Math.min(LARGEST, Math.max(SMALLEST, view.scale * factor));
    setChosen({
      scale,
      x: view.x + at.x / view.scale - at.x / scale,
      y: view.y + at.y / view.scale - at.y / scale,
    });
  };

  // React listens passively to the wheel, so the page would scroll as well
  const onWheel = useRef(zoomBy);
  useEffect(() => {
    onWheel.current = zoomBy;
  });
  useEffect(() => {
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const box = frame?.getBoundingClientRect();
      if (box)
        onWheel.current(Math.exp(-event.deltaY / 400), {
          x: event.clientX - box.left,
          y: event.clientY - box.top,
        });
    };
    frame?.addEventListener("wheel", wheel, { passive: false });
    return () => frame?.removeEventListener("wheel", wheel);
  }, [frame]);

  /** Shows some cards as large as they fit. */
  const showOnly = (cards: Card[]) => {
    const left = Math.min(...cards.map((card) => card.x)) - ROOM;
    const top = Math.min(...cards.map((card) => card.y)) - ROOM;
    const width = Math.max(...cards.map((card) => card.x)) + CARD.width + ROOM - left;
    const height = Math.max(...cards.map((card) => card.y)) + CARD.height + ROOM - top;
    const near = fit(size, { width, height });
    setChosen({ ...near, x: near.x + left, y: near.y + top });
  };

  const pan = {
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

  return {
    frame,
    setFrame,
    viewBox: `${view.x} ${view.y} ${size.width / view.scale} ${size.height / view.scale}`,
    scale: view.scale,
    zoomBy,
    fit: () => {
      setChosen(undefined);
    },
    showOnly,
    pan,
  };
}

/** All of a drawing in the middle of a frame, as large as it fits, but not larger than life. */
function fit(size: Size, drawn: Size): View {
  const scale = Math.min(LARGEST_FIT, size.width / drawn.width, size.height / drawn.height);
  return {
    scale,
    x: (drawn.width - size.width / scale) / 2,
    y: (drawn.height - size.height / scale) / 2,
  };
}
