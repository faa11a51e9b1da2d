import { useImperativeHandle, useMemo, useState } from "react";

import type { Module, Patch } from "../api/client";
import { endsOf, lineKey, mainOutput, titleOf } from "../api/patch";
import { keyed } from "./byKeys";
import { Caption } from "./Caption";
import { type Drawing, isChosen, lightOf, type MapProps, realEnds, useLight } from "./drawing";
import { neighbours } from "./flow";
import { LABEL_SIZE } from "./labels";
import type { Card } from "./layout";
import { markOfCard, markOfLine, NumberOnMap, numbersOnLines, purposesOf } from "./MapMarks";
import { type Hands, ModuleCard, type Shown } from "./ModuleCard";
import { sectionsAround, shownMeasure, shownOf } from "./sections";
import { useLayouts } from "./useLayouts";
import { usePull } from "./usePull";
import { useSize, useView } from "./useView";
import { Wire } from "./Wire";

/** The patch as a line diagram that is computed, with the outline of every module's real signal. */
export function PatchMap(props: MapProps) {
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
  const { catalogue } = drawing.shown;
  const mark = markOfCard(drawing.marks, card.id);
  const shown: Shown = {
    module,
    catalogue,
    title: titleOf(module, catalogue),
    size: drawing.drawn.card,
    detail: drawing.drawn.detail,
    growth: drawing.growth,
    measures,
    measure: section ? shownMeasure(section, measures) : measures?.[main ?? ""],
    silence: drawing.silences?.[card.id],
    isNew: !members.every((one) => older.has(one)),
    selected: selected.includes(card.id),
    reachable: card.id === drawing.focusable,
    dim: around ? !around.has(card.id) : beside,
    heard: drawing.heard(card.id),
    section: openAround(patch, card.id),
    findings: findings.filter((one) => members.includes(one.module)).length,
    mark,
    purpose: mark?.purpose ?? "",
    lost: lost !== undefined && members.includes(lost),
    renaming: drawing.renaming === card.id,
  };
  const on: Hands = {
    select: (more) => select(card.id, more),
    open: () => drawing.onOpen(card.id),
    renamed: (label) => {
      drawing.onRenamed(card.id, label);
      focusCard(card.id);
    },
    key: (event) => keyed(event, card, drawing.drawn.cards, select, focusCard),
    hover: (over) => light.setHovered(over ? card.id : undefined),
    focus: (has) => light.setFocused(has ? card.id : undefined),
    grip: section || !main || !drawing.onConnect ? undefined : (event) => pull.begin(event, main),
  };
  return <ModuleCard card={card} shown={shown} on={on} />;
}

const toggled = (selected: string[], id: string) =>
  selected.includes(id) ? selected.filter((one) => one !== id) : [id, ...selected];

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
