import type { Edit } from "../api/client";
import { saveDocument } from "../lenses/files";
import { messageOf } from "../api/messageOf";
import { fragmentOf } from "./clipboard";
import { goTo } from "../ui/goTo";
import { foldFoot, type Projected, useRoom } from "../ui/room";
import { isSound, letsThrough, isSingle } from "../api/patch";
import type { BenchView } from "./BenchContext";
import { building } from "./building";
import { type Command, inGroup } from "./commands";
import { listeningOf, type Way } from "./store";
import { selectedModules } from "./selection";

/** What commands stand on. */
export type Doing = Omit<BenchView, "commands" | "act" | "edit" | "findings" | "late">;

/** Everything that can be done at the bench, given what is selected. */
export function commandsOf(view: Doing): Command[] {
  const { state, writing } = view;
  return [
    ...(writing ? building(view) : []),
    ...listening(view),
    ...viewing(view),
    ...looking(view),
    ...showing(view),
    ...inFiles(view),
    ...(writing ? goingBack(view) : []),
  ].map((one) => ({ ...one, possible: one.possible && state.asking === undefined }));
}

/** What leaves the selection where it is: whoever connects one thing goes on to connect the next. */
const QUIET: Edit["kind"][] = ["connect", "set"];

/** Makes moves, then selects what they were about, unless they only connect what is there. */
export async function perform(
  { state, moves, map }: Pick<Doing, "state" | "moves" | "map">,
  edits: Edit[],
): Promise<void> {
  const touched = await moves.apply(edits);
  const stays = state.selected.length > 0 && edits.every(({ kind }) => QUIET.includes(kind));
  if (!touched || stays) return;
  state.select(touched);
  const first = touched[0];
  if (first !== undefined) requestAnimationFrame(() => map.handle?.focusCard(first));
}

function listening(view: Doing): Command[] {
  const { patch, phrase, catalogue, state } = view;
  const ids = selectedModules(view);
  const modules = patch.modules.filter((one) => ids.includes(one.id));
  const sounding = modules.filter((one) => isSound(one, catalogue)).map((one) => one.id);
  const through = modules
    .filter((one) => letsThrough(one, catalogue) && !isSingle(one, catalogue))
    .map((one) => one.id);
  const toggling = (way: Way, heard: string[]) => ({
    run: () => state.toggleHeard(way, heard),
    possible: heard.length > 0,
  });
  return inGroup("listen", [
    { id: "mute", words: "Mute for listening", keys: ["M"], ...toggling("muted", ids) },
    { id: "solo", words: "Hear alone", keys: ["S"], ...toggling("solo", sounding) },
    { id: "bypass", words: "Bypass for listening", keys: ["Y"], ...toggling("bypassed", through) },
    {
      id: "hear-all",
      words: "Hear everything as written",
      keys: ["H"],
      run: state.hearAll,
      possible: listeningOf(state) !== undefined,
    },
    {
      id: "company",
      words: state.inCompany === "with" ? "Hear it without its company" : "Hear it with its company",
      keys: ["F"],
      run: () => state.hearIn(state.inCompany === "with" ? "alone" : "with"),
      possible: phrase.company.length > 0,
    },
    {
      id: "company-alone",
      words: "Hear the company without it",
      keys: ["Shift+F"],
      run: () => state.hearIn("without"),
      possible: phrase.company.length > 0,
    },
  ]);
}

const viewing = ({ state, map }: Doing): Command[] =>
  inGroup("look", [
    { id: "zoom-in", words: "Zoom in", keys: ["+", "="], run: () => map.handle?.zoomBy(1.25) },
    { id: "zoom-out", words: "Zoom out", keys: ["-"], run: () => map.handle?.zoomBy(0.8) },
    { id: "fit", words: "Show the whole map", keys: ["0"], run: () => map.handle?.fit() },
    {
      id: "close-up",
      words: "Close-up of what is around a module",
      keys: ["Z"],
      run: () => map.handle?.closeUp(),
    },
    { id: "wide", words: "Map over the whole bench", keys: ["W"], run: state.toggleWide },
  ]);

const project = (projected: Projected) => useRoom.getState().put({ projected });

