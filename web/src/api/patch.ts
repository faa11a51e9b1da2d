import type { Connection, Ends, InputType, Module, ModuleType, Patch, Value } from "./client";

/** A port's module and its name, as in “reed.out”. */
export function split(port: string): [module: string, name: string] {
  const dot = port.indexOf(".");
  return [port.slice(0, dot), port.slice(dot + 1)];
}

export type Catalogue = ReadonlyMap<string, ModuleType>;

export const modulesOf = (patch: Patch): Module[] => patch.modules;
export const connectionsOf = (patch: Patch): Connection[] => patch.connections;

export function titleOf(module: Module, catalogue: Catalogue): string {
  return module.label || (catalogue.get(module.type)?.title ?? module.type);
}

export function inputOf(patch: Patch, port: string, catalogue: Catalogue): InputType | undefined {
  const [id, name] = split(port);
  const module = modulesOf(patch).find((one) => one.id === id);
  return catalogue.get(module?.type ?? "")?.inputs.find((input) => input.name === name);
}

/** Whether a connection carries sound, rather than steering something. */
export const carriesSound = (patch: Patch, connection: Connection, catalogue: Catalogue) =>
  inputOf(patch, connection.to, catalogue)?.kind === "audio";

/** The output that stands for a module: what its card shows and what a lens looks at first. */
export function mainOutput(module: Module, catalogue: Catalogue): string | undefined {
  const outputs = catalogue.get(module.type)?.outputs ?? [];
  const main = outputs.find((output) => output.name === "out" || output.name === "gate") ?? outputs[0];
  return main && `${module.id}.${main.name}`;
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

export function withSetting(patch: Patch, id: string, name: string, value: Value): Patch {
  const modules = modulesOf(patch).map((module) =>
    module.id === id ? { ...module, settings: { ...module.settings, [name]: value } } : module,
  );
  return { ...patch, modules };
}

/** The connection between two ports, if there is one. */
export const lineBetween = (patch: Patch, ends: Ends): Connection | undefined =>
  connectionsOf(patch).find((one) => one.from === ends.from && one.to === ends.to);

export const endsOf = (connection: Ends): Ends => ({ from: connection.from, to: connection.to });

export const lineKey = (ends: Ends): string => `${ends.from}>${ends.to}`;

/** What a port is called: its module alone for the way out, else with the port's name. */
export function portTitle(patch: Patch, port: string, catalogue: Catalogue): string {
  const [id, name] = split(port);
  const module = modulesOf(patch).find((one) => one.id === id);
  const title = module ? titleOf(module, catalogue) : id;
  return name === "out" ? title : `${title}’s ${name.replace("_", " ")}`;
}

/** Whether what goes into a module comes out of it changed, so that one can go past it. */
export const letsThrough = (module: Module, catalogue: Catalogue): boolean => {
  const type = catalogue.get(module.type);
  return (
    type !== undefined &&
    type.outputs.length > 0 &&
    type.inputs.some((input) => /^(in\d?|left|right|a|b)$/.test(input.name))
  );
};

/** Whether what stands for a module is sound. */
export function isSound(module: Module, catalogue: Catalogue): boolean {
  const main = mainOutput(module, catalogue);
  return (
    main !== undefined &&
    catalogue.get(module.type)?.outputs.find((one) => one.name === split(main)[1])?.kind === "audio"
  );
}
