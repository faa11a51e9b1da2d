import { useEffect, useEffectEvent, useState, useSyncExternalStore } from "react";
import { type StoreApi, useStore } from "zustand";

import { client, type Edit, got, type Instruction, type Patch } from "../api/client";
import { type Catalogue, endsOf, isSection, outputModule } from "../api/patch";
import { keptOf, type Lenses, useLenses, useWhenSet } from "../lenses/store";
import { behindOf, followedTap, innerTap, viewOf } from "../lenses/views";
import { type BenchProps, type BenchView, HeldMap, HeldSound, type Past, type Seen } from "./BenchContext";
import { strikeAt } from "../phrase/phrases";
import { historyOf } from "./history";
import { Moves, type Worker } from "./moves";
import { type BenchState, createBench, listeningOf, type LookAt } from "./store";
import { commandsOf, perform } from "./commandsOf";
import { useRender } from "./useRender";
import { shownLive, useLive } from "../live/useLive";

/** What all parts of a bench stand on, from what it is given and what is chosen at it. */
export function useBenchView(props: BenchProps): BenchView {
  const { patch, phrase, catalogue, before, instructions } = props;
  const [bench] = useState(() => createBench(props.goesOn));
  const state = useStore(bench);
  const lenses = useLenses();
  const moves = useMoves(props);
  const { working } = useStore(moves.state);
  const past = usePast(moves);
  const [map] = useState(() => new HeldMap());
  const [sound] = useState(() => new HeldSound());
  useLookAt(bench, props);
  useOwnMoment(lenses, props.stepId);
  useOwnLenses(lenses, props);
  const subject = selectedIn(state.selected, patch) ?? subjectOf(patch, catalogue, instructions);
  const seen = seenOf(props, lenses, state, subject);
  const asked = seen.views.filter((one) => one !== undefined);
  const listening = listeningOf(state);
  const { live, playing } = useLive({ patch, phrase, listening, views: asked });
  const rendered = useRender(
    patch,
    phrase,
    asked,
    listening,
    seen.behind,
    seen.moment,
    playing !== undefined,
  );
  const now = { ...rendered, data: shownLive(rendered.data, playing) };
  const compared = seen.scene ?? (props.whose === undefined ? before : (props.target ?? before));
  const earlier = useRender(compared?.patch, compared?.phrase, []).data;
  const doing = { patch, state, moves, map };
  const writing = props.onChange !== undefined;
  const view = {
    ...props,
    ...{ writing, state, moves, past, lenses, map, sound, subject, seen, now, earlier, compared, live },
    chosen: state.line ? state.selected : withFirst(subject, state.selected),
    late: now.behind || working,
    findings: listening || playing ? undefined : now.data?.findings,
    act: (edits: Edit[]) => {
      state.ask(undefined);
      void perform(doing, edits);
    },
    edit: writing ? (edits: Edit[]) => void moves.apply(edits) : undefined,
  };
  return { ...view, commands: commandsOf(view) };
}

const askEdits: Worker = (patch, edits) => got(client.POST("/api/patches/edits", { body: { patch, edits } }));

/** The moves of a bench, which stays at one step. */
function useMoves({ stepId, patch, phrase, onChange, onWork }: BenchProps): Moves {
  const [moves] = useState(
    () => new Moves(historyOf(stepId, { patch, phrase }), { patch, phrase }, askEdits),
  );
  useEffect(() => moves.listen({ onChange, onWork }));
  useEffect(() => moves.meet({ patch, phrase }), [moves, patch, phrase]);
  return moves;
}

function usePast({ history }: Moves): Past {
  return {
    canUndo: useSyncExternalStore(history.subscribe, history.canUndo),
    canRedo: useSyncExternalStore(history.subscribe, history.canRedo),
    steps: useSyncExternalStore(history.subscribe, history.steps),
  };
}

/** Goes to what is pointed to from elsewhere on the page. */
function useLookAt(bench: StoreApi<BenchState>, { lookAt, phrase }: BenchProps): void {
  const { show, lookAt: look } = useLenses();
  const go = useEffectEvent((at: LookAt) => {
    const { select, selectLine, show: showFoot } = bench.getState();
    if (at.kind === "module") select([at.module]);
    else if (at.kind === "line") selectLine(endsOf(at));
    else if (at.kind === "lens") {
      showFoot("lenses");
      show(at);
    } else {
      const note = strikeAt(phrase, (at.beat * 60) / phrase.tempo);
      if (note > 0) look({ kind: "note", note });
    }
  });
  useEffect(() => {
    if (lookAt) go(lookAt);
  }, [lookAt]);
}

/** Opens each step with the moment that belongs to it. */
function useOwnMoment({ lookAt }: Lenses, stepId: string): void {
  useEffect(() => lookAt(undefined), [lookAt, stepId]);
}

/** Opens each step with the lenses that belong to it, and keeps in it what they are set to. */
function useOwnLenses({ setUp }: Lenses, { stepId, ownLenses, onLenses }: BenchProps): void {
  useEffect(() => {
    if (ownLenses) setUp(ownLenses);
  }, [stepId, ownLenses, setUp]);
  useWhenSet((lenses) => onLenses?.(keptOf(lenses)));
}

function seenOf(
  { patch, phrase, catalogue, before, target, moment }: BenchProps,
  lenses: Lenses,
  state: BenchState,
  subject: string | undefined,
): Seen {
  const followed = followedTap(patch, catalogue, subject, state.line?.from);
  const inner = innerTap(followed, patch, catalogue);
  const others = {
    before,
    target,
    detour: lenses.detour,
    recording: lenses.recording,
    frozen: lenses.frozen,
    company: phrase.company.length > 0,
  };
  const views = lenses.slots.map((slot) => viewOf(slot, followed, patch, catalogue));
  const looked = lenses.moment === undefined ? moment : lenses.moment;
  const behind = behindOf(lenses.against, others, inner, followed);
  return { followed, inner, others, views, ...behind, moment: looked };
}

const withFirst = (first: string | undefined, ids: string[]) =>
  first === undefined ? ids : [first, ...ids.filter((id) => id !== first)];

/** The first of the selected cards that is still there. */
const selectedIn = (ids: string[], patch: Patch): string | undefined =>
  ids.find((id) => patch.modules.some((one) => one.id === id) || isSection(patch, id));

/** The module that a step is about: the first that it adds, or the first that it changes. */
function subjectOf(patch: Patch, catalogue: Catalogue, instructions: Instruction[]): string | undefined {
  const present = new Set(patch.modules.map((one) => one.id));
  const first =
    instructions.find((one) => one.kind === "add" || one.kind === "insert") ??
    instructions.find((one) => present.has(one.module));
  if (first && present.has(first.module)) return first.module;
  return outputModule(patch, catalogue)?.id;
}
