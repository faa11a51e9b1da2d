import { type ReactNode, useEffect, useRef, useState } from "react";

import type { Edit, Instruction, Patch, Phrase, Plate, Render } from "../api/client";
import { type Catalogue, outputModule, split } from "../api/patch";
import { AgainstList } from "../lenses/AgainstList";
import { Lenses } from "../lenses/Lenses";
import type { LensesState } from "../lenses/useLenses";
import {
  AGAINST,
  behindOf,
  choicesOf,
  followedTap,
  innerTap,
  lensRule,
  type Scene,
  viewOf,
} from "../lenses/views";
import { type MapHandle, PatchMap } from "../map/PatchMap";
import { PhrasePanel } from "../phrase/PhrasePanel";
import { Notice } from "../ui/Notice";
import { decibels } from "../ui/units";
import { useKeys } from "../ui/useKeys";
import { useLate } from "../ui/useLate";
import { BenchBar } from "./BenchBar";
import { CheckupPanel } from "./CheckupPanel";
import { keyTable } from "./commands";
import { ConnectPanel } from "./ConnectPanel";
import { GroupPanel } from "./GroupPanel";
import type { Played } from "./history";
import { Inspector } from "./Inspector";
import { KeyList } from "./KeyList";
import { Palette } from "./Palette";
import { ReplacePanel } from "./ReplacePanel";
import { RoutingTable } from "./RoutingTable";
import { type Sound, Transport } from "./Transport";
import { type Foot, type LookAt, useBenchState } from "./useBenchState";
import { perform, useCommands } from "./useCommands";
import { useEdits } from "./useEdits";
import { useListening } from "./useListening";
import { useRender } from "./useRender";

interface Props {
  stepId: string;
  patch: Patch;
  phrase: Phrase;
  /** The step before, if there is one, and the last step, if that is another. */
  before: Scene | undefined;
  target: Scene | undefined;
  instructions: Instruction[];
  catalogue: Catalogue;
  lenses: LensesState;
  /** What the text points to. */
  lookAt?: LookAt | undefined;
  /** Without it nothing can be changed. */
  onChange?: (played: Played) => void;
  /** Told of every move that is still being worked out. */
  onWork?: (move: Promise<unknown>) => void;
  /** Why the phrase cannot be changed here, though the patch can. */
  phraseStays?: string;
  /** What can be done with the phrase beyond this patch. */
  phraseActions?: ReactNode;
  /** Keeps a picture in the step. */
  onPlate?: (plate: Omit<Plate, "id">) => void;
}

const SAID_MS = 4_000;

