import { type KeyboardEvent, type PointerEvent, useImperativeHandle, useMemo, useState } from "react";

import type { Connection, Ends, Finding, Measure, Module, Patch, StepMark } from "../api/client";
import { type Catalogue, endsOf, lineKey, mainOutput, split, titleOf } from "../api/patch";
import { saysPurpose } from "./CardFace";
import { flowOf, neighbours } from "./flow";
import type { Point } from "./grid";
import { LABEL_SIZE } from "./labels";
import type { Card, Layout, Line } from "./layout";
import { type Heard, ModuleCard } from "./ModuleCard";
import { sectionsAround, type Shown, shownMeasure, shownOf } from "./sections";
import { useLayouts } from "./useLayouts";
import { useSize, useView } from "./useView";
import { markOfCard, markOfLine, NumberOnMap, numbersOnLines, PurposeOnMap, purposesOf } from "./MapMarks";
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
  /** Why those modules are silent that are. */
  silences: Record<string, string> | undefined;
  findings: Finding[];
  marks: StepMark[];
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
  /** Takes the map while it is there. */
  hold: ((handle: MapHandle | null) => void) | undefined;
  /** How much larger than usual all is drawn: for a projector. */
  zoom: number;
}

const ARROWS: Record<string, [x: number, y: number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** The patch as a line diagram that is computed, with the outline of every module's real signal. */
export function PatchMap(props: Props) {
  const { patch, catalogue, selected } = props;
  const shown = useMemo(() => shownOf(patch, catalogue), [patch, catalogue]);
  const [frame, setFrame] = useState<SVGSVGElement | null>(null);
  const size = useSize(frame);
  const view = useView(
    frame,
    size,
    useLayouts(shown, size, props.zoom, purposesOf(props.marks, patch)),
    props.zoom,
  );
  const light = useLight(shown.patch, props.line);
  const { drawn, viewBox, scale, zoomBy, pan } = view;
  const present = new Set(shown.patch.modules.map((module) => module.id));
  const focusable = present.has(selected[0] ?? "") ? selected[0] : drawn.cards[0]?.id;
  const { around, fit, closeUp } = useCloseUp(view, shown.patch, focusable);
  const pull = usePull(props.onConnect);
  const focusCard = (id: string) =>
    frame?.querySelector<SVGGElement>(`[data-card="${CSS.escape(id)}"]`)?.focus();
  useImperativeHandle(props.hold, () => ({ zoomBy, fit, closeUp, focusCard }));
  const drawing: Drawing = {
    ...props,
    ...{ shown, light, around, focusable, pull, focusCard, drawn },
    growth: drawn.detail === "names" ? Math.max(1, props.zoom / scale) : 1,
  };
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
      <Wires {...drawing} />
      <Cards {...drawing} />
      <Labels {...drawing} />
      <LineNumbers {...drawing} />
      <Caption {...drawing} />
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

/** What all parts of the drawing stand on. */
interface Drawing extends Omit<Props, "hold"> {
  shown: Shown;
  drawn: Layout;
  light: Light;
  /** The cards of a close-up, if there is one. */
  around: Set<string> | undefined;
  /** The card that the Tab key comes to. */
  focusable: string | undefined;
  /** By how much texts grow where the whole map is drawn smaller than it is. */
  growth: number;
  pull: ReturnType<typeof usePull>;
  focusCard: (id: string) => void;
}

/** What the pointer or the keys are at, and the flow that it lights up. */
function useLight(patch: Patch, chosenLine: Ends | undefined) {
  const [hovered, setHovered] = useState<string | Ends>();
  const [focused, setFocused] = useState<string>();
  const gone = typeof hovered === "string" && !patch.modules.some((one) => one.id === hovered);
  const looked = gone ? undefined : hovered;
  const flow = flowOf(patch, looked ?? chosenLine);
  return { looked, focused, flow, lit: flow ?? flowOf(patch, focused), setHovered, setFocused };
}

type Light = ReturnType<typeof useLight>;

/** Shows what is around a card, or the whole map again. */
function useCloseUp(view: ReturnType<typeof useView>, patch: Patch, focusable: string | undefined) {
  const [around, setAround] = useState<Set<string>>();
  const fit = () => {
    setAround(undefined);
    view.fit();
  };
  const closeUp = () => {
    const close = focusable === undefined ? new Set<string>() : neighbours(patch, focusable);
    if (around || close.size === 0) fit();
    else {
      setAround(close);
      view.showOnly(close);
    }
  };
  return { around, fit, closeUp };
}

/** The connections of the patch that a drawn line stands for. */
const realEnds = (line: Line, shown: Shown): Connection[] =>
  line.connections.flatMap((one) => shown.behind.get(lineKey(one)) ?? [one]);

function isChosen(line: Line, { shown, line: chosen }: Drawing): boolean {
  return chosen !== undefined && realEnds(line, shown).some((one) => lineKey(one) === lineKey(chosen));
}

function lightOf(line: Line, { around, light }: Drawing) {
  if (around) return line.connections.every((one) => around.has(split(one.to)[0])) ? "plain" : "dim";
  const { lit, flow } = light;
  if (!lit) return "plain";
  if (line.connections.some((one) => lit.lines.has(lineKey(one)))) return "lit";
  return flow ? "dim" : "plain";
}

function Wires(drawing: Drawing) {
  const { drawn, shown, before, reach, light, onLine } = drawing;
  const oldLines = new Set((before?.connections ?? []).map(lineKey));
  return (
    <g fill="none" strokeLinejoin="round">
      {drawn.lines.map((line) => (
        <Wire
          key={line.key}
          line={line}
          isNew={!realEnds(line, shown).every((one) => oldLines.has(lineKey(one)))}
          light={lightOf(line, drawing)}
          selected={isChosen(line, drawing)}
          off={line.connections.every((one) => one.off === true)}
          empty={reach !== undefined && !reach.includes(line.from) && line.kind === "audio"}
          onSelect={() => realEnds(line, shown).slice(0, 1).map(endsOf).forEach(onLine)}
          onHover={(on) => light.setHovered(on ? line.connections[0] : undefined)}
        />
      ))}
    </g>
  );
}

function Cards(drawing: Drawing) {
  const { drawn, shown } = drawing;
  const modules = new Map(shown.patch.modules.map((module) => [module.id, module]));
  return drawn.cards.map((card) => {
    const module = modules.get(card.id);
    return module && <OneCard key={card.id} {...drawing} card={card} module={module} />;
  });
}

/** The name of the innermost open section that a card stands in; the inspector names those around it, too. */
const openAround = (patch: Patch, id: string): string | undefined =>
  sectionsAround(patch, id).find((one) => one.open)?.label;

function OneCard({ card, module, ...drawing }: Drawing & { card: Card; module: Module }) {
  const { patch, before, measures, findings, light, around, pull, selected, focusCard } = drawing;
  const section = patch.sections.find((one) => one.id === card.id);
  const members = section?.modules ?? [card.id];
  const older = new Set((before?.modules ?? []).map((one) => one.id));
  const main = mainOutput(module, drawing.catalogue);
  const lost = drawing.reach && findings.find((one) => one.code === "no-sound")?.module;
  const beside = typeof light.looked === "string" && !light.flow?.modules.has(card.id);
  const select = (id: string, more: boolean) => drawing.onSelect(more ? toggled(selected, id) : [id]);
  return (
    <ModuleCard
      card={card}
      size={drawing.drawn.card}
      detail={drawing.drawn.detail}
      measures={measures}
      silence={drawing.silences?.[card.id]}
      module={module}
      catalogue={drawing.shown.catalogue}
      measure={section ? shownMeasure(section, measures) : measures?.[main ?? ""]}
      isNew={!members.every((one) => older.has(one))}
      selected={selected.includes(card.id)}
      reachable={card.id === drawing.focusable}
      dim={around ? !around.has(card.id) : beside}
      heard={drawing.heard(card.id)}
      section={openAround(patch, card.id)}
      findings={findings.filter((one) => members.includes(one.module)).length}
      mark={markOfCard(drawing.marks, card.id)}
      lost={lost !== undefined && members.includes(lost)}
      growth={drawing.growth}
      renaming={drawing.renaming === card.id}
      onSelect={(more) => select(card.id, more)}
      onOpen={() => drawing.onOpen(card.id)}
      onRenamed={(label) => {
        drawing.onRenamed(card.id, label);
        focusCard(card.id);
      }}
      onKey={(event) => keyed(event, card, drawing.drawn.cards, select, focusCard)}
      onHover={(on) => light.setHovered(on ? card.id : undefined)}
      onFocus={(on) => light.setFocused(on ? card.id : undefined)}
      onGrip={section || !main || !drawing.onConnect ? undefined : (event) => pull.begin(event, main)}
    />
  );
}

const toggled = (selected: string[], id: string) =>
  selected.includes(id) ? selected.filter((one) => one !== id) : [id, ...selected];

/** The arrow keys go from card to card, Enter and the space bar select. */
function keyed(
  event: KeyboardEvent,
  card: Card,
  cards: Card[],
  select: (id: string, more: boolean) => void,
  focusCard: (id: string) => void,
): void {
  const way = ARROWS[event.key];
  const next = way && nearest(cards, card, way);
  if (next) {
    select(next.id, event.shiftKey);
    focusCard(next.id);
  } else if (event.key === "Enter" || event.key === " ") select(card.id, false);
  else if (!way) return;
  event.preventDefault();
  event.stopPropagation();
}

/** What stands beside the lines. */
function Labels(drawing: Drawing) {
  const { drawn } = drawing;
  const lines = new Map(drawn.lines.map((line) => [line.key, line]));
  return (
    <g
      className="pointer-events-none font-work"
      style={{ paintOrder: "stroke" }}
      stroke="var(--color-paper)"
      strokeWidth="4"
      strokeLinejoin="round"
      fontSize={LABEL_SIZE}
    >
      {drawn.labels.map(({ key, x, y, text }) => {
        const line = lines.get(key);
        return (
          <text
            key={key}
            x={x}
            y={y}
            fill="var(--color-ink)"
            opacity={line && lightOf(line, drawing) === "dim" ? 0.3 : 1}
          >
            {text}
          </text>
        );
      })}
    </g>
  );
}

/** The numbers of the marks on lines. */
function LineNumbers({ drawn, shown, marks, growth }: Drawing) {
  const numbers = new Map(
    drawn.lines.flatMap((line): [string, number][] => {
      const number = markOfLine(marks, realEnds(line, shown).map(lineKey))?.number;
      return typeof number === "number" ? [[line.key, number]] : [];
    }),
  );
  return numbersOnLines(drawn, numbers).map((one) => (
    <NumberOnMap key={one.number} {...one} scale={growth} />
  ));
}

/** What the card or line is for that is pointed at, has the focus or is chosen, if that does not stand there. */
function Caption(drawing: Drawing) {
  const { light, line: chosen, drawn, growth } = drawing;
  const looked = light.looked ?? light.focused ?? chosen;
  const said =
    typeof looked === "string" ? cardsPurpose(looked, drawing) : looked && linesPurpose(looked, drawing);
  return said ? <PurposeOnMap {...said} drawn={drawn} scale={growth} /> : null;
}

function cardsPurpose(id: string, { drawn, marks, shown, findings }: Drawing) {
  const card = drawn.cards.find((one) => one.id === id);
  const purpose = markOfCard(marks, id)?.purpose;
  const module = shown.patch.modules.find((one) => one.id === id);
  if (!card || !purpose || !module) return undefined;
  const face = {
    title: titleOf(module, shown.catalogue),
    size: drawn.card,
    findings: findings.filter((one) => one.module === id).length,
    purpose,
  };
  if (drawn.detail === "pictures" && saysPurpose(face)) return undefined;
  return { text: purpose, at: { x: card.x, y: card.y + drawn.card.height + 5 } };
}

function linesPurpose(ends: Ends, { drawn, marks, shown }: Drawing) {
  const keys = (line: Line) => realEnds(line, shown).map(lineKey);
  const line = drawn.lines.find((one) => keys(one).includes(lineKey(ends)));
  const purpose = line && markOfLine(marks, keys(line))?.purpose;
  const end = line?.points.at(-1);
  const said = drawn.labels.some(({ key, text }) => key === line?.key && purpose && text.includes(purpose));
  return purpose && end && !said ? { text: purpose, at: { x: end.x - 60, y: end.y + 12 } } : undefined;
}

const AHEAD = 15;

/** The card that lies nearest in a direction. */
function nearest(cards: Card[], from: Card, [x, y]: [number, number]): Card | undefined {
  const ahead = (card: Card) => (card.x - from.x) * x + (card.y - from.y) * y;
  const aside = (card: Card) => Math.abs((card.x - from.x) * y) + Math.abs((card.y - from.y) * x);
  const cost = (card: Card) => ahead(card) + 2.5 * aside(card);
  return cards.filter((card) => ahead(card) > AHEAD).toSorted((a, b) => cost(a) - cost(b))[0];
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
