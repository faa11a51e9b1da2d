import { useState } from "react";

import type { Listening } from "../api/client";
import type { Heard } from "../map/ModuleCard";

type Way = "muted" | "solo" | "bypassed";

const WORDS: Record<Way, Heard> = { muted: "muted", solo: "alone", bypassed: "bypassed" };
const NOTHING = { muted: [], solo: [], bypassed: [] };

/** What is muted, bypassed or heard alone. It changes what is heard and measured, and never the lesson. */
export function useListening() {
  const [chosen, setChosen] = useState<Record<Way, string[]>>(NOTHING);
  const active = Object.values(chosen).some((ids) => ids.length > 0);
  const toggle = (way: Way, ids: string[]) => {
    const all = ids.every((id) => chosen[way].includes(id));
    const rest = chosen[way].filter((id) => !ids.includes(id));
    setChosen({ ...chosen, [way]: all ? rest : [...rest, ...ids] });
  };
  const heard = (id: string): Heard | undefined => {
    const way = (Object.keys(WORDS) as Way[]).find((one) => chosen[one].includes(id));
    return way && WORDS[way];
  };
  return {
    wish: active ? (chosen satisfies Listening) : undefined,
    active,
    toggle,
    heard,
    clear: () => setChosen(NOTHING),
  };
}

export type ListeningState = ReturnType<typeof useListening>;