const looking = ({ patch, phrase, state, lenses, live }: Doing): Command[] =>
  inGroup("look", [
    { id: "project", words: "The projector’s view", keys: ["P"], run: () => project("text") },
    { id: "large", words: "The first lens large", keys: ["Shift+P"], run: () => project(0) },
    {
      id: "point",
      words: lenses.pointing === undefined ? "Point at what the first lens listens to" : "Done with pointing",
      keys: ["T"],
      run: () => lenses.point(lenses.pointing === undefined ? 0 : undefined),
    },
    {
      id: "freeze",
      words: "Freeze what is heard, to compare with it",
      keys: ["J"],
      run: () => {
        const { phase, frozen } = live.state.getState();
        if (phase === "on") {
          live.freeze(!frozen);
          return;
        }
        lenses.freeze({ patch, phrase });
        state.say("Frozen: the lenses show it behind what you do next.");
      },
    },
  ]);

/** What is folded away to its side, or brought back; the room belongs to whoever looks. */
function folding() {
  const { text, inspector, put } = useRoom.getState();
  return [
    { id: "fold-text", words: "Fold the text away", keys: ["Shift+U"], run: () => put({ text: !text }) },
    {
      id: "fold-rulers",
      words: "Fold the rulers away",
      keys: ["Shift+I"],
      run: () => put({ inspector: !inspector }),
    },
    { id: "fold-foot", words: "Fold away what is beneath the map", keys: ["Shift+W"], run: foldFoot },
  ];
}

const showing = ({ state, writing, map, subject }: Doing): Command[] =>
  inGroup("look", [
    {
      id: "to-map",
      words: "To the map",
      keys: ["Q"],
      run: () => subject !== undefined && map.handle?.focusCard(subject),
    },
    { id: "to-inspector", words: "To what is selected", keys: ["I"], run: () => goTo("inspector") },
    { id: "to-text", words: "To the text", keys: ["U"], run: () => goTo("text") },
    ...folding(),
    { id: "lenses", words: "Lenses", keys: ["1"], run: () => state.show("lenses") },
    { id: "connections", words: "Connections", keys: ["2"], run: () => state.show("connections") },
    { id: "checkup", words: "Checkup", keys: ["3"], run: () => state.show("checkup") },
    { id: "phrase", words: "Phrase", keys: ["4"], run: () => state.show("phrase") },
    { id: "company-parts", words: "Company", keys: ["5"], run: () => state.show("company") },
    {
      id: "keys",
      words: writing ? "This list of keys" : "List of keys",
      keys: ["?"],
      run: () => state.ask({ what: "keys" }),
    },
  ]);

function inFiles(view: Doing): Command[] {
  const { patch, phrase, state, writing } = view;
  const ids = selectedModules(view);
  const saveSelected = () => {
    fragmentOf(patch, ids).then(
      (fragment) => saveDocument(fragment, "section"),
      (error: unknown) => state.say(messageOf(error)),
    );
  };
  return inGroup("files", [
    {
      id: "save-patch",
      words: "Save the patch as a file",
      keys: [],
      run: () => saveDocument(patch, "patch"),
    },
    {
      id: "save-selected",
      words: "Save what is selected as a file",
      keys: [],
      run: saveSelected,
      possible: ids.length > 0,
    },
    {
      id: "save-phrase",
      words: "Save the phrase as a file",
      keys: [],
      run: () => saveDocument(phrase, phrase.title),
    },
    ...(writing
      ? [
          {
            id: "open",
            words: "Open a patch or a phrase from a file…",
            keys: [],
            run: () => state.ask({ what: "file" }),
          },
          {
            id: "sounds",
            words: "Sounds for samplers…",
            keys: [],
            run: () => state.ask({ what: "sounds" }),
          },
        ]
      : []),
  ]);
}

const goingBack = ({ moves, past }: Doing): Command[] =>
  inGroup("back", [
    { id: "undo", words: "Undo", keys: ["Ctrl+Z"], run: moves.undo, possible: past.canUndo },
    { id: "redo", words: "Redo", keys: ["Ctrl+Shift+Z", "Ctrl+Y"], run: moves.redo, possible: past.canRedo },
  ]);
