import { useEffect, useRef, useState } from "react";

import type {
  Edit,
  Instruction,
  LensWish,
  Patch,
  Phrase,
  Render,
  SpectrumData,
  WaveData,
} from "../api/client";
import { type Catalogue, connectionsOf, inputOf, modulesOf, split } from "../api/patch";
import { type Comparison, followedTap, Lenses, useLensState, wishes } from "../lenses/Lenses";
import { type MapHandle, PatchMap } from "../map/PatchMap";
import { Notice } from "../ui/Notice";
import { decibels } from "../ui/units";
import { useKeys } from "../ui/useKeys";
import { useLate } from "../ui/useLate";
import { BenchBar } from "./BenchBar";
import { CheckupPanel } from "./CheckupPanel";
import { keyTable } from "./commands";
import { ConnectPanel } from "./ConnectPanel";
import { GroupPanel } from "./GroupPanel";
import { Inspector } from "./Inspector";
import { KeyList } from "./KeyList";
import { Palette } from "./Palette";
import { ReplacePanel } from "./ReplacePanel";
import { RoutingTable } from "./RoutingTable";
import { type Sound, Transport } from "./Transport";
import { type Foot, useBenchState } from "./useBenchState";
import { perform, useCommands } from "./useCommands";
import { useEdits } from "./useEdits";
import { useListening } from "./useListening";
import { useRender } from "./useRender";

interface Props {
  stepId: string;
  patch: Patch;
  phrase: Phrase;
  /** The step before, if there is one. */
  before: { patch: Patch; phrase: Phrase } | undefined;
  instructions: Instruction[];
  catalogue: Catalogue;
  /** Without it nothing can be changed. */
  onChange?: (patch: Patch) => void;
}

const SAID_MS = 4_000;

