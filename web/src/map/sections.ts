import type { Connection, InputType, Measure, ModuleType, Patch, Section } from "../api/client";
import { type Catalogue, split } from "../api/patch";

/** A patch as the map shows it: closed sections are single cards, with a type of their own. */
export interface Shown {
  patch: Patch;
  catalogue: Catalogue;
  /** The real connections behind each shown one, by “from>to”. */
  behind: Map<string, Connection[]>;
}

export const SECTION = "section:";

/** The sections that a module is in, or a section stands within, the innermost first. */
export function sectionsAround({ sections }: Patch, id: string): Section[] {
  const own = sections.find((one) => one.id === id);
  const member = own?.modules[0] ?? id;
  return sections
    .filter((one) => one.modules.includes(member) && one.modules.length > (own?.modules.length ?? 0))
    .toSorted((a, b) => a.modules.length - b.modules.length);
}

export function shownOf(patch: Patch, catalogue: Catalogue): Shown {
  // what stands within a closed one is not seen: each module is at home in the outermost
  const closed = patch.sections
    .filter((section) => !section.open)
    .toSorted((a, b) => a.modules.length - b.modules.length);
  const behind = new Map<string, Connection[]>();
  const add = (connection: Connection, real: Connection) => {
    const key = `${connection.from}>${connection.to}`;
    behind.set(key, [...(behind.get(key) ?? []), real]);
  };
  const homes = new Map(
    closed.flatMap((section) => section.modules.map((module) => [module, section] as const)),
  );
  const moved = (port: string) => {
    const section = homes.get(split(port)[0]);
    return section ? `${section.id}.${portIn(section, port)}` : port;
  };
  const inner = (connection: Connection) => {
    const home = homes.get(split(connection.from)[0]);
    return home !== undefined && home === homes.get(split(connection.to)[0]);
  };
  const connections = patch.connections
    .filter((connection) => !inner(connection))
    .map((real) => {
      const shown = {
        ...real,
        from: moved(real.from),
        to: moved(real.to),
        scaled_by: real.scaled_by ? moved(real.scaled_by) : null,
      };
      add(shown, real);
      return shown;
    });
  const modules = patch.modules.flatMap((module) => {
    const section = homes.get(module.id);
    if (!section) return [module];
    if (section.modules[0] !== module.id) return [];
    return [{ id: section.id, type: `${SECTION}${section.id}`, label: section.label, settings: {} }];
  });
  const types = new Map(catalogue);
  for (const section of closed) types.set(`${SECTION}${section.id}`, typeOf(section, patch, catalogue));
  return { patch: { ...patch, modules, connections }, catalogue: types, behind };
}

/** The name by which a section calls a port of one of its modules, as part of an address. */
function portIn(section: Section, port: string): string {
  const found = [...section.inputs, ...section.outputs].find((one) => one.port === port);
  return found?.name ?? port.replace(".", " ");
}

function typeOf(section: Section, patch: Patch, catalogue: Catalogue): ModuleType {
  const typeOfPort = (port: string) =>
    catalogue.get(patch.modules.find((one) => one.id === split(port)[0])?.type ?? "");
  const inputs = section.inputs.flatMap((one): InputType[] => {
    const port = typeOfPort(one.port)?.inputs.find((input) => input.name === split(one.port)[1]);
    return port ? [{ ...port, name: one.name }] : [];
  });
  const outputs = section.outputs.flatMap((one) => {
    const port = typeOfPort(one.port)?.outputs.find((output) => output.name === split(one.port)[1]);
    return port ? [{ ...port, name: one.name }] : [];
  });
  const sounds = outputs.some((output) => output.kind === "audio");
  return {
    name: `${SECTION}${section.id}`,
    family: sounds ? (inputs.some((input) => input.kind === "audio") ? "shape" : "source") : "steer",
    title: section.label,
    summary: `A section of ${section.modules.length} modules.`,
    words: [],
    explanation: "",
    seen_over: "phrase",
    usually: "steers",
    picture: "",
    main: outputs[0]?.name ?? null,
    sounds,
    single: false,
    inputs,
    outputs,
    numbers: [],
    choices: [],
    rows: [],
    shakes: false,
  };
}

/** The measures of the shown patch: a section's are those of the port behind its first output. */
export function shownMeasure(
  section: Section | undefined,
  measures: Record<string, Measure> | undefined,
): Measure | undefined {
  const port = section?.outputs[0]?.port;
  return port === undefined ? undefined : measures?.[port];
}
