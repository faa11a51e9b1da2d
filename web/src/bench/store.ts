import { createStore, type StoreApi } from "zustand";

import type { Ends, Listening, MarkPlace } from "../api/client";
import type { Heard } from "../map/ModuleCard";
import { unfoldFoot } from "../ui/room";
import type { Connecting } from "./ConnectPanel";

export type Foot = "lenses" | "connections" | "checkup" | "phrase" | "company";

/** What is asked before something is done. */
export type Asking =
  | { what: "add" }
  | { what: "replace"; module: string }
  | { what: "connect"; connecting: Connecting }
  | { what: "group"; modules: string[] }
  | { what: "file" }
  | { what: "sounds"; module?: string | undefined }
  | { what: "keys" };

/** A place that is pointed to from elsewhere on the page. */
export type LookAt = MarkPlace;

/** A setting of a module. */
export interface Touched {
  module: string;
  setting: string;
}

/** How modules can be heard otherwise than written. */
export type Way = "muted" | "solo" | "bypassed";
type Heeded = Record<Way, string[]>;

/** How a sound that has company is heard: alone, with it, or the company without it. */
export type InCompany = "alone" | "with" | "without";

/** What is selected, shown, asked and heard at the bench: nothing of it belongs to the lesson. */
export interface BenchState {
  /** Modules and sections. */
  selected: string[];
  line: Ends | undefined;
  foot: Foot;
  /** Whether the map fills the bench. */
  wide: boolean;
  asking: Asking | undefined;
  renaming: string | undefined;
  /** What was done, said for a moment. */
  said: string | undefined;
  heeded: Heeded;
  /** The setting that was set last. */
  touched: Touched | undefined;
  inCompany: InCompany;
  /** The part of the company that is heard without the others. */
  partAlone: string | undefined;

  select: (ids: string[]) => void;
  selectLine: (ends: Ends | undefined) => void;
  /** Shows something beneath the map, which then no longer fills the bench. */
  show: (foot: Foot) => void;
  toggleWide: () => void;
  ask: (asking: Asking | undefined) => void;
  rename: (id: string | undefined) => void;
  say: (words: string | undefined) => void;
  touch: (touched: Touched) => void;
  /** Hears modules so, or as written again. */
  toggleHeard: (way: Way, ids: string[]) => void;
  hearAll: () => void;
  hearIn: (company: InCompany) => void;
  hearPart: (part: string | undefined) => void;
}

const NOTHING: Heeded = { muted: [], solo: [], bypassed: [] };
const WORDS: Record<Way, Heard> = { muted: "muted", solo: "alone", bypassed: "bypassed" };

/** What was selected and shown last at any bench. */
let last: Pick<BenchState, "selected" | "foot"> = { selected: [], foot: "lenses" };

/** Begins a bench; one that goes on has selected and shows what the last one had. */
export function createBench(goesOn = false): StoreApi<BenchState> {
  const bench = newBench(goesOn ? last : { selected: [], foot: "lenses" });
  bench.subscribe(({ selected, foot }) => (last = { selected, foot }));
  return bench;
}

const newBench = (begin: Pick<BenchState, "selected" | "foot">): StoreApi<BenchState> =>
  createStore<BenchState>()((put) => ({
    ...begin,
    line: undefined,
    wide: false,
    asking: undefined,
    renaming: undefined,
    said: undefined,
    heeded: NOTHING,
    touched: undefined,
    inCompany: "with",
    partAlone: undefined,
    select: (selected) => put({ selected, line: undefined }),
    selectLine: (line) => put(line ? { line, selected: [] } : { line }),
    show: (foot) => {
      unfoldFoot();
      put({ foot, wide: false });
    },
    toggleWide: () => put(({ wide }) => ({ wide: !wide })),
    ask: (asking) => put({ asking }),
    rename: (renaming) => put({ renaming }),
    touch: (touched) => put({ touched }),
    say: (said) => put({ said }),
    toggleHeard: (way, ids) => put(({ heeded }) => ({ heeded: toggled(heeded, way, ids) })),
    hearAll: () => put({ heeded: NOTHING }),
    hearIn: (inCompany) => put({ inCompany }),
    hearPart: (partAlone) => put({ partAlone }),
  }));

function toggled(heeded: Heeded, way: Way, ids: string[]): Heeded {
  const all = ids.every((id) => heeded[way].includes(id));
  const rest = heeded[way].filter((id) => !ids.includes(id));
  return { ...heeded, [way]: all ? rest : [...rest, ...ids] };
}

/** What is heard otherwise than written, if anything is. */
export const listeningOf = ({ heeded }: Pick<BenchState, "heeded">): Listening | undefined =>
  Object.values(heeded).some((ids) => ids.length > 0) ? heeded : undefined;

/** How a module is heard, if otherwise than written. */
export function heardAs({ heeded }: Pick<BenchState, "heeded">, id: string): Heard | undefined {
  const way = (Object.keys(WORDS) as Way[]).find((one) => heeded[one].includes(id));
  return way && WORDS[way];
}
