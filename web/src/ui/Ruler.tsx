import {
  type KeyboardEvent,
  type PointerEvent,
  type ReactNode,
  type RefObject,
  useId,
  useRef,
  useState,
} from "react";

import type { RulerType } from "../api/client";
import { useRoom } from "./room";
import { NumberEntry } from "./NumberEntry";
import { settled, type Travel, travelOf } from "./travel";
import { tickText, withUnit } from "./units";
import { usePaced } from "./usePaced";

interface Props {
  label: string;
  help: string;
  ruler: RulerType;
  value: number;
  /** The value in the step before, if it was another one. */
  before: number | undefined;
  /** The least and the greatest value that modulation really moved it to. */
  moved: [number, number] | undefined;
  onChange: ((value: number) => void) | undefined;
  /** What stands beside its name. */
  beside?: ReactNode;
  /** Whether it is a pitch: then it can be said as a note or in hertz. */
  pitch?: boolean | undefined;
}

const STEPS: Record<string, number> = {
  ArrowRight: 1,
  ArrowUp: 1,
  ArrowLeft: -1,
  ArrowDown: -1,
  PageUp: 10,
  PageDown: -10,
};

/** A value on a horizontal scale in real units: dragged, typed, or moved with the arrow keys. */
export function Ruler(props: Props) {
  const { label, help, before, moved, onChange, beside, pitch } = props;
  const track = useRef<HTMLDivElement>(null);
  const { ruler, choice } = useEvenly(props);
  const travel = travelOf(ruler);
  const { held, drag, letGo } = useDragging(track, ruler, travel, onChange);
  const value = held ?? props.value;
  const name = useId();
  const set = (wanted: number) => onChange?.(settled(ruler, wanted));

  return (
    <div className="group/ruler mt-0.5">
      <div className="flex items-baseline justify-between gap-2 leading-tight">
        <span className="flex flex-1 items-baseline gap-1">
          <span id={name} title={help} className="first-letter:uppercase">
            {label}
          </span>
          {beside}
          {choice}
        </span>
        <NumberEntry label={label} ruler={ruler} value={value} onCommit={onChange} pitch={pitch} />
      </div>
      <div
        ref={track}
        role="slider"
        tabIndex={0}
        aria-labelledby={name}
        aria-valuemin={ruler.low}
        aria-valuemax={ruler.high}
        aria-valuenow={value}
        aria-valuetext={withUnit(value, ruler.unit)}
        aria-readonly={!onChange}
        className="relative mt-0.5 h-6.5 touch-none select-none coarse:h-10"
        style={{ cursor: onChange ? "ew-resize" : "default" }}
        onKeyDown={(event) => onChange && stepBy(event, ruler, travel, value, set)}
        onDoubleClick={() => onChange?.(ruler.default)}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          drag(event);
        }}
        onPointerMove={(event) => {
          if (event.currentTarget.hasPointerCapture(event.pointerId)) drag(event);
        }}
        onLostPointerCapture={letGo}
      >
        <Scale {...{ travel, moved }} unit={ruler.unit} before={before === value ? undefined : before} />
        <Pointer place={travel.place(value)} quiet={!onChange} />
      </div>
    </div>
  );
}

interface ScaleProps extends Pick<Props, "moved" | "before"> {
  travel: Travel;
  unit: string;
}

/** The line of a ruler: its ticks, the range in which it is moved, and where it stood before. */
function Scale({ travel, moved, before, unit }: ScaleProps) {
  return (
    <>
      <div className="absolute inset-x-0 top-2 border-t-[1.5px] border-ink" />
      {moved && <MovedRange travel={travel} moved={moved} />}
      {travel.ticks.map((tick, number) => (
        <Tick key={tick} travel={travel} tick={tick} unit={unit} edge={edge(number, travel.ticks.length)} />
      ))}
      {before !== undefined && (
        <div
          title={`Before this step: ${withUnit(before, unit)}`}
          className="absolute top-0 h-4 border-l-2 border-dotted border-compared"
          style={{ left: `${100 * travel.place(before)}%` }}
        />
      )}
    </>
  );
}

