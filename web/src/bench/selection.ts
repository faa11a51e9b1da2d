import type { Connection, Module, Section } from "../api/client";
import { isSingle, lineBetween } from "../api/patch";
import { sectionsAround } from "../map/sections";
import type { BenchView } from "./BenchContext";

type Chosen = Pick<BenchView, "patch" | "catalogue" | "chosen" | "state">;

/** The selected modules; of a closed section, all that are in it. */
export function selectedModules({ patch, chosen }: Pick<Chosen, "patch" | "chosen">): string[] {
  const present = new Set(patch.modules.map((one) => one.id));
  return chosen.flatMap((id) => {
    if (present.has(id)) return [id];
    return patch.sections.find((section) => section.id === id)?.modules ?? [];
  });
}

export interface Selection {
  /** The selected modules, those of them that can be moved and removed, and the first. */
  ids: string[];
  movable: string[];
  first: Module | undefined;
  /** The section that is selected, or that the first module is in. */
  section: Section | undefined;
  line: Connection | undefined;
}

/** What moves are about. */
export function selectionOf(view: Chosen): Selection {
  const { patch, catalogue, chosen, state } = view;
  const ids = selectedModules(view);
  const modules = new Map(patch.modules.map((one) => [one.id, one]));
  const first = ids[0] === undefined ? undefined : modules.get(ids[0]);
  const section =
    patch.sections.find((one) => one.id === chosen[0]) ?? (first && sectionsAround(patch, first.id)[0]);
  const line = state.line && lineBetween(patch, state.line);
  return { ids, movable: ids.filter((id) => !isSingle(modules.get(id), catalogue)), first, section, line };
}
