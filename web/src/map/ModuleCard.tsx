import type { KeyboardEvent, MouseEvent, PointerEvent } from "react";

import type { Measure, Module } from "../api/client";
import { type Catalogue, mainOutput, settingOf, split, titleOf } from "../api/patch";
import { decibels, trimmed } from "../ui/units";
import { type Card, type CardSize, NEAR } from "./layout";
import { outlinePath, readable } from "./outline";
import { SECTION } from "./sections";

/** How a card is being listened to, if in another way than the lesson says. */
export type Heard = "muted" | "alone" | "bypassed";

interface Props {
  card: Card;
  size: CardSize;
  module: Module;
  catalogue: Catalogue;
  measure: Measure | undefined;
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
  /** Text sizes for a map that is seen from afar. */
  far: number | undefined;
  renaming: boolean;
  onSelect: (more: boolean) => void;
  onOpen: () => void;
  onRenamed: (label: string | undefined) => void;
  onKey: (event: KeyboardEvent) => void;
  onHover: (hovered: boolean) => void;
  onFocus: (focused: boolean) => void;
  onGrip: ((event: PointerEvent) => void) | undefined;
}

const GREY = "#7d868b";

/** A module: its name, its type, the outline and the level of its real signal. */
export function ModuleCard(props: Props) {
  const { card, size, module, catalogue, far } = props;
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
      {far === undefined ? <Near {...props} title={title} /> : <Far title={title} size={size} font={far} />}
      <Notes {...props} />
      {props.onGrip && props.selected && (
        <circle
          data-grip-of={module.id}
          cx={size.width}
          cy={size.height / 2}
          r={far === undefined ? 6 : far / 2}
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
        x="-5"
        y="-5"
        width={size.width + 10}
        height={size.height + 10}
        rx="8"
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
        <rect x="3" y="3" width={size.width - 6} height={size.height - 6} rx="3" fill="none" stroke={GREY} />
      )}
    </>
  );
}

/** What stands at the card's upper edge: its section, what is to be looked at, where the sound is lost. */
function Notes({ section, far, lost, findings, size }: Props) {
  return (
    <>
      {section !== undefined && far === undefined && !lost && (
        <text x="2" y="-8" className="font-work text-[11.5px]" fill="var(--color-soft)">
          {section}
        </text>
      )}
      {findings > 0 && (
        <Mark findings={findings} at={size.width - 4} scale={far === undefined ? 1 : far / 13} />
      )}
      {lost && far === undefined && (
        <text y={-9} className="font-work text-[12.5px] font-semibold" fill="var(--color-warn)">
          the sound is lost here
        </text>
      )}
    </>
  );
}

/** All that the card says, from afar too. */
function spoken(props: Props, title: string): string {
  const { module, catalogue, measure, findings } = props;
  const parts = [title, kindText(module, catalogue), props.heard ?? levelText(module, catalogue, measure)];
  if (findings > 0) parts.push(`${findings} ${findings === 1 ? "finding" : "findings"}`);
  return parts.filter(Boolean).join(" ");
}

function Near({ module, catalogue, measure, isNew, selected, heard, title }: Props & { title: string }) {
  const ink = isNew || selected ? "var(--color-ink)" : GREY;
  return (
    <>
      <text
        x="9"
        y="19"
        className={`font-read text-[15px] ${isNew ? "font-semibold" : "font-medium"}`}
        fill="currentColor"
      >
        {short(title, 15)}
      </text>
      <text x="9" y="34" className="font-work text-[12px]" fill="var(--color-soft)">
        {heard === undefined && kindText(module, catalogue)}
      </text>
      <text
        x={NEAR.width - 9}
        y="34"
        textAnchor="end"
        className={`font-work text-[12px] ${heard ? "font-semibold" : ""}`}
        fill={heard ? "var(--color-compared-text)" : "var(--color-soft)"}
      >
        {heard ?? levelText(module, catalogue, measure)}
      </text>
      <path
        transform="translate(9, 40)"
        d={outlinePath(measure, NEAR.width - 18, NEAR.height - 47)}
        fill={ink}
        stroke={ink}
        strokeWidth="1"
        strokeLinejoin="round"
      />
    </>
  );
}

/** From afar only the name is shown, as large as it fits. */
function Far({ title, size, font }: { title: string; size: CardSize; font: number }) {
  const most = Math.floor(size.width / (font * 0.56));
  return (
    <text
      x="8"
      y={size.height / 2 + font * 0.34}
      className="font-read font-medium"
      fontSize={font}
      fill="currentColor"
    >
      {short(title, most)}
    </text>
  );
}

const short = (text: string, most: number) => (text.length > most ? `${text.slice(0, most - 1)}…` : text);

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

const dbText = (level: number) => `${level > 0 ? "+" : ""}${trimmed(level)} dB`;

/** What the card says beneath the name: the type, or what it is set to be where that says more. */
function kindText(module: Module, catalogue: Catalogue): string {
  const type = catalogue.get(module.type);
  if (!type) return module.type;
  if (module.type.startsWith(SECTION)) return "section";
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
  const outputs = catalogue.get(module.type)?.outputs;
  const kind = outputs?.find((output) => name !== undefined && split(name)[1] === output.name)?.kind;
  if (!measure) return "";
  if (kind !== "audio") return readable(measure) ? `to ${trimmed(measure.greatest, 2)}` : "still";
  const peak = Math.max(Math.abs(measure.least), Math.abs(measure.greatest));
  return peak < 1e-4 ? "silent" : dbText(Math.round(decibels(peak)));
}
