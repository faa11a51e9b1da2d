import { useState } from "react";

import type { Connection, Ends, Finding, Measure, Patch, StepMark } from "../api/client";
import { type Catalogue, lineKey, split } from "../api/patch";
import { flowOf } from "./flow";
import type { Layout, Line } from "./layout";
import type { Heard } from "./ModuleCard";
import type { Shown } from "./sections";
import type { Pull } from "./usePull";

/** What can be done with the map from outside: by keys and by buttons. */
export interface MapHandle {
  zoomBy: (factor: number) => void;
  fit: () => void;
  closeUp: () => void;
  focusCard: (id: string) => void;
}

/** What the map is given. */
export interface MapProps {
  patch: Patch;
  /** The patch of the step before: what it does not have is drawn in ink, the rest lighter. */
  before: Patch | undefined;
  catalogue: Catalogue;
  measures: Record<string, Measure> | undefined;
  /** Why those modules are silent that are. */
  silences: Record<string, string> | undefined;
  findings: Finding[];
  marks: StepMark[];
  /** For a silent patch, the modules that still give sound. */
  reach: string[] | undefined;
  heard: (id: string) => Heard | undefined;
  selected: string[];
  line: Ends | undefined;
  renaming: string | undefined;
  onSelect: (ids: string[]) => void;
  onLine: (ends: Ends) => void;
  /** Without it nothing can be changed. */
  onConnect: ((from: string, to: string | undefined) => void) | undefined;
  onOpen: (id: string) => void;
  onRenamed: (id: string, label: string | undefined) => void;
  /** Takes the map while it is there. */
  hold: ((handle: MapHandle | null) => void) | undefined;
  /** How much larger than usual all is drawn: for a projector. */
  zoom: number;
}

/** What all parts of the drawing stand on. */
export interface Drawing extends Omit<MapProps, "hold"> {
  shown: Shown;
  drawn: Layout;
  light: Light;
  /** The cards of a close-up, if there is one. */
  around: Set<string> | undefined;
  /** The card that the Tab key comes to. */
  focusable: string | undefined;
  /** By how much texts grow where the whole map is drawn smaller than it is. */
  growth: number;
  pull: Pull;
  focusCard: (id: string) => void;
}

/** What the pointer or the keys are at, and the flow that it lights up. */
export function useLight(patch: Patch, chosenLine: Ends | undefined) {
  const [hovered, setHovered] = useState<string | Ends>();
  const [focused, setFocused] = useState<string>();
  const gone = typeof hovered === "string" && !patch.modules.some((one) => one.id === hovered);
  const looked = gone ? undefined : hovered;
  const flow = flowOf(patch, looked ?? chosenLine);
  return { looked, focused, flow, lit: flow ?? flowOf(patch, focused), setHovered, setFocused };
}

type Light = ReturnType<typeof useLight>;

/** The connections of the patch that a drawn line stands for. */
export const realEnds = (line: Line, shown: Shown): Connection[] =>
  line.connections.flatMap((one) => shown.behind.get(lineKey(one)) ?? [one]);

export function isChosen(line: Line, { shown, line: chosen }: Drawing): boolean {
  return chosen !== undefined && realEnds(line, shown).some((one) => lineKey(one) === lineKey(chosen));
}

export function lightOf(line: Line, { around, light }: Drawing) {
  if (around) return line.connections.every((one) => around.has(split(one.to)[0])) ? "plain" : "dim";
  const { lit, flow } = light;
  if (!lit) return "plain";
  if (line.connections.some((one) => lit.lines.has(lineKey(one)))) return "lit";
  return flow ? "dim" : "plain";
}