/** The place where the patch is: the map, the lenses, the selected module, and the playing. */
export function Bench({ stepId, patch, phrase, before, instructions, catalogue, lenses, ...props }: Props) {
  const { onChange, onWork, target, lookAt } = props;
  const [foot, setFoot] = useState<Foot>("lenses");
  const state = useBenchState(foot, setFoot, lookAt);
  const edits = useEdits(stepId, patch, phrase, onChange, onWork);
  const listening = useListening();
  const map = useRef<MapHandle>(null);
  const selected = selectedIn(state.selected, patch) ?? subject(patch, catalogue, instructions);
  const followed = followedTap(patch, catalogue, selected, state.line?.from);
  const inner = innerTap(followed, patch, catalogue);
  const others = { before, target, detour: lenses.detour, frozen: lenses.frozen };
  const { against, behind, scene } = behindOf(lenses.against, others, inner, followed);
  const views = lenses.slots.map((slot) => viewOf(slot, followed, patch, catalogue));
  const asked = views.filter((one) => one !== undefined);
  const now = useRender(patch, phrase, asked, listening.wish, behind);
  const other = scene ?? before;
  const earlier = useRender(other?.patch, other?.phrase, []);
  const late = now.behind || edits.working;
  const busy = useLate(late);
  const writing = onChange !== undefined;
  const chosen = {
    ...state,
    selected: state.line || selected === undefined ? state.selected : withFirst(selected, state.selected),
  };
  const context = { patch, phrase, catalogue, state: chosen, edits, listening, lenses, map, writing };
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
        data-behind={late}
        className={`grid min-h-0 min-w-0 grid-cols-[1fr_292px] ${
          state.wide
            ? "fixed inset-0 z-30 grid-rows-[minmax(0,1fr)_auto] bg-paper"
            : "grid-rows-[minmax(0,1fr)_auto_262px]"
        }`}
      >
        <div className="relative min-h-0 min-w-0" data-map>
          {patch.modules.length === 0 && (
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
            onSelect={(ids) => {
              const tap = ids[0] === undefined ? undefined : followedTap(patch, catalogue, ids[0], undefined);
              if (lenses.pointing === undefined || tap === undefined) state.select(ids);
              else lenses.toggleTap(lenses.pointing, tap, mostTaps(lenses, lenses.pointing));
            }}
            onLine={(ends) => {
              if (lenses.pointing === undefined) state.selectLine(ends);
              else lenses.toggleTap(lenses.pointing, ends.from, mostTaps(lenses, lenses.pointing));
            }}
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
            onFoot={state.show}
            connections={patch.connections.length}
            findings={findings?.length}
            listening={listening.active}
            steps={edits.steps}
          >
            {foot === "lenses" && (
              <AgainstList
                against={lenses.against}
                meant={against}
                name={scene?.name}
                choices={choicesOf(others, inner)}
                onChoose={lenses.compareWith}
              />
            )}
          </BenchBar>
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
            {foot === "phrase" && (
              <PhrasePanel
                phrase={phrase}
                patch={patch}
                onChange={writing && props.phraseStays === undefined ? edits.play : undefined}
              >
                {props.phraseStays ?? props.phraseActions}
              </PhrasePanel>
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
                  phrase={phrase}
                  catalogue={catalogue}
                  followed={followed}
                  selected={selected}
                  lenses={lenses}
                  views={views}
                  behind={behind}
                  render={now.data}
                  late={now.behind}
                  onPlate={props.onPlate}
                  onSay={say}
                />
              ))}
          </div>
        )}
      </div>
      <div className="col-span-full">
        <Transport
          phrase={phrase}
          onPhrase={() => state.show("phrase")}
          sound={soundOf(now.data, patch, catalogue)}
          other={other && soundOf(earlier.data, other.patch, catalogue)}
          otherName={scene?.name ?? before?.name ?? AGAINST[scene ? against : "before"]}
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
      {lenses.pointing !== undefined && (
        <Notice action={{ label: "Done", run: () => lenses.point(undefined) }}>
          Point at lines or cards of the map: the lens listens there.
        </Notice>
      )}
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
  return ids.find((id) => patch.modules.some((one) => one.id === id) || isSection(patch, id));
}

interface ReplacingProps {
  id: string;
  patch: Patch;
  catalogue: Catalogue;
  onChoose: (edits: Edit[]) => void;
  onClose: () => void;
}

function Replacing({ id, patch, ...rest }: ReplacingProps) {
  const module = patch.modules.find((one) => one.id === id);
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
function subject(patch: Patch, catalogue: Catalogue, instructions: Instruction[]): string | undefined {
  const present = new Set(patch.modules.map((one) => one.id));
  const first =
    instructions.find((one) => one.kind === "add" || one.kind === "insert") ??
    instructions.find((one) => present.has(one.module));
  if (first && present.has(first.module)) return first.module;
  return outputModule(patch, catalogue)?.id;
}

const mostTaps = (lenses: LensesState, place: number) =>
  lensRule(lenses.slots[place]?.kind ?? "wave").most_taps;

function soundOf(render: Render | undefined, patch: Patch, catalogue: Catalogue): Sound | undefined {
  if (!render) return undefined;
  const output = outputModule(patch, catalogue);
  const sides = ["left", "right"].flatMap((side) => render.measures[`${output?.id ?? ""}.${side}`] ?? []);
  const peak = Math.max(0, ...sides.map((side) => Math.max(side.greatest, -side.least)));
  return { key: render.key, seconds: render.seconds, peakDb: peak < 1e-4 ? null : decibels(peak) };
}
