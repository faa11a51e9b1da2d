import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";

import type { RulerType } from "../api/client";
import { NumberEntry } from "./NumberEntry";
import { withUnit } from "./units";

interface Props {
  label: string;
  help: string;
  ruler: RulerType;
  length: number;
  /** How many of them are in use; the rest is drawn faintly. */
  inUse: number;
  /** Whether it is counted how many there are: then they stand in a table too, where each can be typed. */
  counted: boolean;
  /** What they sound as, where that is otherwise than they are written. */
  sounding: readonly number[] | undefined;
  values: readonly number[];
  before: readonly number[] | undefined;
  onChange: ((values: number[]) => void) | undefined;
}

const HEIGHT = 36;
const WAYS: Record<string, number> = { ArrowLeft: -1, ArrowRight: 1 };
const SPANS = [1, 2, 6, 12, 24, 60, 1000];

/** A row of numbers as bars: drawn with the pointer in one stroke, or set one by one with the arrow keys, or typed. */
export function Bars(props: Props) {
  const { label, help, ruler, length, values, before, counted, sounding, onChange } = props;
  const box = useRef<HTMLDivElement>(null);
  const [focused, setFocused] = useState(0);
  const full = padded(values, length, ruler);
  // what is not counted cannot be heard: the bars in use stand over their numbers
  const shown = counted ? full.slice(0, Math.max(1, props.inUse)) : full;
  const set = (changes: Map<number, number>) => {
    const changed = full.map((value, place) => fitted(changes.get(place) ?? value, ruler));
    onChange?.(trimmedRow(changed, ruler));
  };
  const { view, strokes } = useStroke(shown, ruler, onChange && set, setFocused);
  const focus = (place: number) =>
    box.current?.querySelectorAll<HTMLElement>("[role=slider]")[place]?.focus();
  const keyed = (event: KeyboardEvent, place: number) => {
    const target = movedBy(event, full[place] ?? ruler.default, ruler, view);
    const way = WAYS[event.key];
    if (target !== undefined) set(new Map([[place, target]]));
    else if (way !== undefined) focus(place + way);
    else return;
    event.preventDefault();
  };
  return (
    <div className="mt-1">
      <div title={help} className="flex justify-between">
        <span className="first-letter:uppercase">{label}</span>
        {!counted && (
          <Typed
            {...{ label, ruler }}
            number={focused + 1}
            value={full[focused] ?? ruler.default}
            onSet={onChange && ((value) => set(new Map([[focused, value]])))}
          />
        )}
      </div>
      <div
        ref={box}
        className={`relative flex touch-none overflow-hidden border-y border-rule bg-leaf select-none ${onChange ? "cursor-crosshair" : ""}`}
        style={{ height: HEIGHT }}
        {...strokes}
      >
        {shown.map((value, place) => (
          <OneBar
            key={place}
            {...props}
            value={value}
            old={before && (before[place] ?? ruler.default)}
            place={place}
            view={view}
            reachable={place === focused}
            onFocus={() => setFocused(place)}
            onKeyDown={(event) => onChange && keyed(event, place)}
          />
        ))}
      </div>
      {counted && <Table {...props} values={full} onSet={onChange && set} />}
      {sounding && <Sounding label={label} values={sounding} />}
    </div>
  );
}

const Sounding = ({ label, values }: { label: string; values: readonly number[] }) => (
  <p className="text-note text-soft" data-sounding={label}>
    Sounds: {values.map((value) => withUnit(value, "")).join(", ")}
  </p>
);

interface TypedProps extends Pick<Props, "label" | "ruler"> {
  number: number;
  value: number;
  onSet: ((value: number) => void) | undefined;
}

/** One number of the row, to be typed. */
const Typed = ({ label, ruler, number, value, onSet }: TypedProps) => (
  <span className="flex gap-1 text-soft">
    {number}:
    <NumberEntry label={`${label} ${number}`} ruler={ruler} value={value} onCommit={onSet} />
  </span>
);

interface TableProps extends Props {
  onSet: ((changes: Map<number, number>) => void) | undefined;
}

