import { type PointerEvent, useState } from "react";

import type { SoundFacts } from "../api/client";

/** Places in a sound, as parts of its length. */
export interface Places {
  start: number;
  end: number;
  /** The stretch that is repeated, if one is. */
  loop: [number, number] | undefined;
  backward: boolean;
}

export type PlaceName = "start" | "end" | "loop_from" | "loop_to";

interface Props {
  facts: SoundFacts;
  places?: Places;
  height?: number;
  label: string;
  /** Moves a place; without it nothing can be moved. */
  onMove?: ((name: PlaceName, place: number) => void) | undefined;
}

const WIDTH = 260;

/** A sound as it is kept: what is played of it is inked, what is left out is faint, and what repeats is shaded. */
export function SoundWave({ facts, places, height = 56, label, onMove }: Props) {
  const middle = height / 2;
  const scale = (middle - 3) / Math.max(0.05, ...facts.highs, ...facts.lows.map((low) => -low));
  const count = facts.lows.length;
  const outline = (from: number, to: number) => {
    const first = Math.floor(from * count);
    const columns = Array.from({ length: Math.max(0, Math.ceil(to * count) - first) }, (_, n) => first + n);
    const x = (n: number) => (((n + 0.5) / count) * WIDTH).toFixed(1);
    const over = columns.map((n) => `${x(n)} ${(middle - (facts.highs[n] ?? 0) * scale - 0.4).toFixed(1)}`);
    const under = columns.map((n) => `${x(n)} ${(middle - (facts.lows[n] ?? 0) * scale + 0.4).toFixed(1)}`);
    return columns.length > 0 ? `M${[...over, ...under.reverse()].join("L")}Z` : "";
  };
  const { start, end, loop } = places ?? { start: 0, end: 1, loop: undefined };
  return (
    <svg
      viewBox={`-5 0 ${WIDTH + 10} ${height}`}
      role="img"
      aria-label={label}
      preserveAspectRatio="none"
      style={{ height }}
      className="w-full touch-none border-y border-rule bg-leaf"
    >
      <path d={outline(0, 1)} fill="var(--color-rule)" />
      <path d={outline(start, end)} fill="var(--color-this)" />
      {places && <Edge name="start" x={start} height={height} onMove={onMove} />}
      {places && <Edge name="end" x={end} height={height} onMove={onMove} />}
      {places && <Direction x={places.backward ? end : start} backward={places.backward} />}
      {loop && (
        <path
          data-loop
          d={`M${loop[0] * WIDTH} ${height - 2}H${Math.max(loop[1], loop[0] + 0.004) * WIDTH}`}
          stroke="var(--color-ink)"
          strokeWidth="4"
        >
          <title>This stretch repeats</title>
        </path>
      )}
      {loop && <Edge name="loop_from" x={loop[0]} height={height} onMove={onMove} />}
      {loop && <Edge name="loop_to" x={loop[1]} height={height} onMove={onMove} />}
    </svg>
  );
}

/** Where it sets out, and which way. */
function Direction({ x, backward }: { x: number; backward: boolean }) {
  const tip = x * WIDTH + (backward ? -8 : 8);
  return (
    <path
      data-direction={backward ? "backward" : "forward"}
      d={`M${x * WIDTH} 1L${tip} 5L${x * WIDTH} 9Z`}
      fill="var(--color-ink)"
    >
      <title>{backward ? "Played backward, from here" : "Played from here"}</title>
    </path>
  );
}

const WORDS: Record<PlaceName, string> = {
  start: "where it begins",
  end: "where it ends",
  loop_from: "where the loop begins",
  loop_to: "where the loop ends",
};

interface EdgeProps {
  name: PlaceName;
  x: number;
  height: number;
  onMove: Props["onMove"];
}

/** A place in the sound: a line that can be dragged; the rulers below do the same from the keyboard. */
function Edge({ name, x, height, onMove }: EdgeProps) {
  const [held, setHeld] = useState(false);
  const drag = (event: PointerEvent<SVGElement>) => {
    const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
    if (!held || !box || !onMove) return;
    const at = ((event.clientX - box.left) / box.width) * (WIDTH + 10) - 5;
    onMove(name, Math.round(Math.min(1, Math.max(0, at / WIDTH)) * 10_000) / 10_000);
  };
  const isLoop = name.startsWith("loop");
  return (
    <g
      data-place={name}
      className={onMove ? "cursor-ew-resize" : ""}
      onPointerDown={(event) => {
        if (!onMove) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        setHeld(true);
      }}
      onPointerMove={drag}
      onPointerUp={() => setHeld(false)}
    >
      <title>{WORDS[name]}</title>
      <rect x={x * WIDTH - 5} width="10" y="0" height={height} fill="transparent" />
      <path
        d={`M${x * WIDTH} 0V${height}`}
        stroke="var(--color-leaf)"
        strokeWidth="4"
        vectorEffect="non-scaling-stroke"
      />
      <path
        d={`M${x * WIDTH} 0V${height}`}
        stroke="var(--color-ink)"
        strokeWidth={held ? 2.5 : 1.5}
        strokeDasharray={isLoop ? "3 2" : undefined}
        vectorEffect="non-scaling-stroke"
      />
    </g>
  );
}
