import type { KeyboardEvent, MouseEvent, PointerEvent } from "react";

import type { Measure, Module, StepMark } from "../api/client";
import { type Catalogue, titleOf } from "../api/patch";
import { NumberOnMap } from "./MapMarks";
import { CardFace, kindText, levelText } from "./CardFace";
import type { Size } from "./grid";
import type { Card, Detail } from "./layout";
import { SECTION } from "./sections";

/** How a card is being listened to, if in another way than the lesson says. */
export type Heard = "muted" | "alone" | "bypassed";

interface Props {
  card: Card;
  size: Size;
  detail: Detail;
  module: Module;
  catalogue: Catalogue;
  measure: Measure | undefined;
  measures: Record<string, Measure> | undefined;
  silence: string | undefined;
  isNew: boolean;
  selected: boolean;
  /** Whether the Tab key comes here: one card of the map has it. */
  reachable: boolean;
  dim: boolean;
  heard: Heard | undefined;
  /** The name of the open section that it belongs to. */
  section: string | undefined;
  findings: number;
  lost: boolean;
  mark: StepMark | undefined;
  /** By how much texts grow where the whole map is drawn smaller than it is. */
  growth: number;
  renaming: boolean;
  onSelect: (more: boolean) => void;
  onOpen: () => void;
  onRenamed: (label: string | undefined) => void;
  onKey: (event: KeyboardEvent) => void;
  onHover: (hovered: boolean) => void;
  onFocus: (focused: boolean) => void;
  onGrip: ((event: PointerEvent) => void) | undefined;
}

/** A module: its name, its type, the outline and the level of its real signal. */
export function ModuleCard(props: Props) {
  const { card, size, module, catalogue, growth, mark } = props;
  const title = titleOf(module, catalogue);
  return (
    <g
      role="button"
      tabIndex={props.reachable ? 0 : -1}
      aria-pressed={props.selected}
      aria-description={spoken(props, title)}
      data-card={module.id}
      opacity={props.dim ? 0.4 : 1}
      className="group cursor-pointer outline-none"
      style={{
        transform: `translate(${card.x}px, ${card.y}px)`,
        transition: "transform 180ms ease-out, opacity 120ms",
      }}
      onClick={(event: MouseEvent) => props.onSelect(event.shiftKey || event.ctrlKey || event.metaKey)}
      onDoubleClick={props.onOpen}
      onKeyDown={props.onKey}
      onFocus={(event) => props.onFocus(event.currentTarget.matches(":focus-visible"))}
      onBlur={() => props.onFocus(false)}
      onPointerEnter={() => props.onHover(true)}
      onPointerLeave={() => props.onHover(false)}
    >
      <Frame {...props} />
      <CardFace {...props} title={title} purpose={mark?.purpose ?? ""} />
      {props.findings > 0 && <Mark findings={props.findings} at={size.width - 4} scale={growth} />}
      {typeof mark?.number === "number" && <NumberOnMap number={mark.number} x={0} y={0} scale={growth} />}
      {props.onGrip && props.selected && (
        <circle
          data-grip-of={module.id}
          cx={size.width}
          cy={size.height / 2}
          r={6 * growth}
          fill="var(--color-leaf)"
          stroke="var(--color-this)"
          strokeWidth="2"
          className="cursor-crosshair"
          onPointerDown={props.onGrip}
        />
      )}
      {props.renaming && (
        <NameField title={module.label} hint={title} width={size.width} onDone={props.onRenamed} />
      )}
    </g>
  );
}

function strokeOf({ lost, selected, isNew }: Props): string {
  if (lost) return "var(--color-warn)";
  if (selected) return "var(--color-this)";
  return isNew ? "var(--color-ink)" : "var(--color-firm)";
}

/** The edge of the card, double for a section, and around it the mark of the keyboard's focus. */
function Frame(props: Props) {
  const { size, module, selected, isNew, lost } = props;
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
        stroke={strokeOf(props)}
        strokeWidth={selected || lost ? 2.4 : isNew ? 1.4 : 1}
        strokeDasharray={props.heard === "muted" ? "3 3" : undefined}
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
function spoken(props: Props, title: string): string {
  const { module, catalogue, measure, findings, mark } = props;
  const parts = [title, kindText(module, catalogue), props.heard ?? levelText(module, catalogue, measure)];
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
