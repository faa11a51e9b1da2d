import type { Measure, Module, Patch } from "../api/client";
import { type Catalogue, mainOutput, modulesOf, settingOf, titleOf } from "../api/patch";
import { decibels, trimmed } from "../ui/units";
import { CARD, type Card, layout, type Line } from "./layout";
import { outlinePath, readable } from "./outline";

interface Props {
  patch: Patch;
  /** The patch of the step before: what it does not have is drawn in ink, the rest lighter. */
  before: Patch | undefined;
  catalogue: Catalogue;
  measures: Record<string, Measure> | undefined;
  selected: string | undefined;
  onSelect: (id: string) => void;
}

const STROKES: Record<Line["kind"], { width: number; dash?: string }> = {
  audio: { width: 3 },
  control: { width: 1.5, dash: "6 4" },
  pitch: { width: 1.8, dash: "1.5 4" },
  gate: { width: 1.2 },
};

const LARGEST = 1.3;

/** The patch as a line diagram that is computed, with the outline of every module's real signal. */
export function PatchMap({ patch, before, catalogue, measures, selected, onSelect }: Props) {
  const drawn = layout(patch, catalogue);
  const modules = new Map(modulesOf(patch).map((module) => [module.id, module]));
  const older = new Set((before?.modules ?? []).map((module) => module.id));
  const oldLines = new Set((before?.connections ?? []).map(lineKey));
  return (
    <svg
      role="group"
      aria-label="Map of the patch"
      viewBox={`0 0 ${drawn.width} ${drawn.height}`}
      className="h-full w-full"
      style={{ maxWidth: drawn.width * LARGEST, maxHeight: drawn.height * LARGEST }}
    >
      <g fill="none" strokeLinejoin="round">
        {drawn.lines.map((line) => (
          <Wire
            key={line.key}
            line={line}
            isNew={!line.connections.every((one) => oldLines.has(lineKey(one)))}
          />
        ))}
      </g>
      {drawn.cards.map((card) => {
        const module = modules.get(card.id);
        return module ? (
          <ModuleCard
            key={card.id}
            card={card}
            module={module}
            catalogue={catalogue}
            measure={measures?.[mainOutput(module, catalogue) ?? ""]}
            isNew={!older.has(card.id)}
            selected={selected === card.id}
            onSelect={onSelect}
          />
        ) : null;
      })}
      <g
        className="font-work text-[12.5px]"
        style={{ paintOrder: "stroke" }}
        stroke="var(--color-paper)"
        strokeWidth="4"
      >
        {drawn.lines.map((line) => (
          <text
            key={line.key}
            x={line.labelAt.x}
            y={line.labelAt.y}
            textAnchor={line.labelAt.anchor}
            fill="var(--color-ink)"
          >
            {line.label}
          </text>
        ))}
      </g>
    </svg>
  );
}

const lineKey = (one: { from: string; to: string }) => `${one.from}>${one.to}`;

function Wire({ line, isNew }: { line: Line; isNew: boolean }) {
  const stroke = STROKES[line.kind];
  return (
    <path
      d={rounded(line)}
      data-line={line.key}
      stroke={isNew ? "var(--color-ink)" : "#8b9499"}
      strokeWidth={stroke.width}
      strokeDasharray={stroke.dash}
      strokeLinecap={line.kind === "pitch" ? "round" : "butt"}
    />
  );
}

/** The line with its corners rounded. */
function rounded(line: Line): string {
  const radius = 6;
  return line.points
    .map((point, place) => {
      const before = line.points[place - 1];
      const after = line.points[place + 1];
      if (!before) return `M${point.x} ${point.y}`;
      if (!after) return `L${point.x} ${point.y}`;
      const [a, b] = [towards(point, before, radius), towards(point, after, radius)];
      return `L${a.x} ${a.y}Q${point.x} ${point.y} ${b.x} ${b.y}`;
    })
    .join("");
}

