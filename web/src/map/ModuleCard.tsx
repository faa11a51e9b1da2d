import type { KeyboardEvent, MouseEvent, PointerEvent } from "react";

import type { StepMark } from "../api/client";
import { NumberOnMap } from "./MapMarks";
import { CardFace, type Face, kindText, levelText } from "./CardFace";
import type { Card } from "./layout";
import { SECTION } from "./sections";

/** How a card is being listened to, if in another way than the lesson says. */
export type Heard = "muted" | "alone" | "bypassed";

/** A card: its face, and what else is so of it. */
export interface Shown extends Face {
  /** Whether the Tab key comes here: one card of the map has it. */
  reachable: boolean;
  dim: boolean;
  mark: StepMark | undefined;
  renaming: boolean;
}

/** What is done with a card. */
export interface Hands {
  select: (more: boolean) => void;
  open: () => void;
  renamed: (label: string | undefined) => void;
  key: (event: KeyboardEvent) => void;
  hover: (hovered: boolean) => void;
  focus: (focused: boolean) => void;
  grip: ((event: PointerEvent) => void) | undefined;
}

/** A module: its name, its type, the outline and the level of its real signal. */
export function ModuleCard({ card, shown, on }: { card: Card; shown: Shown; on: Hands }) {
  const { size, module, catalogue, measure, findings, heard, growth, mark, title } = shown;
  return (
    <g
      role="button"
      tabIndex={shown.reachable ? 0 : -1}
      aria-pressed={shown.selected}
      aria-description={spoken({ title, module, catalogue, measure, findings, heard, mark })}
      data-card={module.id}
      opacity={shown.dim ? 0.4 : 1}
      className="group cursor-pointer outline-none"
      style={{
        transform: `translate(${card.x}px, ${card.y}px)`,
        transition: "transform 180ms ease-out, opacity 120ms",
      }}
      onClick={(event: MouseEvent) => on.select(event.shiftKey || event.ctrlKey || event.metaKey)}
      onDoubleClick={on.open}
      onKeyDown={on.key}
      onFocus={(event) => on.focus(event.currentTarget.matches(":focus-visible"))}
      onBlur={() => on.focus(false)}
      onPointerEnter={() => on.hover(true)}
      onPointerLeave={() => on.hover(false)}
    >
      <Frame shown={shown} />
      <CardFace face={shown} />
      {findings > 0 && <Mark findings={findings} at={size.width - 4} scale={growth} />}
      {typeof mark?.number === "number" && <NumberOnMap number={mark.number} x={0} y={0} scale={growth} />}
      {on.grip && shown.selected && (
        <circle
          data-grip-of={module.id}
          cx={size.width}
          cy={size.height / 2}
          r={6 * growth}
          fill="var(--color-leaf)"
          stroke="var(--color-this)"
          strokeWidth="2"
          className="cursor-crosshair"
          onPointerDown={on.grip}
        />
      )}
      {shown.renaming && (
        <NameField title={module.label} hint={title} width={size.width} onDone={on.renamed} />
      )}
    </g>
  );
}

function strokeOf({ lost, selected, isNew }: Shown): string {
  if (lost) return "var(--color-warn)";
  if (selected) return "var(--color-this)";
  return isNew ? "var(--color-ink)" : "var(--color-firm)";
}

/** The edge of the card, double for a section, and around it the mark of the keyboard's focus. */
function Frame({ shown }: { shown: Shown }) {
  const { size, module, selected, isNew, lost } = shown;
  return (
    <>
      <rect
        x="-3.5"
        y="-3.5"
        width={size.width + 7}
        height={size.height + 7}
        rx="7"
        fill="none"
        className="stroke-transparent group-focus-visible:stroke-this"
        strokeWidth="2"
      />
      <rect
        width={size.width}
        height={size.height}
        rx="5"
        fill="var(--color-leaf)"
        stroke={strokeOf(shown)}
        strokeWidth={selected || lost ? 2.4 : isNew ? 1.4 : 1}
        strokeDasharray={shown.heard === "muted" ? "3 3" : undefined}
      />
      {module.type.startsWith(SECTION) && (
        <rect
          x="3"
          y="3"
          width={size.width - 6}
          height={size.height - 6}
          rx="3"
          fill="none"
          stroke="var(--color-faint)"
        />
      )}
    </>
  );
}

/** All that the card says, from afar too. */
function spoken({
  title,
  module,
  catalogue,
  measure,
  findings,
  mark,
  heard,
}: Pick<Shown, "title" | "module" | "catalogue" | "measure" | "findings" | "heard" | "mark">): string {
  const parts = [title, kindText(module, catalogue), heard ?? levelText(module, catalogue, measure)];
  if (findings > 0) parts.push(`${findings} ${findings === 1 ? "finding" : "findings"}`);
  if (mark) parts.push(mark.purpose, typeof mark.number === "number" ? `mark ${mark.number}` : "");
  return parts.filter(Boolean).join(" ");
}

function Mark({ findings, at, scale }: { findings: number; at: number; scale: number }) {
  return (
    <g transform={`translate(${at}, 4) scale(${scale})`} data-finding-mark>
      <circle r="8.5" fill="var(--color-warn)" stroke="var(--color-leaf)" strokeWidth="1.5" />
      <text y="4" textAnchor="middle" className="font-work text-[11.5px] font-semibold" fill="white">
        {findings > 1 ? findings : "!"}
      </text>
    </g>
  );
}

interface NameFieldProps {
  title: string;
  hint: string;
  width: number;
  onDone: (label: string | undefined) => void;
}

function NameField({ title, hint, width, onDone }: NameFieldProps) {
  return (
    <foreignObject x="3" y="2" width={width - 6} height="26">
      <input
        aria-label="Name of the module"
        autoFocus
        defaultValue={title}
        placeholder={hint}
        maxLength={60}
        className="w-full border-b-2 border-this bg-leaf px-1 font-read text-[15px] outline-none"
        onFocus={(event) => event.target.select()}
        onClick={(event) => event.stopPropagation()}
        onBlur={(event) => onDone(event.target.value)}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "Enter") onDone(event.currentTarget.value);
          if (event.key === "Escape") onDone(undefined);
        }}
      />
    </foreignObject>
  );
}
