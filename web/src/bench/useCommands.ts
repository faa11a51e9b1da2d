import type { RefObject } from "react";

import { client, type Edit, got, type Patch, type Phrase } from "../api/client";
import {
  type Catalogue,
  endsOf,
  isSingle,
  isSound,
  letsThrough,
  lineBetween,
  mainOutput,
} from "../api/patch";
import { refreshSections } from "../api/queries";
import type { LensesState } from "../lenses/useLenses";
import type { MapHandle } from "../map/PatchMap";
import { copied, copyModules } from "./clipboard";
import type { Command } from "./commands";
import type { Asking, BenchState } from "./useBenchState";
import type { Edits } from "./useEdits";
import type { ListeningState } from "./useListening";

interface Context {
  patch: Patch;
  phrase: Phrase;
  catalogue: Catalogue;
  state: BenchState;
  edits: Edits;
  listening: ListeningState;
  lenses: LensesState;
  map: RefObject<MapHandle | null>;
  /** Whether anything can be changed here. */
  writing: boolean;
}

/** Everything that can be done at the bench, given what is selected. */
export function useCommands(context: Context): Command[] {
  const { state, writing } = context;
  return [
    ...(writing ? building(context) : []),
    ...listeningTo(context),
    ...looking(context),
    ...(writing ? goingBack(context) : []),
  ].map((one) => ({ ...one, possible: one.possible && state.asking === undefined }));
}

/** Makes moves, then selects what they were about. */
export async function perform({ state, edits, map }: Context, moves: Edit[]): Promise<void> {
  const touched = await edits.apply(moves);
  if (!touched) return;
  if (touched.length > 0) state.select(touched);
  else state.select([]);
  const first = touched[0];
  if (first !== undefined) requestAnimationFrame(() => map.current?.focusCard(first));
}

