import type { Measure, Module, ModuleType } from "../api/client";
import {
  filledPath,
  linePath,
  openings,
  outlinePath,
  readable,
  type Room,
  swings,
  wavePath,
} from "./outline";

interface Props {
  module: Module;
  type: ModuleType | undefined;
  measures: Record<string, Measure> | undefined;
  /** What the card shows: the measures of its main output. */
  measure: Measure | undefined;
  /** Why nothing is heard of it, if nothing is. */
  silence: string | undefined;
  room: Room;
  ink: string;
}

const QUIET = 1e-4;
const GATE = 3;
const DEEPEST_DB = -72;

/** What a module does: a cycle of its wave, its course with the gate, what it takes away, or why it is silent. */
export function CardPicture(props: Props) {
  const { type, measure, module, measures } = props;
  if (!measure) return null;
  const main = type?.outputs.find((output) => output.name === type.main);
  const gate = measures?.[`${module.id}.gate`];
  const pitch = type?.usually === "player" ? measures?.[`${module.id}.pitch`] : undefined;
  if (pitch && gate) return <Notes {...props} pitch={pitch} gate={gate} />;
  if (main?.kind !== "audio") {
    const wave = measure.cycle_hz > 0 && swings(measure);
    return wave ? <Wave {...props} measure={measure} /> : <Course {...props} measure={measure} gate={gate} />;
  }
  if (Math.max(measure.greatest, -measure.least) < QUIET) return <Silence {...props} />;
  const before = measures?.[`${module.id}.in`];
  if (type?.picture === "response" && before?.bands.length && measure.bands.length)
    return <Taken {...props} before={before.bands} after={measure.bands} />;
  return <Wave {...props} measure={measure} />;
}

/** Cycles of the wave over the outline of the whole phrase. */
function Wave({ measure, room, ink }: Props & { measure: Measure }) {
  return (
    <>
      <path d={outlinePath(measure, room)} fill="var(--color-outline)" />
      <path
        d={wavePath(measure.cycle, room)}
        fill="none"
        stroke={ink}
        strokeWidth="1.3"
        strokeLinejoin="round"
      />
    </>
  );
}

/** How what steers moves through the phrase, and beneath it when its gate was open. */
function Course({ measure, gate, room, ink }: Props & { measure: Measure; gate: Measure | undefined }) {
  const dense = swings(measure);
  const above = gate ? { ...room, height: room.height - GATE - 2 } : room;
  return (
    <>
      {readable(measure) || measure.greatest !== 0 ? (
        <path
          d={outlinePath(measure, above)}
          fill={dense ? "var(--color-outline)" : ink}
          stroke={ink}
          strokeWidth={dense ? 0.5 : 1.2}
          strokeLinejoin="round"
        />
      ) : (
        <path d={linePath([0, 0], [0, 1], above)} stroke={ink} strokeWidth="1.2" />
      )}
      {gate && <Gate gate={gate} room={room} />}
    </>
  );
}

function Gate({ gate, room }: { gate: Measure; room: Room }) {
  return openings(gate).map(([from, to]) => (
    <rect
      key={from}
      x={from * room.width}
      y={room.height - GATE}
      width={Math.max(1, (to - from) * room.width - 0.7)}
      height={GATE}
      fill="var(--color-firm)"
    />
  ));
}

const TALLEST_NOTE = 3.4;

/** The notes of the phrase: how high, and how long each is held. */
function Notes({ pitch, gate, room, ink }: Props & { pitch: Measure; gate: Measure }) {
  const open = openings(gate);
  const heights = open.map(([from, to]) => middle(pitch, from, to));
  const [low, high] = [Math.min(...heights), Math.max(...heights)];
  const y = (height: number) =>
    high > low ? (room.height - TALLEST_NOTE) * (1 - (height - low) / (high - low)) : room.height / 2;
  return open.map(([from, to], n) => (
    <rect
      key={from}
      x={from * room.width}
      y={y(heights[n] ?? low)}
      width={Math.max(1.5, (to - from) * room.width - 1)}
      height={TALLEST_NOTE}
      fill={ink}
    />
  ));
}

/** What a signal is in the middle of a stretch. */
function middle({ highs }: Measure, from: number, to: number): number {
  return highs[Math.min(highs.length - 1, Math.floor(((from + to) / 2) * highs.length))] ?? 0;
}

/** The spectrum that came in, and before it what was left of it. */
function Taken({ before, after, room, ink }: Props & { before: number[]; after: number[] }) {
  const top = Math.max(...before, ...after);
  const range: [number, number] = [top + DEEPEST_DB, top + 3];
  return (
    <>
      <path d={filledPath(before, range, room)} fill="var(--color-outline)" />
      <path
        d={linePath(after, range, room)}
        fill="none"
        stroke={ink}
        strokeWidth="1.4"
        strokeLinejoin="round"
      />
    </>
  );
}

function Silence({ room, silence }: Props) {
  return (
    <text
      x={room.width / 2}
      y={room.height / 2 + 4}
      textAnchor="middle"
      className="font-work text-[11.5px] italic"
      fill="var(--color-soft)"
    >
      {silence ?? "silent"}
    </text>
  );
}
