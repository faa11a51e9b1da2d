import {
  type KeyboardEvent,
  type PointerEvent,
  type Ref,
  useImperativeHandle,
  useMemo,
  useState,
} from "react";

import type { Connection, Ends, Finding, Measure, Patch } from "../api/client";
import { type Catalogue, endsOf, lineKey, mainOutput, split } from "../api/patch";
import { flowOf, neighbours } from "./flow";
import { AFAR, type Card, layout, type Line, NEAR, type Point } from "./layout";
import { type Heard, ModuleCard } from "./ModuleCard";
import { shownMeasure, shownOf } from "./sections";
import { useView } from "./useView";
import { Wire } from "./Wire";

/** What can be done with the map from outside: by keys and by buttons. */
export interface MapHandle {
  zoomBy: (factor: number) => void;
  fit: () => void;
  closeUp: () => void;
  focusCard: (id: string) => void;
}

interface Props {
  patch: Patch;
  /** The patch of the step before: what it does not have is drawn in ink, the rest lighter. */
  before: Patch | undefined;
  catalogue: Catalogue;
  measures: Record<string, Measure> | undefined;
  findings: Finding[];
  /** For a silent patch, the modules that still give sound. */
  reach: string[] | undefined;
  heard: (id: string) => Heard | undefined;
  selected: string[];
  line: Ends | undefined;
  renaming: string | undefined;
  onSelect: (ids: string[]) => void;
  onLine: (ends: Ends) => void;
  /** Without it nothing can be changed. */
  onConnect: ((from: string, to: string | undefined) => void) | undefined;
  onOpen: (id: string) => void;
  onRenamed: (id: string, label: string | undefined) => void;
  ref: Ref<MapHandle>;
}

const FAR_TEXT_PX = 11.3;

