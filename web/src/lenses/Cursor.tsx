import { type KeyboardEvent, type PointerEvent, type ReactNode, useState } from "react";

import type { Frame } from "./frames";

interface Point {
  x: number;
  y: number;
}

interface Props {
  label: string;
  frame: Frame;
  /** The places, in pixels, that arrow keys go to; without them they go by pixels. */
  stops: number[];
  zoom: number;
  /** What is read at a place, given also the place that was pinned. */
  read: (x: number, y: number, pinned: Point | undefined) => string;
  /** Sets a mark at a place. */
  onMark?: ((x: number, y: number) => void) | undefined;
  /** What stands upon the picture and can be pointed at by itself. */
  beside?: ReactNode;
  children: ReactNode;
}

/** A hairline that reads a plot, moved with the pointer or the arrow keys; a click or Enter pins a second one. */
export function Cursor({ label, frame, stops, zoom, read, onMark, beside, children }: Props) {
  const { place, pinned, setPinned, ...hands } = useHands(frame, stops, onMark);
  return (
    <>
      <div
        role="slider"
        tabIndex={0}
        aria-label={`${label}: cursor`}
        aria-valuemin={Math.round(frame.left)}
        aria-valuemax={Math.round(frame.right)}
        aria-valuenow={Math.round(place?.x ?? frame.left)}
        aria-valuetext={place === undefined ? "no reading" : read(place.x, place.y, pinned)}
        className="absolute inset-0 cursor-crosshair"
        {...hands}
      >
        {children}
        {pinned && <Hairline at={pinned.x} frame={frame} pinned />}
        {place && <Hairline at={place.x} frame={frame} />}
        {place !== undefined && (
          <Reading place={place} frame={frame} zoom={zoom}>
            {read(place.x, place.y, pinned)}
          </Reading>
        )}
      </div>
      {beside}
      {onMark && pinned && (
        <MarkHere
          at={pinned.x}
          frame={frame}
          onMark={() => {
            onMark(pinned.x, pinned.y);
            setPinned(undefined);
          }}
        />
      )}
    </>
  );
}

/** The hairline and the pinned one, as the pointer and the keys move them. */
function useHands(frame: Frame, stops: number[], onMark: Props["onMark"]) {
  const [place, setPlace] = useState<Point>();
  const [pinned, setPinned] = useState<Point>();
  const middle = (frame.top + frame.bottom) / 2;
  const inside = (x: number, y: number): Point => ({
    x: Math.min(frame.right, Math.max(frame.left, x)),
    y: Math.min(frame.bottom, Math.max(frame.top, y)),
  });

  const leave = () => {
    setPlace(undefined);
    setPinned(undefined);
  };

  const point = (event: PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    setPlace(inside(event.clientX - box.left, event.clientY - box.top));
  };

  const press = (event: KeyboardEvent) => {
    const here = place ?? { x: frame.left, y: middle };
    if (event.key === "ArrowRight" || event.key === "ArrowLeft")
      setPlace(inside(next(here.x, event, stops), here.y));
    else if (event.key.toLowerCase() === "m" && onMark && plain(event)) onMark(here.x, here.y);
    else if (event.key === "Enter") setPinned(pinned === undefined ? here : undefined);
    else if (event.key === "Escape" && (place || pinned)) leave();
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return {
    ...{ place, pinned, setPinned },
    onPointerMove: point,
    onPointerLeave: () => setPlace(undefined),
    onClick: () => setPinned(pinned === undefined ? place : undefined),
    onKeyDown: press,
  };
}

interface ReadingProps {
  place: Point;
  frame: Frame;
  zoom: number;
  children: string;
}

/** What is read, on the side where the hairline is not. */
function Reading({ place, frame, zoom, children }: ReadingProps) {
  return (
    <output
      className="pointer-events-none absolute top-1 rounded-sm border border-rule bg-leaf px-2 py-0.5 font-medium whitespace-pre"
      style={{
        fontSize: 13 * zoom,
        ...(place.x > (frame.left + frame.right) / 2 ? { left: frame.left + 4 } : { right: 8 }),
      }}
    >
      {children}
    </output>
  );
}

const Hairline = ({ at, frame, pinned = false }: { at: number; frame: Frame; pinned?: boolean }) => (
  <div
    className={`pointer-events-none absolute border-l ${pinned ? "border-dashed border-soft" : "border-ink"}`}
    style={{ left: at, top: frame.top, height: frame.bottom - frame.top }}
  />
);

/** Sets a mark at the place that was pinned; beside its hairline, where there is more room. */
function MarkHere({ at, frame, onMark }: { at: number; frame: Frame; onMark: () => void }) {
  const right = at > (frame.left + frame.right) / 2;
  return (
    <button
      type="button"
      className="absolute bottom-8 rounded-sm border border-firm bg-leaf px-2 text-note hover:border-ink"
      style={right ? { right: `calc(100% - ${at - 4}px)` } : { left: at + 4 }}
      onClick={onMark}
    >
      Mark this place (M)
    </button>
  );
}

const plain = (event: KeyboardEvent) => !event.ctrlKey && !event.metaKey && !event.altKey;

function next(here: number, event: KeyboardEvent, stops: number[]): number {
  const forward = event.key === "ArrowRight";
  if (stops.length === 0 || event.shiftKey) return here + (forward ? 1 : -1) * (event.shiftKey ? 1 : 10);
  const further = forward
    ? stops.find((stop) => stop > here + 0.5)
    : stops.findLast((stop) => stop < here - 0.5);
  return further ?? here;
}