function building(context: Context): Command[] {
  const { patch, catalogue, state, edits } = context;
  const ids = selectedModules(context);
  const first = patch.modules.find((one) => one.id === ids[0]);
  const sections = patch.sections;
  const section = sections.find(
    (one) => one.id === state.selected[0] || (first && one.modules.includes(first.id)),
  );
  const line = state.line && lineBetween(patch, state.line) ? state.line : undefined;
  const movable = ids.filter(
    (id) =>
      !isSingle(
        patch.modules.find((one) => one.id === id),
        catalogue,
      ),
  );
  const main = first && mainOutput(first, catalogue);
  const act = (...moves: Edit[]) => void perform(context, moves);
  const ask = (asking: Asking) => () => state.ask(asking);
  const one = (command: Omit<Command, "group">): Command => ({ ...command, group: "build" });
  const keep = async (id: string) => {
    await got(client.POST("/api/sections", { body: { patch, section: id } }));
    await refreshSections();
    state.say("The section is on your list: you find it under Add.");
  };
  const copy = () => copyModules(patch, ids).then(() => state.say(`Copied ${count(ids.length)}.`));
  const failed = (error: unknown) => state.say(error instanceof Error ? error.message : "That did not work.");

  return [
    one({ id: "add", words: "Add a module…", keys: ["A"], run: ask({ what: "add" }), possible: true }),
    one({
      id: "connect",
      words: "Connect…",
      keys: ["C"],
      run: () => main && state.ask({ what: "connect", connecting: { port: main, into: false } }),
      possible: main !== undefined,
    }),
    one({
      id: "rename",
      words: "Rename",
      keys: ["F2", "N"],
      run: () => state.rename(state.selected[0]),
      possible: state.selected.length > 0,
    }),
    one({
      id: "replace",
      words: "Replace with…",
      keys: ["R"],
      run: () => first && state.ask({ what: "replace", module: first.id }),
      possible: movable.length === 1,
    }),
    one({
      id: "duplicate",
      words: "Duplicate",
      keys: ["D"],
      run: () => act({ kind: "duplicate", modules: movable, connected: true }),
      possible: movable.length > 0,
    }),
    one({
      id: "duplicate-alone",
      words: "Duplicate without its connections",
      keys: ["Shift+D"],
      run: () => act({ kind: "duplicate", modules: movable, connected: false }),
      possible: movable.length > 0,
    }),
    one({
      id: "remove",
      words: "Remove, and join what it joined",
      keys: ["Delete", "Backspace"],
      run: () =>
        line ? act({ kind: "disconnect", line }) : act({ kind: "remove", modules: ids, bridge: true }),
      possible: line !== undefined || ids.length > 0,
    }),
    one({
      id: "remove-bare",
      words: "Remove with its connections",
      keys: ["Shift+Delete", "Shift+Backspace"],
      run: () => act({ kind: "remove", modules: ids, bridge: false }),
      possible: ids.length > 0,
    }),
    one({
      id: "switch",
      words: "Switch the connection off or on",
      keys: ["X"],
      run: () => line && act({ kind: "line", line, off: !lineBetween(patch, line)?.off }),
      possible: line !== undefined,
    }),
    one({
      id: "move-end",
      words: "Move the connection’s end…",
      keys: ["E"],
      run: () =>
        line &&
        state.ask({ what: "connect", connecting: { port: line.from, into: false, moving: endsOf(line) } }),
      possible: line !== undefined,
    }),
    one({
      id: "move-start",
      words: "Move the connection’s beginning…",
      keys: ["Shift+E"],
      run: () =>
        line &&
        state.ask({ what: "connect", connecting: { port: line.to, into: true, moving: endsOf(line) } }),
      possible: line !== undefined,
    }),
    one({
      id: "group",
      words: "Group into a section…",
      keys: ["G"],
      run: ask({ what: "group", modules: movable }),
      possible: movable.length > 0 && section === undefined,
    }),
    one({
      id: "apart",
      words: "Take the section apart",
      keys: ["Shift+G"],
      run: () => section && act({ kind: "take-apart", section: section.id }),
      possible: section !== undefined,
    }),
    one({
      id: "open",
      words: section?.open === false ? "Open the section" : "Close the section",
      keys: ["O"],
      run: () => {
        if (!section) return;
        const members = section.modules;
        void edits
          .apply([{ kind: "section", section: section.id, open: !section.open, name: "" }])
          .then(() => {
            state.select(section.open ? [section.id] : members.slice(0, 1));
          });
      },
      possible: section !== undefined,
    }),
    one({
      id: "keep",
      words: "Keep the section for reuse",
      keys: ["K"],
      run: () => section && void keep(section.id).catch(failed),
      possible: section !== undefined,
    }),
    one({
      id: "copy",
      words: "Copy",
      keys: ["Ctrl+C"],
      run: () => void copy().catch(failed),
      possible: ids.length > 0,
    }),
    one({
      id: "cut",
      words: "Cut",
      keys: ["Ctrl+X"],
      run: () =>
        void copy()
          .then(() => act({ kind: "remove", modules: movable, bridge: false }))
          .catch(failed),
      possible: movable.length > 0,
    }),
    one({
      id: "paste",
      words: "Paste",
      keys: ["Ctrl+V"],
      run: () => {
        const fragment = copied();
        if (fragment) act({ kind: "paste", fragment });
        else state.say("Nothing has been copied yet.");
      },
      possible: true,
    }),
    one({
      id: "all",
      words: "Select all",
      keys: ["Ctrl+A"],
      run: () => state.select(patch.modules.map((module) => module.id)),
      possible: true,
    }),
  ];
}

/** The selected modules; of a closed section, all that are in it. */
export function selectedModules({ patch, state }: Pick<Context, "patch" | "state">): string[] {
  const present = new Set(patch.modules.map((one) => one.id));
  return state.selected.flatMap((id) => {
    if (present.has(id)) return [id];
    return patch.sections.find((section) => section.id === id)?.modules ?? [];
  });
}

const count = (modules: number) => `${modules} ${modules === 1 ? "module" : "modules"}`;