const ARROWS: Record<string, [x: number, y: number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** The patch as a line diagram that is computed, with the outline of every module's real signal. */
export function PatchMap({ ref, patch, catalogue, ...props }: Props) {
  const { before, measures, findings, selected, line: chosenLine } = props;
  const shown = useMemo(() => shownOf(patch, catalogue), [patch, catalogue]);
  const near = useMemo(() => layout(shown.patch, shown.catalogue, NEAR), [shown]);
  const afar = useMemo(() => layout(shown.patch, shown.catalogue, AFAR), [shown]);
  const { drawn, frame, setFrame, viewBox, scale, zoomBy, fit, showOnly, pan } = useView(near, afar);
  const [hovered, setHovered] = useState<string | Ends>();
  const [focused, setFocused] = useState<string>();
  const [around, setAround] = useState<Set<string>>();
  const pull = usePull(props.onConnect);

  const modules = new Map(shown.patch.modules.map((module) => [module.id, module]));
  const sections = new Map(patch.sections.map((section) => [section.id, section]));
  const older = new Set((before?.modules ?? []).map((module) => module.id));
  const oldLines = new Set((before?.connections ?? []).map(lineKey));
  const looked = typeof hovered === "string" && !modules.has(hovered) ? undefined : hovered;
  const flow = flowOf(shown.patch, looked ?? chosenLine);
  const lit = flow ?? flowOf(shown.patch, focused);
  const far = drawn === afar ? FAR_TEXT_PX / scale : undefined;
  const lost = props.reach && findings.find((one) => one.code === "no-sound")?.module;
  const focusable = modules.has(selected[0] ?? "") ? selected[0] : drawn.cards[0]?.id;

  const focusCard = (id: string) =>
    frame?.querySelector<SVGGElement>(`[data-card="${CSS.escape(id)}"]`)?.focus();
  const closeUp = () => {
    const close = focusable === undefined ? new Set<string>() : neighbours(shown.patch, focusable);
    if (around || close.size === 0) {
      setAround(undefined);
      fit();
    } else {
      setAround(close);
      showOnly(close);
    }
  };
  useImperativeHandle(ref, () => ({
    zoomBy,
    fit: () => {
      setAround(undefined);
      fit();
    },
    closeUp,
    focusCard,
  }));

  const select = (id: string, more: boolean) => {
    if (!more) props.onSelect([id]);
    else if (selected.includes(id)) props.onSelect(selected.filter((one) => one !== id));
    else props.onSelect([id, ...selected]);
  };

  const keyed = (event: KeyboardEvent, card: Card) => {
    const way = ARROWS[event.key];
    if (way) {
      const next = nearest(drawn.cards, card, way);
      if (next) {
        select(next.id, event.shiftKey);
        focusCard(next.id);
      }
    } else if (event.key === "Enter" || event.key === " ") select(card.id, false);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };

  const lightOf = (line: Line) => {
    if (around) return line.connections.every((one) => around.has(split(one.to)[0])) ? "plain" : "dim";
    if (!lit) return "plain";
    if (line.connections.some((one) => lit.lines.has(lineKey(one)))) return "lit";
    return flow ? "dim" : "plain";
  };
  const real = (connection: Connection) => shown.behind.get(lineKey(connection)) ?? [connection];
  const realEnds = (line: Line) => line.connections.flatMap(real);
  const isChosen = (line: Line) =>
    chosenLine !== undefined && realEnds(line).some((one) => lineKey(one) === lineKey(chosenLine));
  const isEmpty = (line: Line) => props.reach !== undefined && !props.reach.includes(line.from);

  return (
    <svg
      ref={setFrame}
      role="group"
      aria-label="Map of the patch"
      viewBox={viewBox}
      data-scale={scale.toFixed(3)}
      className="h-full w-full touch-none select-none"
      {...pan}
      onClick={(event) => event.target === event.currentTarget && props.onSelect([])}
    >
      <g fill="none" strokeLinejoin="round">
        {drawn.lines.map((line) => (
          <Wire
            key={line.key}
            line={line}
            isNew={!realEnds(line).every((one) => oldLines.has(lineKey(one)))}
            light={lightOf(line)}
            selected={isChosen(line)}
            off={line.connections.every((one) => one.off === true)}
            empty={isEmpty(line) && line.kind === "audio"}
            onSelect={() => realEnds(line).slice(0, 1).map(endsOf).forEach(props.onLine)}
            onHover={(on) => setHovered(on ? line.connections[0] : undefined)}
          />
        ))}
      </g>
      {drawn.cards.map((card) => {
        const module = modules.get(card.id);
        if (!module) return null;
        const section = sections.get(card.id);
        const members = section?.modules ?? [card.id];
        const main = mainOutput(module, catalogue);
        return (
          <ModuleCard
            key={card.id}
            card={card}
            size={drawn.card}
            module={module}
            catalogue={shown.catalogue}
            measure={section ? shownMeasure(section, measures) : measures?.[main ?? ""]}
            isNew={!members.every((one) => older.has(one))}
            selected={selected.includes(card.id)}
            reachable={card.id === focusable}
            dim={around ? !around.has(card.id) : typeof looked === "string" && !flow?.modules.has(card.id)}
            heard={props.heard(card.id)}
            section={patch.sections.find((one) => one.open && one.modules.includes(card.id))?.label}
            findings={findings.filter((one) => members.includes(one.module)).length}
            lost={lost !== undefined && members.includes(lost)}
            far={far}
            renaming={props.renaming === card.id}
            onSelect={(more) => select(card.id, more)}
            onOpen={() => props.onOpen(card.id)}
            onRenamed={(label) => {
              props.onRenamed(card.id, label);
              focusCard(card.id);
            }}
            onKey={(event) => keyed(event, card)}
            onHover={(on) => setHovered(on ? card.id : undefined)}
            onFocus={(on) => setFocused(on ? card.id : undefined)}
            onGrip={section || !main || !props.onConnect ? undefined : (event) => pull.begin(event, main)}
          />
        );
      })}
      <g
        className="pointer-events-none font-work text-[12.5px]"
        style={{ paintOrder: "stroke" }}
        stroke="var(--color-paper)"
        strokeWidth="4"
      >
        {drawn.lines.map((line) =>
          far === undefined || isChosen(line) ? (
            <text
              key={line.key}
              x={line.labelAt.x}
              y={line.labelAt.y}
              textAnchor={line.labelAt.anchor}
              fontSize={far}
              fill="var(--color-ink)"
              opacity={lightOf(line) === "dim" ? 0.3 : 1}
            >
              {line.label}
            </text>
          ) : null,
        )}
      </g>
      {pull.line && (
        <path
          d={`M${pull.line[0].x} ${pull.line[0].y}L${pull.line[1].x} ${pull.line[1].y}`}
          stroke="var(--color-this)"
          strokeWidth="2"
          className="pointer-events-none"
        />
      )}
    </svg>
  );
}

/** The card that lies nearest in a direction. */
function nearest(cards: Card[], from: Card, [x, y]: [number, number]): Card | undefined {
  const ahead = (card: Card) => (card.x - from.x) * x + (card.y - from.y) * y;
  const aside = (card: Card) => Math.abs((card.x - from.x) * y) + Math.abs((card.y - from.y) * x);
  const cost = (card: Card) => ahead(card) + 2.5 * aside(card);
  return cards.filter((card) => ahead(card) > AFAR.height / 2).toSorted((a, b) => cost(a) - cost(b))[0];
}

/** Pulling a line from a card to another one; let go where it was taken up, it asks where to lead. */
function usePull(onConnect: Props["onConnect"]) {
  const [line, setLine] = useState<[Point, Point]>();
  const begin = (event: PointerEvent, from: string) => {
    event.stopPropagation();
    const grip = event.currentTarget;
    const svg = grip.closest("svg");
    const matrix = svg?.getScreenCTM()?.inverse();
    if (!svg || !matrix) return;
    const at = (one: globalThis.PointerEvent | PointerEvent): Point =>
      new DOMPoint(one.clientX, one.clientY).matrixTransform(matrix);
    const start = at(event);
    const move = (moved: globalThis.PointerEvent) => setLine([start, at(moved)]);
    const drop = (dropped: globalThis.PointerEvent) => {
      window.removeEventListener("pointermove", move);
      setLine(undefined);
      const under = document.elementFromPoint(dropped.clientX, dropped.clientY);
      const target = under?.closest<SVGGElement>("[data-card]")?.dataset["card"];
      onConnect?.(from, target === split(from)[0] ? undefined : target);
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", drop, { once: true });
  };
  return { begin, line };
}
