import type { Patch, StepMark } from "../api/client";
import { lineKey } from "../api/patch";
import type { Point, Size } from "./grid";
import { LABEL_SIZE } from "./labels";
import type { Layout, Line } from "./layout";
import { readFont, setInto, type Type, widthOf, workFont } from "./text";
import { lighting, useIsLit } from "../marks/lit";

const SIDE = 17;
const SIZE = 12;

/** A number as it stands on the map, its middle at a point. */
export function NumberOnMap({ number, x, y, scale = 1 }: Point & { number: number; scale?: number }) {
  const lit = useIsLit(number);
  const width = number > 9 ? SIDE + 5 : SIDE;
  return (
    <g
      transform={`translate(${x}, ${y}) scale(${scale})`}
      data-mark-number={number}
      data-lit={lit}
      {...lighting(number)}
    >
      {lit && (
        <rect
          x={-width / 2 - 4}
          y={-SIDE / 2 - 4}
          width={width + 8}
          height={SIDE + 8}
          rx="4"
          fill="var(--color-this)"
          opacity="0.3"
        />
      )}
      <rect
        x={-width / 2}
        y={-SIDE / 2}
        width={width}
        height={SIDE}
        rx="2"
        fill={lit ? "var(--color-this)" : "var(--color-ink)"}
        stroke="var(--color-paper)"
        strokeWidth="1.5"
      />
      <text
        y={SIZE * 0.36}
        textAnchor="middle"
        fontSize={SIZE}
        className="font-work font-semibold"
        fill="var(--color-leaf)"
      >
        {number}
      </text>
    </g>
  );
}

/** The mark of a card. */
export const markOfCard = (marks: StepMark[], id: string): StepMark | undefined =>
  marks.find(({ at }) => at.kind === "module" && at.module === id);

/** The mark of a drawn line, which may stand for several connections. */
export const markOfLine = (marks: StepMark[], ends: string[]): StepMark | undefined =>
  marks.find(({ at }) => at.kind === "line" && ends.includes(lineKey(at)));

interface Box extends Point, Size {}

const PARTS = [0.5, 0.35, 0.65, 0.2, 0.8];

/** Where the number of each line stands: on the line, where no card, no text and no other number is. */
export function numbersOnLines(drawn: Layout, numbers: Map<string, number>): (Point & { number: number })[] {
  const taken: Box[] = [
    ...drawn.cards.map(({ x, y }) => ({ x, y, ...drawn.card })),
    ...drawn.labels.map(({ x, y, text }) => ({
      x,
      y: y - LABEL_SIZE,
      width: widthOf(text, workFont(LABEL_SIZE)),
      height: LABEL_SIZE + 3,
    })),
  ];
  return drawn.lines.flatMap((line) => {
    const number = numbers.get(line.key);
    if (number === undefined) return [];
    const places = placesOn(line);
    const at = places.find((one) => taken.every((box) => apart(box, one))) ?? places[0];
    if (!at) return [];
    taken.push({ x: at.x - SIDE / 2, y: at.y - SIDE / 2, width: SIDE, height: SIDE });
    return { ...at, number };
  });
}

/** Points of a line, those on its longest stretches first. */
function placesOn({ points }: Line): Point[] {
  const length = ([a, b]: [Point, Point]) => Math.abs(a.x - b.x) + Math.abs(a.y - b.y);
  const stretches = points
    .slice(1)
    .map((point, n): [Point, Point] => [points[n] ?? point, point])
    .toSorted((one, other) => length(other) - length(one));
  return stretches.flatMap(([a, b]) =>
    PARTS.map((part) => ({ x: a.x + (b.x - a.x) * part, y: a.y + (b.y - a.y) * part })),
  );
}

const apart = (box: Box, { x, y }: Point) =>
  x + SIDE / 2 <= box.x ||
  x - SIDE / 2 >= box.x + box.width ||
  y + SIDE / 2 <= box.y ||
  y - SIDE / 2 >= box.y + box.height;

/** What lines are for, by their ends. */
export const purposesOf = (marks: StepMark[], patch: Patch): Map<string, string> => {
  const there = new Set(patch.connections.map(lineKey));
  return new Map(
    marks.flatMap(({ at, purpose }): [string, string][] =>
      at.kind === "line" && purpose && there.has(lineKey(at)) ? [[lineKey(at), purpose]] : [],
    ),
  );
};

const CAPTION: Type[] = [{ size: 13, narrow: false }];
const CAPTION_WIDTH = 220;
const CAPTION_LEADING = 16;
const MOST_LINES = 4;

interface CaptionProps {
  text: string;
  at: Point;
  drawn: Layout;
  scale: number;
}

/** What a place is for, over whatever is drawn there, within the map. */
export function PurposeOnMap({ text, at, drawn, scale }: CaptionProps) {
  const { lines } = setInto(text, CAPTION_WIDTH, CAPTION, () => MOST_LINES);
  const width = Math.max(...lines.map((line) => widthOf(line, readFont(13, 600)))) + 14;
  const height = lines.length * CAPTION_LEADING + 8;
  const x = Math.max(2, Math.min(at.x, drawn.width - width * scale - 2));
  const y = Math.max(2, Math.min(at.y, drawn.height - height * scale - 2));
  return (
    <g transform={`translate(${x}, ${y}) scale(${scale})`} className="pointer-events-none" data-purpose-shown>
      <rect width={width} height={height} rx="3" fill="var(--color-leaf)" stroke="var(--color-ink)" />
      {lines.map((line, n) => (
        <text
          key={n}
          x="7"
          y={17 + n * CAPTION_LEADING}
          fontSize="13"
          className="font-read italic"
          fill="currentColor"
        >
          {line}
        </text>
      ))}
    </g>
  );
}