function towards(from: { x: number; y: number }, to: { x: number; y: number }, distance: number) {
  const length = Math.hypot(to.x - from.x, to.y - from.y) || 1;
  const part = Math.min(distance, length / 2) / length;
  return { x: from.x + (to.x - from.x) * part, y: from.y + (to.y - from.y) * part };
}

interface CardProps {
  card: Card;
  module: Module;
  catalogue: Catalogue;
  measure: Measure | undefined;
  isNew: boolean;
  selected: boolean;
  onSelect: (id: string) => void;
}

function ModuleCard({ card, module, catalogue, measure, isNew, selected, onSelect }: CardProps) {
  const title = titleOf(module, catalogue);
  const kind = kindText(module, catalogue);
  const level = levelText(module, catalogue, measure);
  return (
    <g
      role="button"
      tabIndex={0}
      aria-pressed={selected}
      data-card={module.id}
      className="group cursor-pointer outline-none"
      style={{ transform: `translate(${card.x}px, ${card.y}px)`, transition: "transform 180ms ease-out" }}
      onClick={() => onSelect(module.id)}
      onKeyDown={(event) => {
        if (event.key === "Enter" || event.key === " ") {
          event.preventDefault();
          event.stopPropagation();
          onSelect(module.id);
        }
      }}
    >
      <rect
        x="-5"
        y="-5"
        width={CARD.width + 10}
        height={CARD.height + 10}
        rx="8"
        fill="none"
        className="stroke-transparent group-focus-visible:stroke-this"
        strokeWidth="2"
      />
      <rect
        width={CARD.width}
        height={CARD.height}
        rx="5"
        fill="var(--color-leaf)"
        stroke={selected ? "var(--color-this)" : isNew ? "var(--color-ink)" : "var(--color-firm)"}
        strokeWidth={selected ? 2.4 : isNew ? 1.4 : 1}
      />
      <text
        x="9"
        y="19"
        className={`font-read text-[15px] ${isNew ? "font-semibold" : "font-medium"}`}
        fill="currentColor"
      >
        {title}
      </text>
      <text x="9" y="34" className="font-work text-[12px]" fill="var(--color-soft)">
        {kind}
      </text>
      <text
        x={CARD.width - 9}
        y="34"
        textAnchor="end"
        className="font-work text-[12px]"
        fill="var(--color-soft)"
      >
        {level}
      </text>
      <path
        transform="translate(9, 40)"
        d={outlinePath(measure, CARD.width - 18, CARD.height - 47)}
        fill={isNew || selected ? "var(--color-ink)" : "#7d868b"}
        stroke={isNew || selected ? "var(--color-ink)" : "#7d868b"}
        strokeWidth="1"
        strokeLinejoin="round"
      />
    </g>
  );
}

const dbText = (level: number) => `${level > 0 ? "+" : ""}${trimmed(level)} dB`;

/** What the card says beneath the name: the type, or what it is set to be where that says more. */
function kindText(module: Module, catalogue: Catalogue): string {
  const type = catalogue.get(module.type);
  if (!type) return module.type;
  const main = type.choices.find((choice) => choice.name === "wave" || choice.name === "mode");
  if (!main) return type.title.toLowerCase();
  const word = main.words[main.options.indexOf(settingOf(module, type, main.name))] ?? "";
  const slope = type.choices.some((choice) => choice.name === "slope")
    ? ` ${settingOf(module, type, "slope")}`
    : "";
  return `${word}${slope}`;
}

function levelText(module: Module, catalogue: Catalogue, measure: Measure | undefined): string {
  const name = mainOutput(module, catalogue);
  const kind = catalogue.get(module.type)?.outputs.find((output) => name?.endsWith(`.${output.name}`))?.kind;
  if (!measure) return "";
  if (kind !== "audio") return readable(measure) ? `to ${trimmed(measure.greatest, 2)}` : "still";
  const peak = Math.max(Math.abs(measure.least), Math.abs(measure.greatest));
  return peak < 1e-4 ? "silent" : dbText(Math.round(decibels(peak)));
}