function listeningTo(context: Context): Command[] {
  const { patch, catalogue, listening } = context;
  const ids = selectedModules(context);
  const modules = patch.modules.filter((one) => ids.includes(one.id));
  const sounding = modules.filter((one) => isSound(one, catalogue)).map((one) => one.id);
  const through = modules
    .filter((one) => letsThrough(one, catalogue) && !isSingle(one, catalogue))
    .map((one) => one.id);
  const one = (command: Omit<Command, "group">): Command => ({ ...command, group: "listen" });
  return [
    one({
      id: "mute",
      words: "Mute for listening",
      keys: ["M"],
      run: () => listening.toggle("muted", ids),
      possible: ids.length > 0,
    }),
    one({
      id: "solo",
      words: "Hear alone",
      keys: ["S"],
      run: () => listening.toggle("solo", sounding),
      possible: sounding.length > 0,
    }),
    one({
      id: "bypass",
      words: "Bypass for listening",
      keys: ["Y"],
      run: () => listening.toggle("bypassed", through),
      possible: through.length > 0,
    }),
    one({
      id: "hear-all",
      words: "Hear everything as written",
      keys: ["H"],
      run: listening.clear,
      possible: listening.active,
    }),
  ];
}

function looking({ patch, phrase, state, lenses, map, writing }: Context): Command[] {
  const one = (command: Omit<Command, "group" | "possible">): Command => ({
    ...command,
    group: "look",
    possible: true,
  });
  return [
    one({ id: "zoom-in", words: "Zoom in", keys: ["+", "="], run: () => map.current?.zoomBy(1.25) }),
    one({ id: "zoom-out", words: "Zoom out", keys: ["-"], run: () => map.current?.zoomBy(0.8) }),
    one({ id: "fit", words: "Show the whole map", keys: ["0"], run: () => map.current?.fit() }),
    one({
      id: "close-up",
      words: "Close-up of what is around a module",
      keys: ["Z"],
      run: () => map.current?.closeUp(),
    }),
    one({ id: "wide", words: "Map over the whole bench", keys: ["W"], run: state.toggleWide }),
    one({ id: "large", words: "Show the first lens large", keys: ["P"], run: () => lenses.show(0) }),
    one({
      id: "large-next",
      words: "Show the second lens large",
      keys: ["Shift+P"],
      run: () => lenses.show(1),
    }),
    one({
      id: "point",
      words: lenses.pointing === undefined ? "Point at what the first lens listens to" : "Done with pointing",
      keys: ["T"],
      run: () => lenses.point(lenses.pointing === undefined ? 0 : undefined),
    }),
    one({
      id: "freeze",
      words: "Freeze what is heard, to compare with it",
      keys: ["J"],
      run: () => {
        lenses.freeze({ patch, phrase });
        state.say("Frozen: the lenses show it behind what you do next.");
      },
    }),
    one({ id: "lenses", words: "Lenses", keys: ["1"], run: () => state.show("lenses") }),
    one({ id: "connections", words: "Connections", keys: ["2"], run: () => state.show("connections") }),
    one({ id: "checkup", words: "Checkup", keys: ["3"], run: () => state.show("checkup") }),
    one({ id: "phrase", words: "Phrase", keys: ["4"], run: () => state.show("phrase") }),
    one({
      id: "keys",
      words: writing ? "This list of keys" : "List of keys",
      keys: ["?"],
      run: () => state.ask({ what: "keys" }),
    }),
  ];
}

function goingBack({ edits }: Context): Command[] {
  const one = (command: Omit<Command, "group">): Command => ({ ...command, group: "back" });
  return [
    one({ id: "undo", words: "Undo", keys: ["Ctrl+Z"], run: edits.undo, possible: edits.canUndo }),
    one({
      id: "redo",
      words: "Redo",
      keys: ["Ctrl+Shift+Z", "Ctrl+Y"],
      run: edits.redo,
      possible: edits.canRedo,
    }),
  ];
}
