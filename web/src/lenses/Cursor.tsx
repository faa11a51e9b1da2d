import { type KeyboardEvent, type PointerEvent, type ReactNode, useState } from "react";

import type { Frame } from "./plot";

interface Props {
  label: string;
  frame: Frame;
  /** The places, in pixels, that arrow keys go to; without them they go by pixels. */
  stops?: number[];
  /** What is read at a place, given also the place that was pinned. */
  read: (x: number, pinned: number | undefined) => string;
  children: ReactNode;
}

/** A hairline that reads a plot, moved with the pointer or the arrow keys; a click or Enter pins a second one. */
export function Cursor({ label, frame, stops, read, children }: Props) {
  const [x, setX] = useState<number>();
  const [pinned, setPinned] = useState<number>();
  const inside = (wanted: number) => Math.min(frame.right, Math.max(frame.left, wanted));

  const point = (event: PointerEvent) =>
    setX(inside(event.clientX - event.currentTarget.getBoundingClientRect().left));

  const press = (event: KeyboardEvent) => {
    const here = x ?? frame.left;
    if (event.key === "ArrowRight" || event.key === "ArrowLeft") setX(inside(next(here, event, stops)));
    else if (event.key === "Enter") setPinned(pinned === undefined ? here : undefined);
    else if (event.key === "Escape") {
      setX(undefined);
      setPinned(undefined);
    } else return;
    event.preventDefault();
  };

  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label={`${label}: cursor`}
      aria-valuemin={Math.round(frame.left)}
      aria-valuemax={Math.round(frame.right)}
      aria-valuenow={Math.round(x ?? frame.left)}
      aria-valuetext={x === undefined ? "no reading" : read(x, pinned)}
      className="absolute inset-0 cursor-crosshair"
      onPointerMove={point}
      onPointerLeave={() => setX(undefined)}
      onClick={() => setPinned(pinned === undefined ? x : undefined)}
      onKeyDown={press}
    >
      {children}
      {[pinned, x].map(
        (at, number) =>
          at !== undefined && (
            <div
              key={number}
              className={`pointer-events-none absolute border-l ${number === 0 ? "border-dashed border-soft" : "border-ink"}`}
              style={{ left: at, top: frame.top, height: frame.bottom - frame.top }}
            />
          ),
      )}
      {x !== undefined && (
        <output
          className="pointer-events-none absolute top-1 rounded-sm border border-rule bg-leaf px-2 py-0.5 text-[13px] font-medium"
          style={x > (frame.left + frame.right) / 2 ? { left: frame.left + 4 } : { right: 8 }}
        >
          {read(x, pinned)}
        </output>
      )}
    </div>
  );
}

function next(here: number, event: KeyboardEvent, stops: number[] | undefined): number {
  const forward = event.key === "ArrowRight";
  if (!stops || event.shiftKey) return here + (forward ? 1 : -1) * (event.shiftKey ? 1 : 10);
  const further = forward
    ? stops.find((stop) => stop > here + 0.5)
    : stops.findLast((stop) => stop < here - 0.5);
  return further ?? here;
}
