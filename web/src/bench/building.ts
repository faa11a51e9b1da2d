import { client, type Edit, got } from "../api/client";
import { endsOf, mainOutput } from "../api/patch";
import { refreshSections } from "../api/queries";
import { copied, copyModules } from "./clipboard";
import { type Command, inGroup } from "./commands";
import { type Doing, perform } from "./commandsOf";
import { type Selection, selectionOf } from "./selection";
import { messageOf } from "../api/messageOf";

/** What changes the patch, given what is selected. */
export function building(view: Doing): Command[] {
  const selection = selectionOf(view);
  const act = (...moves: Edit[]) => void perform(view, moves);
  const parts = [puttingIn, ofModules, ofLines, ofSections, byClipboard];
  return inGroup(
    "build",
    parts.flatMap((part) => part(view, selection, act)),
  );
}

type Act = (...moves: Edit[]) => void;
type CommandGroup = (view: Doing, selection: Selection, act: Act) => Parameters<typeof inGroup>[1];

const puttingIn: CommandGroup = ({ catalogue, state, chosen }, { first, movable }) => {
  const main = first && mainOutput(first, catalogue);
  return [
    { id: "add", words: "Add a module…", keys: ["A"], run: () => state.ask({ what: "add" }) },
    {
      id: "connect",
      words: "Connect…",
      keys: ["C"],
      run: () => main && state.ask({ what: "connect", connecting: { port: main, into: false } }),
      possible: main !== undefined,
    },
    {
      id: "rename",
      words: "Rename",
      keys: ["F2", "N"],
      run: () => state.rename(chosen[0]),
      possible: chosen.length > 0,
    },
    {
      id: "replace",
      words: "Replace with…",
      keys: ["R"],
      run: () => first && state.ask({ what: "replace", module: first.id }),
      possible: movable.length === 1,
    },
  ];
};

const ofModules: CommandGroup = (_, { ids, movable, line }, act) => [
  {
    id: "duplicate",
    words: "Duplicate",
    keys: ["D"],
    run: () => act({ kind: "duplicate", modules: movable, connected: true }),
    possible: movable.length > 0,
  },
  {
    id: "duplicate-alone",
    words: "Duplicate without its connections",
    keys: ["Shift+D"],
    run: () => act({ kind: "duplicate", modules: movable, connected: false }),
    possible: movable.length > 0,
  },
  {
    id: "remove",
    words: "Remove, and join what it joined",
    keys: ["Delete", "Backspace"],
    run: () =>
      line
        ? act({ kind: "disconnect", line: endsOf(line) })
        : act({ kind: "remove", modules: ids, bridge: true }),
    possible: line !== undefined || ids.length > 0,
  },
  {
    id: "remove-bare",
    words: "Remove with its connections",
    keys: ["Shift+Delete", "Shift+Backspace"],
    run: () => act({ kind: "remove", modules: ids, bridge: false }),
    possible: ids.length > 0,
  },
];

const ofLines: CommandGroup = ({ state }, { line }, act) => {
  const move = (port: string, into: boolean) =>
    line && state.ask({ what: "connect", connecting: { port, into, moving: endsOf(line) } });
  return [
    {
      id: "switch",
      words: "Switch the connection off or on",
      keys: ["X"],
      run: () => line && act({ kind: "line", line: endsOf(line), off: !line.off }),
      possible: line !== undefined,
    },
    {
      id: "move-end",
      words: "Move the connection’s end…",
      keys: ["E"],
      run: () => line && move(line.from, false),
      possible: line !== undefined,
    },
    {
      id: "move-start",
      words: "Move the connection’s beginning…",
      keys: ["Shift+E"],
      run: () => line && move(line.to, true),
      possible: line !== undefined,
    },
  ];
};

const ofSections: CommandGroup = (view, { movable, section }, act) => {
  const possible = section !== undefined;
  return [
    {
      id: "group",
      words: "Group into a section…",
      keys: ["G"],
      run: () => view.state.ask({ what: "group", modules: movable }),
      possible: movable.length > 0 && !possible,
    },
    {
      id: "apart",
      words: "Take the section apart",
      keys: ["Shift+G"],
      run: () => section && act({ kind: "take-apart", section: section.id }),
      possible,
    },
    {
      id: "open",
      words: section?.open === false ? "Open the section" : "Close the section",
      keys: ["O"],
      run: () => section && void openOrClose(view, section),
      possible,
    },
    {
      id: "keep",
      words: "Keep the section for reuse",
      keys: ["K"],
      run: () => section && saying(view, keep(view, section.id)),
      possible,
    },
  ];
};

const byClipboard: CommandGroup = (view, { ids, movable }, act) => [
  {
    id: "copy",
    words: "Copy",
    keys: ["Ctrl+C"],
    run: () => saying(view, copy(view, ids)),
    possible: ids.length > 0,
  },
  {
    id: "cut",
    words: "Cut",
    keys: ["Ctrl+X"],
    run: () =>
      saying(
        view,
        copy(view, ids).then(() => act({ kind: "remove", modules: movable, bridge: false })),
      ),
    possible: movable.length > 0,
  },
  {
    id: "paste",
    words: "Paste",
    keys: ["Ctrl+V"],
    run: () => {
      const fragment = copied();
      if (fragment) act({ kind: "paste", fragment });
      else view.state.say("Nothing has been copied yet.");
    },
  },
  {
    id: "all",
    words: "Select all",
    keys: ["Ctrl+A"],
    run: () => view.state.select(view.patch.modules.map((module) => module.id)),
  },
];

/** Opens a section, and selects its first module; or closes it, and selects it. */
async function openOrClose(
  { state, moves }: Doing,
  section: NonNullable<Selection["section"]>,
): Promise<void> {
  await moves.apply([{ kind: "section", section: section.id, open: !section.open, name: "" }]);
  state.select(section.open ? [section.id] : section.modules.slice(0, 1));
}

async function keep({ patch, state }: Doing, section: string): Promise<void> {
  await got(client.POST("/api/sections", { body: { patch, section } }));
  await refreshSections();
  state.say("The section is on your list: you find it under Add.");
}

async function copy({ patch, state }: Doing, ids: string[]): Promise<void> {
  await copyModules(patch, ids);
  state.say(`Copied ${ids.length} ${ids.length === 1 ? "module" : "modules"}.`);
}

/** Does something; if that fails, it is said. */
const saying = ({ state }: Doing, action: Promise<void>) =>
  void action.catch((error: unknown) => state.say(messageOf(error)));
