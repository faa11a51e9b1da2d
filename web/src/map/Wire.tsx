import type { Point } from "./grid";
import type { Line } from "./layout";

interface Props {
  line: Line;
  isNew: boolean;
  /** Lit where it belongs to what is looked at, dim where something else does. */
  light: "lit" | "dim" | "plain";
  selected: boolean;
  off: boolean;
  /** Nothing flows: the sound is lost before. */
  empty: boolean;
  onSelect: (() => void) | undefined;
  onHover: (hovered: boolean) => void;
}

const STROKES: Record<Line["kind"], { width: number; dash?: string }> = {
  audio: { width: 3 },
  control: { width: 1.5, dash: "6 4" },
  pitch: { width: 1.8, dash: "1.5 4" },
  gate: { width: 1.2 },
};

const RADIUS = 6;

/** A connection: its pattern says what kind of signal it carries. */
export function Wire({ line, isNew, light, selected, off, empty, onSelect, onHover }: Props) {
  const stroke = STROKES[line.kind];
  const path = rounded(line.points);
  const ink = isNew ? "var(--color-ink)" : "var(--color-faint)";
  return (
    <g
      className={onSelect ? "cursor-pointer" : ""}
      opacity={off ? 0.35 : light === "dim" ? 0.3 : 1}
      onClick={onSelect}
      onPointerEnter={() => onHover(true)}
      onPointerLeave={() => onHover(false)}
    >
      <path
        d={path}
        data-line={line.key}
        data-selected={selected}
        stroke={selected || light === "lit" ? "var(--color-this)" : ink}
        strokeWidth={(empty ? 1 : stroke.width) + (selected ? 1.5 : 0)}
        strokeDasharray={stroke.dash}
        strokeLinecap={line.kind === "pitch" ? "round" : "butt"}
      />
      <path d={path} stroke="transparent" strokeWidth="13" pointerEvents="stroke" data-grip={line.key} />
    </g>
  );
}

/** The line with its corners rounded. */
function rounded(points: Point[]): string {
  return points
    .map((point, place) => {
      const before = points[place - 1];
      const after = points[place + 1];
      if (!before) return `M${point.x} ${point.y}`;
      if (!after) return `L${point.x} ${point.y}`;
      const [a, b] = [towards(point, before), towards(point, after)];
      return `L${a.x} ${a.y}Q${point.x} ${point.y} ${b.x} ${b.y}`;
    })
    .join("");
}

function towards(from: Point, to: Point): Point {
  const length = Math.hypot(to.x - from.x, to.y - from.y) || 1;
  const part = Math.min(RADIUS, length / 2) / length;
  return { x: from.x + (to.x - from.x) * part, y: from.y + (to.y - from.y) * part };
}