/** The place where the patch is: the map, the lenses, the selected module, and the playing. */
export function Bench({ stepId, patch, phrase, before, instructions, catalogue, onChange }: Props) {
  const [foot, setFoot] = useState<Foot>("lenses");
  const state = useBenchState(foot, setFoot);
  const edits = useEdits(stepId, patch, onChange);
  const listening = useListening();
  const map = useRef<MapHandle>(null);
  const [lensState, setLensState] = useLensState();
  const selected = selectedIn(state.selected, patch) ?? subject(patch, instructions);
  const followed = followedTap(patch, catalogue, selected);
  const asked = wishes(lensState, followed, patch, catalogue);
  const inner = innerTap(patch, before?.patch, followed, catalogue);
  const now = useRender(patch, phrase, inner ? besideInner(asked, followed, inner) : asked, listening.wish);
  const beforeHas = before && asked.every((one) => hasTap(before.patch, one.tap));
  const earlier = useRender(before?.patch, before?.phrase, beforeHas && !inner ? asked : []);
  const busy = useLate(now.behind);
  const writing = onChange !== undefined;
  const chosen = {
    ...state,
    selected: state.line || selected === undefined ? state.selected : withFirst(selected, state.selected),
  };
  const context = { patch, catalogue, state: chosen, edits, listening, map, writing };
  const commands = useCommands(context);
  const findings = listening.active ? undefined : now.data?.findings;
  useKeys(keyTable(commands));

  const act = (moves: Edit[]) => {
    state.ask(undefined);
    void perform(context, moves);
  };
  const edit = writing ? (moves: Edit[]) => void edits.apply(moves) : undefined;
  const { said, say } = state;
  useEffect(() => {
    if (said === undefined) return undefined;
    const timer = setTimeout(() => say(undefined), SAID_MS);
    return () => clearTimeout(timer);
  }, [said, say]);

  return (
    <>
      <div
        data-render={now.data?.key}
        data-behind={now.behind}
        className={`grid min-h-0 min-w-0 grid-cols-[1fr_292px] ${
          state.wide
            ? "fixed inset-0 z-30 grid-rows-[minmax(0,1fr)_auto] bg-paper"
            : "grid-rows-[minmax(0,1fr)_auto_262px]"
        }`}
      >
        <div className="relative min-h-0 min-w-0" data-map>
          {modulesOf(patch).length === 0 && (
            <p className="absolute inset-0 m-auto h-fit w-fit max-w-sm text-center font-read text-lg text-soft">
              Nothing is here yet.{writing && " Press A and say what you need: a player, a tone, an output…"}
            </p>
          )}
          <PatchMap
            ref={map}
            patch={patch}
            before={before?.patch}
            catalogue={catalogue}
            measures={now.data?.measures}
            findings={findings ?? []}
            reach={findings?.[0]?.code === "no-sound" ? now.data?.reach : undefined}
            heard={listening.heard}
            selected={chosen.selected}
            line={state.line}
            renaming={state.renaming}
            onSelect={state.select}
            onLine={state.selectLine}
            onConnect={
              writing
                ? (port, only) => state.ask({ what: "connect", connecting: { port, into: false, only } })
                : undefined
            }
            onOpen={(id) => (isSection(patch, id) ? edit?.([opened(id)]) : writing && state.rename(id))}
            onRenamed={(id, label) => {
              state.rename(undefined);
              if (label !== undefined)
                edit?.([isSection(patch, id) ? relabelled(id, label) : renamed(id, label)]);
            }}
          />
        </div>
        <div className="overflow-y-auto border-l border-rule" tabIndex={-1}>
          <Inspector
            patch={patch}
            before={before?.patch}
            catalogue={catalogue}
            measures={now.data?.measures}
            selected={state.line ? split(state.line.to)[0] : selected}
            line={state.line}
            onLine={state.selectLine}
            onSelect={(id) => state.select([id])}
            onSet={writing ? edits.set : undefined}
            onEdit={edit}
            onConnect={writing ? (connecting) => state.ask({ what: "connect", connecting }) : undefined}
          />
        </div>
        <div className="col-span-full min-w-0">
          <BenchBar
            commands={commands}
            foot={foot}
            onFoot={setFoot}
            connections={connectionsOf(patch).length}
            findings={findings?.length}
            listening={listening.active}
            steps={edits.steps}
          />
        </div>
        {!state.wide && (
          <div
            id="foot"
            role="tabpanel"
            aria-labelledby={`tab-${foot}`}
            className="col-span-full flex min-h-0 min-w-0 flex-col border-t border-rule px-4 pt-2 pb-1"
          >
            {foot === "connections" && (
              <RoutingTable
                patch={patch}
                catalogue={catalogue}
                chosen={state.line}
                onChoose={state.selectLine}
                onEdit={edit}
              />
            )}
            {foot === "checkup" && (
              <CheckupPanel
                findings={findings}
                listening={listening.active}
                patch={patch}
                catalogue={catalogue}
                onShow={(id) => {
                  state.select([id]);
                  map.current?.focusCard(id);
                }}
                onMend={writing ? act : undefined}
              />
            )}
            {foot === "lenses" &&
              (now.error && !now.data ? (
                <Silence message={now.error.message} retry={now.retry} />
              ) : (
                <Lenses
                  patch={patch}
                  catalogue={catalogue}
                  followed={followed}
                  state={lensState}
                  onState={setLensState}
                  render={now.data}
                  behind={now.behind}
                  comparison={
                    inner ? comparison(now.data, 2, "what goes in") : comparison(earlier.data, 0, "before")
                  }
                />
              ))}
          </div>
        )}
      </div>
      <div className="col-span-full">
        <Transport
          phrase={phrase}
          sound={soundOf(now.data, patch)}
          before={before && soundOf(earlier.data, before.patch)}
          busy={busy}
          part={now.part}
          onStop={now.stop}
          trouble={now.data ? now.error?.message : undefined}
          onRetry={now.retry}
        />
      </div>
      {state.asking?.what === "add" && (
        <Palette
          patch={patch}
          catalogue={catalogue}
          selected={selected !== undefined && !isSection(patch, selected) ? selected : undefined}
          line={state.line}
          onChoose={act}
          onClose={() => state.ask(undefined)}
        />
      )}
      {state.asking?.what === "connect" && (
        <ConnectPanel
          connecting={state.asking.connecting}
          patch={patch}
          catalogue={catalogue}
          onChoose={act}
          onClose={() => state.ask(undefined)}
        />
      )}
      {state.asking?.what === "replace" && (
        <Replacing
          id={state.asking.module}
          patch={patch}
          catalogue={catalogue}
          onChoose={act}
          onClose={() => state.ask(undefined)}
        />
      )}
      {state.asking?.what === "group" && (
        <GroupPanel
          modules={state.asking.modules}
          patch={patch}
          catalogue={catalogue}
          onChoose={act}
          onClose={() => state.ask(undefined)}
        />
      )}
      {state.asking?.what === "keys" && <KeyList commands={commands} onClose={() => state.ask(undefined)} />}
      {edits.failure !== undefined ? (
        <Notice warn onClose={edits.dismiss}>
          {edits.failure}
        </Notice>
      ) : (
        said !== undefined && <Notice>{said}</Notice>
      )}
    </>
  );
}

