import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";

import type { RulerType } from "../api/client";
import { withUnit } from "./units";

interface Props {
  label: string;
  help: string;
  ruler: RulerType;
  length: number;
  /** How many of them are in use; the rest is drawn faintly. */
  inUse: number;
  values: readonly number[];
  before: readonly number[] | undefined;
  onChange: ((values: number[]) => void) | undefined;
}

const HEIGHT = 72;
const SPANS = [1, 2, 6, 12, 24, 60, 1000];

/** A row of numbers as bars: drawn with the pointer in one stroke, or set one by one with the arrow keys. */
export function Bars({ label, help, ruler, length, inUse, values, before, onChange }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const stroke = useRef<{ place: number; value: number } | null>(null);
  const [focused, setFocused] = useState(0);
  const [held, setHeld] = useState<RulerType>();
  const full = padded(values, length, ruler);
  const view = held ?? viewOf(full, ruler);
  const old = before && padded(before, length, ruler);

  const set = (changes: Map<number, number>) => {
    onChange?.(
      trimmedRow(
        full.map((value, place) => fitted(changes.get(place) ?? value, ruler)),
        ruler,
      ),
    );
  };

  const draw = (event: PointerEvent) => {
    const area = box.current?.getBoundingClientRect();
    if (!area) return;
    const place = Math.min(
      length - 1,
      Math.max(0, Math.floor(((event.clientX - area.left) / area.width) * length)),
    );
    const height = 1 - (event.clientY - area.top) / area.height;
    const value = view.low + height * (view.high - view.low);
    set(between(stroke.current ?? { place, value }, { place, value }));
    stroke.current = { place, value };
    setFocused(place);
  };

  const keyed = (event: KeyboardEvent, place: number) => {
    const value = full[place] ?? ruler.default;
    const moved: Record<string, number> = {
      ArrowUp: value + ruler.step,
      ArrowDown: value - ruler.step,
      PageUp: value + (view.high - view.low) / 10,
      PageDown: value - (view.high - view.low) / 10,
      Home: ruler.low,
      End: ruler.high,
      Delete: ruler.default,
    };
    const target = moved[event.key];
    if (target !== undefined) set(new Map([[place, target]]));
    else if (event.key === "ArrowLeft" || event.key === "ArrowRight")
      focus(place + (event.key === "ArrowLeft" ? -1 : 1));
    else return;
    event.preventDefault();
  };

  const focus = (place: number) => {
    const next = Math.min(length - 1, Math.max(0, place));
    setFocused(next);
    box.current?.querySelectorAll<HTMLElement>("[role=slider]")[next]?.focus();
  };

  return (
    <div className="mt-2">
      <div title={help} className="flex justify-between">
        <span className="first-letter:uppercase">{label}</span>
        <span className="text-soft">
          {focused + 1}: {withUnit(full[focused] ?? ruler.default, ruler.unit)}
        </span>
      </div>
      <div
        ref={box}
        className={`relative flex touch-none overflow-hidden border-y border-rule bg-leaf select-none ${onChange ? "cursor-crosshair" : ""}`}
        style={{ height: HEIGHT }}
        onPointerDown={(event) => {
          if (!onChange) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          stroke.current = null;
          setHeld(view);
          draw(event);
        }}
        onPointerUp={() => setHeld(undefined)}
        onPointerMove={(event) => {
          if (event.currentTarget.hasPointerCapture(event.pointerId)) draw(event);
        }}
      >
        {full.map((value, place) => (
          <div
            key={place}
            role="slider"
            tabIndex={place === focused ? 0 : -1}
            aria-label={`${label} ${place + 1}`}
            aria-orientation="vertical"
            aria-valuemin={ruler.low}
            aria-valuemax={ruler.high}
            aria-valuenow={value}
            aria-valuetext={withUnit(value, ruler.unit)}
            aria-disabled={!onChange}
            className="relative h-full min-w-0 flex-1 border-r border-paper"
            onFocus={() => setFocused(place)}
            onKeyDown={(event) => onChange && keyed(event, place)}
          >
            {old && old[place] !== value && (
              <Bar value={old[place] ?? 0} ruler={view} className="bg-compared opacity-50" />
            )}
            <Bar value={value} ruler={view} className={place < inUse ? "bg-this" : "bg-firm opacity-50"} />
          </div>
        ))}
      </div>
    </div>
  );
}

function Bar({ value, ruler, className }: { value: number; ruler: RulerType; className: string }) {
  const part = (at: number) => ((at - ruler.low) / (ruler.high - ruler.low)) * 100;
  const zero = Math.min(100, Math.max(0, part(0)));
  const end = part(value);
  const bottom = Math.min(zero, end);
  return (
    <span
      aria-hidden="true"
      className={`absolute inset-x-0 ${className}`}
      style={{ bottom: `${bottom}%`, height: `max(2px, ${Math.abs(end - zero)}%)` }}
    />
  );
}

/** The part of the ruler that is shown: just enough for the values. Beyond it one can draw all the same. */
function viewOf(values: number[], ruler: RulerType): RulerType {
  const farthest = Math.max(...values.map(Math.abs));
  const span = SPANS.find((one) => one >= farthest) ?? ruler.high;
  const low = values.some((value) => value < 0) ? -span : 0;
  return { ...ruler, low: Math.max(ruler.low, low), high: Math.min(ruler.high, span) };
}

const padded = (values: readonly number[], length: number, ruler: RulerType): number[] =>
  Array.from({ length }, (_, place) => values[place] ?? ruler.default);

const fitted = (value: number, ruler: RulerType): number => {
  const stepped = Math.round(value / ruler.step) * ruler.step;
  return Number(Math.min(ruler.high, Math.max(ruler.low, stepped)).toFixed(6));
};

/** The row without what stands at its end only because it is the default. */
function trimmedRow(values: number[], ruler: RulerType): number[] {
  let length = values.length;
  while (length > 0 && values[length - 1] === ruler.default) length -= 1;
  return values.slice(0, length);
}

/** What a stroke from one bar to another sets, along a straight line. */
function between(
  from: { place: number; value: number },
  to: { place: number; value: number },
): Map<number, number> {
  const steps = Math.abs(to.place - from.place);
  const way = Array.from({ length: steps + 1 }, (_, step) => (steps === 0 ? 1 : step / steps));
  return new Map(
    way.map((part) => [
      Math.round(from.place + part * (to.place - from.place)),
      from.value + part * (to.value - from.value),
    ]),
  );
}
