import { useState } from "react";

import type { Ends } from "../api/client";
import type { Connecting } from "./ConnectPanel";

export type Foot = "lenses" | "connections" | "checkup" | "phrase";

/** What is asked before something is done. */
export type Asking =
  | { what: "add" }
  | { what: "replace"; module: string }
  | { what: "connect"; connecting: Connecting }
  | { what: "group"; modules: string[] }
  | { what: "keys" };

/** A module that is pointed to from elsewhere on the page. */
export interface LookAt {
  module: string;
}

/** What is selected, shown and asked at the bench: nothing of it belongs to the lesson. */
export function useBenchState(foot: Foot, onFoot: (foot: Foot) => void, lookAt: LookAt | undefined) {
  const [selected, setSelected] = useState<string[]>([]);
  const [line, setLine] = useState<Ends>();
  const [looked, setLooked] = useState<LookAt>();
  if (lookAt !== looked) {
    setLooked(lookAt);
    if (lookAt) setSelected([lookAt.module]);
    setLine(undefined);
  }
  const [asking, setAsking] = useState<Asking>();
  const [renaming, setRenaming] = useState<string>();
  const [wide, setWide] = useState(false);
  const [said, setSaid] = useState<string>();
  return {
    selected,
    line,
    asking,
    renaming,
    wide,
    said,
    foot,
    select: (ids: string[]) => {
      setSelected(ids);
      setLine(undefined);
    },
    selectLine: (ends: Ends | undefined) => {
      setLine(ends);
      if (ends) setSelected([]);
    },
    ask: setAsking,
    rename: setRenaming,
    toggleWide: () => setWide(!wide),
    /** Shows something beneath the map, which then no longer fills the bench. */
    show: (wanted: Foot) => {
      onFoot(wanted);
      setWide(false);
    },
    say: setSaid,
  };
}

export type BenchState = ReturnType<typeof useBenchState>;
