import { type KeyboardEvent, type RefObject, useRef } from "react";

import { BeatLines } from "./BeatLines";
import { type Control, pointWords } from "./controls";
import { focusPiece } from "./focusPiece";
import { between, type Gesture, nextOnGrid, onGrid, type Point, pointsOf, withPoint } from "./phrases";
import { PieceField, type Share } from "./PieceField";

interface Props {
  gesture: Gesture;
  moved: Control;
  beats: number;
  /** Told which of the points one has come to. */
  onChoose: (place: number) => void;
  /** Changes of one kind in quick succession can be taken back as one. Without it nothing can be changed. */
  onChange: ((points: Point[], kind?: string) => void) | undefined;
}

interface Held {
  points: Point[];
  place: number;
  kind: string;
}

const STEP = 0.05;
const ROUND = 100;

/** The movement of one control over the beats: points joined by straight lines. */
export function GestureLane(props: Props) {
  const { gesture, moved, beats, onChange, onChoose } = props;
  const [{ name }, { control }] = [moved, gesture];
  const field = useRef<HTMLDivElement>(null);
  const points = pointsOf(gesture);
  const low = control === "bend" ? -1 : 0;
  const { put, take, drag } = usePieces(props, points, low, field);
  const press = (event: KeyboardEvent, place: number, point: Point) => {
    if (!onChange || event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === "Delete" || event.key === "Backspace") {
      onChange(points.toSpliced(place, 1));
      focusPiece(field.current, Math.min(place, points.length - 2));
    } else if (event.key === "Enter") {
      focusPiece(field.current, put(points, undefined, { ...point, beat: nextOnGrid(point.beat, 1) }));
    } else {
      const there = movedBy(event.key, point);
      if (!there) return;
      focusPiece(field.current, put(points, place, there, "keys"));
    }
    event.preventDefault();
  };
  const left = ({ beat }: Point) => (100 * beat) / beats;
  const top = ({ value }: Point) => (100 * (1 - value)) / (1 - low);
  return (
    <PieceField
      field={field}
      name={control}
      label={`The movement of ${name}`}
      className="h-full"
      changeable={onChange !== undefined}
      onTake={take}
      onDrag={drag}
    >
      <BeatLines beats={beats} />
      <Course points={courseOf(points, beats).map((point) => `${left(point)},${top(point)}`)} />
      {points.map((point, place) => (
        <div
          key={place}
          data-piece={place}
          role="slider"
          tabIndex={0}
          aria-label={`${name}, point ${place + 1}`}
          aria-orientation="vertical"
          aria-valuemin={low}
          aria-valuemax={1}
          aria-valuenow={point.value}
          aria-valuetext={pointWords(point, moved)}
          aria-readonly={!onChange}
          title={pointWords(point, moved)}
          className={`absolute size-2.5 -translate-1/2 rounded-full border-2 border-leaf bg-ink focus:bg-this ${
            onChange ? "cursor-move" : ""
          }`}
          style={{ left: `${left(point)}%`, top: `${top(point)}%` }}
          onFocus={() => onChoose(place)}
          onKeyDown={(event) => press(event, place, point)}
        />
      ))}
    </PieceField>
  );
}

/** Placing points, and taking hold of them with the pointer. */
function usePieces(
  { gesture, beats, onChange }: Props,
  points: Point[],
  low: number,
  field: RefObject<HTMLDivElement | null>,
) {
  const put = (base: Point[], place: number | undefined, { beat, value }: Point, kind?: string): number => {
    const there = {
      beat: between(beat, 0, beats),
      value: Math.round(between(value, low, 1) * ROUND) / ROUND,
    };
    const [changed, now] = withPoint(base, place, there);
    onChange?.(changed, kind && `${gesture.control} ${kind}`);
    return now;
  };
  const pointed = ({ across, down }: Share): Point => ({
    beat: onGrid(across * beats),
    value: 1 - down * (1 - low),
  });
  const take = (share: Share, piece: number | undefined, _target: HTMLElement, kind: string): Held => {
    if (piece !== undefined) return { points, place: piece, kind };
    const point = pointed(share);
    const [base, place] = withPoint(points, undefined, point);
    focusPiece(field.current, put(points, undefined, point, kind));
    return { points: base, place, kind };
  };
  const drag = (held: Held, share: Share) => put(held.points, held.place, pointed(share), held.kind);
  return { put, take, drag };
}

/** The points with what lies beyond them: the control stands still before its first point and after its last. */
function courseOf(points: Point[], beats: number): Point[] {
  const first = points[0];
  const last = points.at(-1);
  return first && last ? [{ ...first, beat: 0 }, ...points, { ...last, beat: beats }] : [];
}

function Course({ points }: { points: string[] }) {
  return (
    <svg
      className="pointer-events-none absolute inset-0 size-full overflow-visible text-ink"
      viewBox="0 0 100 100"
      preserveAspectRatio="none"
      aria-hidden="true"
    >
      <polyline
        points={points.join(" ")}
        fill="none"
        stroke="currentColor"
        strokeWidth="1.5"
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}

function movedBy(key: string, point: Point): Point | undefined {
  const higher = { ArrowUp: STEP, ArrowDown: -STEP, PageUp: 1, PageDown: -1 }[key];
  if (higher !== undefined) return { ...point, value: point.value + higher };
  const way = { ArrowRight: 1, ArrowLeft: -1 }[key];
  return way === undefined ? undefined : { ...point, beat: nextOnGrid(point.beat, way) };
}
