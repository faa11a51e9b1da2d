/** Which settings of a module are of use in a patch, and how. */

import type {
  ChoiceType,
  InputType,
  Measure,
  Module,
  ModuleType,
  NumberType,
  Patch,
  RowType,
  Value,
} from "../api/client";
import { type Catalogue, inputOf, settingOf, split } from "../api/patch";
import { sourcesOf } from "./Sources";

/** A module whose settings are shown, with what it was in the step before; without `set` nothing can be changed. */
export interface InspectedModule {
  module: Module;
  type: ModuleType;
  old: Module | undefined;
  set: ((name: string, value: Value) => void) | undefined;
}

/** What a row is in: semitones where it plays a pitch as it is. */
export function unitOf(patch: Patch, catalogue: Catalogue, module: Module, row: RowType): string {
  const lines = patch.connections.filter((one) => one.from === `${module.id}.${row.name}`);
  const isPitch = (port: string) => inputOf(patch, port, catalogue)?.kind === "pitch";
  const playing = lines.length > 0 && lines.every((one) => one.depth === 1 && isPitch(one.to));
  return playing ? "st" : row.ruler.unit;
}

/** Whether a row that most patches leave alone is of use in this one. */
export const isUsed = (module: Module, patch: Patch, row: RowType) =>
  module.settings?.[row.name] !== undefined ||
  patch.connections.some((line) => line.from === `${module.id}.${row.name}`);

/** Whether an input has a base value that counts: that of some does only while nothing is connected. */
export const counts = (module: Module, patch: Patch, input: InputType): boolean =>
  input.ruler !== null && !(input.alone && sourcesOf(patch, module, input).length > 0);

/** How much of a row is in use: as much as its module counts. */
export function inUseOf(module: Module, type: ModuleType, row: RowType): number {
  return row.counted_by ? Number(settingOf(module, type, row.counted_by)) : row.length;
}

/** Whether a setting does anything beside the others. */
export function works({ module, type }: InspectedModule, one: InputType | NumberType | ChoiceType): boolean {
  const [choice, option] = one.works_with ?? [];
  const asInput = "rare" in one && one.rare; // those wait under “More” in any case
  return choice === undefined || asInput || settingOf(module, type, choice) === option;
}

/** Whether a setting that most patches leave alone is of use in this one. */
export function touched(
  { module, type }: InspectedModule,
  patch: Patch,
  catalogue: Catalogue,
  one: InputType | NumberType,
): boolean {
  const [choice, option] = one.works_with ?? [];
  return (
    module.settings?.[one.name] !== undefined ||
    patch.connections.some((line) => line.to === `${module.id}.${one.name}`) ||
    (one.steering && movesOthers(patch, module, catalogue)) ||
    ("channel" in one && one.channel !== "" && hasChannel(patch, module, type, one.channel)) ||
    (choice !== undefined && settingOf(module, type, choice) === option)
  );
}

/** Whether something is connected to a channel. */
export const hasChannel = (patch: Patch, module: Module, type: ModuleType, channel: string) =>
  type.inputs.some(
    (one) =>
      one.channel === channel && patch.connections.some((line) => line.to === `${module.id}.${one.name}`),
  );

/** Whether a module moves others, and is not only heard. */
export const movesOthers = (patch: Patch, module: Module, catalogue: Catalogue) =>
  patch.connections.some(
    (line) => split(line.from)[0] === module.id && !inputOf(patch, line.to, catalogue)?.goes_through,
  );

export function moved(
  patch: Patch,
  measures: Record<string, Measure> | undefined,
  port: string,
): [number, number] | undefined {
  const measure = measures?.[port];
  if (!measure || !patch.connections.some((one) => one.to === port)) return undefined;
  return [measure.least, measure.greatest];
}