/** The numbers that are in use, each to be typed. */
function Table({ label, ruler, values, inUse, onSet }: TableProps) {
  return (
    <ol
      className="grid text-note"
      style={{ gridTemplateColumns: `repeat(${Math.min(8, Math.max(1, inUse))}, minmax(0, 1fr))` }}
    >
      {values.slice(0, inUse).map((value, place) => (
        <li key={place} className="flex justify-center border-b border-rule">
          <NumberEntry
            label={`${label} ${place + 1}`}
            ruler={ruler}
            value={value}
            bare
            onCommit={onSet && ((typed) => onSet(new Map([[place, typed]])))}
          />
        </li>
      ))}
    </ol>
  );
}

/** Drawing with the pointer; meanwhile the part of the ruler that is shown stays. */
function useStroke(
  full: number[],
  ruler: RulerType,
  set: ((changes: Map<number, number>) => void) | undefined,
  setFocused: (place: number) => void,
) {
  const stroke = useRef<{ place: number; value: number } | null>(null);
  const [held, setHeld] = useState<RulerType>();
  const view = held ?? viewOf(full, ruler);
  const draw = (event: PointerEvent) => {
    const area = event.currentTarget.getBoundingClientRect();
    const across = Math.floor(((event.clientX - area.left) / area.width) * full.length);
    const place = Math.min(full.length - 1, Math.max(0, across));
    const height = 1 - (event.clientY - area.top) / area.height;
    const fine = drawnStep(view);
    const value = Math.round((view.low + height * (view.high - view.low)) / fine) * fine;
    set?.(between(stroke.current ?? { place, value }, { place, value }));
    stroke.current = { place, value };
    setFocused(place);
  };
  const strokes = {
    onPointerDown: (event: PointerEvent) => {
      if (!set) return;
      event.currentTarget.setPointerCapture(event.pointerId);
      stroke.current = null;
      setHeld(view);
      draw(event);
    },
    onPointerUp: () => setHeld(undefined),
    onPointerMove: (event: PointerEvent) => {
      if (event.currentTarget.hasPointerCapture(event.pointerId)) draw(event);
    },
  };
  return { view, strokes };
}

/** How far a key goes: by whole numbers where there are many of them. */
const keyStep = (ruler: RulerType) => (ruler.high - ruler.low > 10 ? Math.max(1, ruler.step) : ruler.step);

/** What is drawn goes by semitones where it is a melody, and else by hundredths of what is shown. */
const drawnStep = (view: RulerType) =>
  view.unit === "st" ? 1 : Math.max(view.step, 10 ** Math.floor(Math.log10((view.high - view.low) / 50)));

/** Where a key moves a value, with Shift by the least that there is; nothing for one that moves none. */
function movedBy(
  { key, shiftKey }: KeyboardEvent,
  value: number,
  ruler: RulerType,
  view: RulerType,
): number | undefined {
  const far = (view.high - view.low) / 10;
  const near = shiftKey ? ruler.step : keyStep(ruler);
  const moved: Record<string, number> = {
    ArrowUp: value + near,
    ArrowDown: value - near,
    PageUp: value + far,
    PageDown: value - far,
    Home: ruler.low,
    End: ruler.high,
    Delete: ruler.default,
  };
  return moved[key];
}

interface OneBarProps extends Pick<Props, "label" | "ruler" | "inUse" | "onChange"> {
  value: number;
  old: number | undefined;
  place: number;
  view: RulerType;
  reachable: boolean;
  onFocus: () => void;
  onKeyDown: (event: KeyboardEvent) => void;
}

function OneBar({ label, ruler, value, old, place, view, ...props }: OneBarProps) {
  return (
    <div
      role="slider"
      tabIndex={props.reachable ? 0 : -1}
      aria-label={`${label} ${place + 1}`}
      aria-orientation="vertical"
      aria-valuemin={ruler.low}
      aria-valuemax={ruler.high}
      aria-valuenow={value}
      aria-valuetext={withUnit(value, ruler.unit)}
      aria-disabled={!props.onChange}
      className="relative h-full min-w-0 flex-1 border-r border-paper"
      onFocus={props.onFocus}
      onKeyDown={props.onKeyDown}
    >
      {old !== undefined && old !== value && (
        <Bar value={old} ruler={view} className="bg-compared opacity-50" />
      )}
      <Bar value={value} ruler={view} className={place < props.inUse ? "bg-this" : "bg-firm opacity-50"} />
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