const isSection = (patch: Patch, id: string) => patch.sections.some((section) => section.id === id);
const opened = (section: string): Edit => ({ kind: "section", section, open: true, name: "" });
const relabelled = (section: string, label: string): Edit => ({ kind: "section", section, label, name: "" });
const renamed = (module: string, label: string): Edit => ({ kind: "rename", module, label });
const withFirst = (first: string, ids: string[]) => [first, ...ids.filter((id) => id !== first)];

/** The first of the selected cards that is still there. */
function selectedIn(ids: string[], patch: Patch): string | undefined {
  return ids.find((id) => modulesOf(patch).some((one) => one.id === id) || isSection(patch, id));
}

interface ReplacingProps {
  id: string;
  patch: Patch;
  catalogue: Catalogue;
  onChoose: (edits: Edit[]) => void;
  onClose: () => void;
}

function Replacing({ id, patch, ...rest }: ReplacingProps) {
  const module = modulesOf(patch).find((one) => one.id === id);
  return module ? <ReplacePanel module={module} {...rest} /> : null;
}

function Silence({ message, retry }: { message: string; retry: () => void }) {
  return (
    <div role="alert" className="m-auto text-center">
      <p className="mb-2 font-read text-warn">{message} The patch could not be heard.</p>
      <button type="button" className="button" onClick={retry}>
        Try again
      </button>
    </div>
  );
}

/** The module that a step is about: the first that it adds, or the first that it changes. */
function subject(patch: Patch, instructions: Instruction[]): string | undefined {
  const present = new Set(modulesOf(patch).map((one) => one.id));
  const first =
    instructions.find((one) => one.kind === "add" || one.kind === "insert") ??
    instructions.find((one) => present.has(one.module));
  if (first && present.has(first.module)) return first.module;
  return modulesOf(patch).find((one) => one.type === "output")?.id;
}

/** For a module that is new in this step there is no before: then the lenses compare with what goes into it. */
function innerTap(
  patch: Patch,
  before: Patch | undefined,
  followed: string | undefined,
  catalogue: Catalogue,
) {
  if (!before || followed === undefined || hasTap(before, followed)) return undefined;
  const tap = `${split(followed)[0]}.in`;
  return inputOf(patch, tap, catalogue) ? tap : undefined;
}

/** The same moments of what goes in and of what comes out. */
const besideInner = (asked: LensWish[], followed: string | undefined, inner: string): LensWish[] => [
  ...asked.map((one) => (one.kind === "wave" ? { ...one, held_by: inner } : one)),
  ...asked.map((one) => (one.tap === followed ? { ...one, tap: inner } : one)),
];

const hasTap = (patch: Patch, tap: string) => modulesOf(patch).some((one) => one.id === split(tap)[0]);

function comparison(render: Render | undefined, from: number, legend: string): Comparison | undefined {
  const lenses = render?.lenses.slice(from, from + 2) ?? [];
  const wave = lenses.find((one): one is WaveData => one.kind === "wave");
  const spectrum = lenses.find((one): one is SpectrumData => one.kind === "spectrum");
  return wave || spectrum ? { legend, wave, spectrum } : undefined;
}

function soundOf(render: Render | undefined, patch: Patch): Sound | undefined {
  if (!render) return undefined;
  const output = modulesOf(patch).find((one) => one.type === "output");
  const sides = ["left", "right"].flatMap((side) => render.measures[`${output?.id ?? ""}.${side}`] ?? []);
  const peak = Math.max(0, ...sides.map((side) => Math.max(side.greatest, -side.least)));
  return { key: render.key, seconds: render.seconds, peakDb: peak < 1e-4 ? null : decibels(peak) };
}
