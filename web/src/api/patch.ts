import type {
  Connection,
  Ends,
  InputType,
  Module,
  ModuleType,
  NumberType,
  OutputType,
  Patch,
  RulerType,
} from "./client";

/** A port's module and its name, as in “reed.out”. */
export function split(port: string): [module: string, name: string] {
  const dot = port.indexOf(".");
  return [port.slice(0, dot), port.slice(dot + 1)];
}

export type Catalogue = ReadonlyMap<string, ModuleType>;

export function titleOf(module: Module, catalogue: Catalogue): string {
  return module.label || (catalogue.get(module.type)?.title ?? module.type);
}

export function inputOf(patch: Patch, port: string, catalogue: Catalogue): InputType | undefined {
  const [id, name] = split(port);
  const module = patch.modules.find((one) => one.id === id);
  return catalogue.get(module?.type ?? "")?.inputs.find((input) => input.name === name);
}

export function outputOf(patch: Patch, port: string, catalogue: Catalogue): OutputType | undefined {
  const [id, name] = split(port);
  const module = patch.modules.find((one) => one.id === id);
  return catalogue.get(module?.type ?? "")?.outputs.find((output) => output.name === name);
}

/** Whether a connection carries sound along the path: it goes through, and one of its ends is sound. */
export function carriesSound(patch: Patch, connection: Connection, catalogue: Catalogue): boolean {
  const input = inputOf(patch, connection.to, catalogue);
  if (!input?.goes_through) return false;
  return input.kind === "audio" || outputOf(patch, connection.from, catalogue)?.kind === "audio";
}

/** The module by which a patch is heard, if it has one. */
export const outputModule = (patch: Patch, catalogue: Catalogue): Module | undefined =>
  patch.modules.find((one) => catalogue.get(one.type)?.usually === "output");

/** Whether a patch has but one of a module's kind, which stands outside of all sections. */
export const isSingle = (module: Module | undefined, catalogue: Catalogue): boolean =>
  module !== undefined && (catalogue.get(module.type)?.single ?? false);

/** The output that stands for a module: what its card shows and what a lens looks at first. */
export function mainOutput(module: Module, catalogue: Catalogue): string | undefined {
  const main = catalogue.get(module.type)?.main;
  return main ? `${module.id}.${main}` : undefined;
}

/** The value of a setting, given or by default. */
export function settingOf(module: Module, type: ModuleType, name: string): number | string {
  const given = module.settings?.[name];
  if (given !== undefined && !Array.isArray(given)) return given;
  const choice = type.choices.find((one) => one.name === name);
  if (choice) return choice.default;
  return rulerOf(type, name)?.default ?? 0;
}

/** The numbers of a row, as far as they are given. */
export function rowOf(module: Module, name: string): number[] {
  const given = module.settings?.[name];
  return Array.isArray(given) ? given : [];
}

export function rulerOf(type: ModuleType, name: string) {
  return (
    type.inputs.find((input) => input.name === name)?.ruler ??
    type.numbers.find((number) => number.name === name)?.ruler
  );
}

/** The ruler of a number that is set, which may depend on the module's other settings. */
export function rulerBeside(module: Module, type: ModuleType, number: NumberType): RulerType {
  const { scaled, ruler } = number;
  if (!scaled) return ruler;
  const value = (name: string) => Number(settingOf(module, type, name));
  const [low = 0, high = 0] = [value(scaled.low), value(scaled.high)].toSorted((a, b) => a - b);
  const travel = settingOf(module, type, scaled.travel) === "log" && low > 0 ? "log" : "linear";
  const usual = Math.min(high, Math.max(low, ruler.default));
  return { ...ruler, low, high, default: usual, step: value(scaled.step) || ruler.step, travel };
}

/** The connection between two ports, if there is one. */
export const lineBetween = (patch: Patch, ends: Ends): Connection | undefined =>
  patch.connections.find((one) => one.from === ends.from && one.to === ends.to);

export const endsOf = (connection: Ends): Ends => ({ from: connection.from, to: connection.to });

export const lineKey = (ends: Ends): string => `${ends.from}>${ends.to}`;

/** What a port is called: its module alone for the way out, else with the port's name. */
export function portTitle(patch: Patch, port: string, catalogue: Catalogue): string {
  const [id, name] = split(port);
  const module = patch.modules.find((one) => one.id === id);
  const title = module ? titleOf(module, catalogue) : id;
  return name === "out" ? title : `${title}’s ${spoken(name)}`;
}

/** Whether what goes into a module comes out of it changed, so that one can go past it. */
export const letsThrough = (module: Module, catalogue: Catalogue): boolean => {
  const type = catalogue.get(module.type);
  return type !== undefined && type.inputs.some((input) => input.goes_through);
};

/** Whether what stands for a module is sound. */
export const isSound = (module: Module, catalogue: Catalogue): boolean =>
  catalogue.get(module.type)?.sounds ?? false;

export const isSection = (patch: Patch, id: string): boolean =>
  patch.sections.some((section) => section.id === id);

/** A name of the program's as people write it: gate_length is “gate length”, row1 “row 1”. */
export const spoken = (name: string): string => name.replaceAll("_", " ").replace(/(?<=[a-z])(?=\d)/g, " ");