/** Moves a ruler with the pointer: it follows at once, and what follows from it at the pace that the page can keep. */
function useDragging(
  track: RefObject<HTMLDivElement | null>,
  ruler: RulerType,
  travel: Travel,
  onChange: Props["onChange"],
) {
  const [held, setHeld] = useState<number>();
  const paced = usePaced(onChange);
  const drag = (event: PointerEvent) => {
    const box = track.current?.getBoundingClientRect();
    if (!box || !onChange) return;
    const wanted = settled(ruler, travel.value((event.clientX - box.left) / box.width));
    setHeld(wanted);
    paced.take(wanted);
  };
  const letGo = () => {
    paced.now();
    setHeld(undefined);
  };
  return { held, drag, letGo };
}

/** The ruler as somebody wants it: one that grows by ratios can be had in even steps, and the other way round. */
function useEvenly({ label, ruler }: Props) {
  const { even, put } = useRoom();
  if (ruler.travel === "linear" || ruler.low <= 0) return { ruler, choice: null };
  const isEven = even.includes(label);
  const others = even.filter((one) => one !== label);
  const choice = (
    <button
      type="button"
      aria-label={`${isEven ? "linear" : "log"}: how the ruler of ${label} is divided`}
      title={isEven ? "Divide it by ratios" : "Divide it evenly"}
      className={`ml-1 rounded px-1 text-note text-soft hover:bg-this/10 hover:text-ink focus-visible:opacity-100 ${
        isEven
          ? ""
          : "opacity-0 group-focus-within/ruler:opacity-100 group-hover/ruler:opacity-100 coarse:opacity-100"
      }`}
      onClick={() => put({ even: isEven ? others : [...others, label] })}
    >
      {isEven ? "linear" : "log"}
    </button>
  );
  return { ruler: isEven ? { ...ruler, travel: "linear" as const } : ruler, choice };
}

/** Arrows go a hundredth of the way, with Shift the finest step; Home and End to the ends. */
function stepBy(
  event: KeyboardEvent,
  ruler: RulerType,
  travel: Travel,
  value: number,
  set: (value: number) => void,
): void {
  const steps = STEPS[event.key];
  if (event.key === "Home") set(ruler.low);
  else if (event.key === "End") set(ruler.high);
  else if (steps !== undefined && event.shiftKey) set(value + steps * ruler.step);
  else if (steps !== undefined) {
    const wanted = travel.value(travel.place(value) + steps / 100);
    const least = value + Math.sign(steps) * ruler.step;
    set(Math.abs(wanted - value) < ruler.step ? least : wanted);
  } else return;
  event.preventDefault();
}

const edge = (number: number, count: number) =>
  number === 0 ? "first" : number === count - 1 ? "last" : "inner";

function Tick({ travel, tick, unit, edge }: { travel: Travel; tick: number; unit: string; edge: string }) {
  const shift = { first: "translate-x-0", last: "-translate-x-full", inner: "-translate-x-1/2" }[edge] ?? "";
  return (
    <div className="absolute top-2" style={{ left: `${100 * travel.place(tick)}%` }}>
      <div className={`h-[5px] border-l border-ink ${edge === "last" ? "-translate-x-px" : ""}`} />
      <div className={`absolute top-1.5 text-note leading-none whitespace-nowrap text-soft ${shift}`}>
        {tickText(tick, unit)}
      </div>
    </div>
  );
}

function MovedRange({ travel, moved }: { travel: Travel; moved: [number, number] }) {
  const left = travel.place(moved[0]);
  const width = Math.max(0.005, travel.place(moved[1]) - left);
  return (
    <div
      title="How far it was really moved in this phrase"
      className="absolute top-[5px] h-[7px] bg-this opacity-25"
      style={{ left: `${100 * left}%`, width: `${100 * width}%` }}
    />
  );
}

function Pointer({ place, quiet }: { place: number; quiet: boolean }) {
  return (
    <svg
      width="13"
      height="20"
      viewBox="0 0 13 20"
      aria-hidden="true"
      className={`absolute -top-1 -ml-[6.5px] ${quiet ? "text-soft" : "text-this"}`}
      style={{ left: `${100 * place}%` }}
    >
      <path d="M1 0H12L8 7V19H5V7Z" fill="currentColor" />
    </svg>
  );
}
