import type {
  Connection,
  InputType,
  Measure,
  Module,
  ModuleType,
  Patch,
  RowType,
  RulerType,
  Value,
} from "../api/client";
import {
  type Catalogue,
  connectionsOf,
  modulesOf,
  rowOf,
  settingOf,
  split,
  titleOf,
  withDepth,
  withSetting,
} from "../api/patch";
import { Bars } from "../ui/Bars";
import { NumberEntry } from "../ui/NumberEntry";
import { Ruler } from "../ui/Ruler";
import { Segments } from "../ui/Segments";
import { trimmed } from "../ui/units";

interface Props {
  patch: Patch;
  before: Patch | undefined;
  catalogue: Catalogue;
  measures: Record<string, Measure> | undefined;
  selected: string | undefined;
  onChange: ((patch: Patch) => void) | undefined;
}

/** The selected module: what it is, its rulers and choices, and what steers it. */
export function Inspector({ patch, before, catalogue, measures, selected, onChange }: Props) {
  const module = modulesOf(patch).find((one) => one.id === selected);
  const type = module && catalogue.get(module.type);
  if (!module || !type) {
    return (
      <p className="p-4 font-read text-soft italic">
        Choose a card on the map to see and change its settings.
      </p>
    );
  }
  const old = before?.modules.find((one) => one.id === module.id && one.type === module.type);
  const set =
    onChange && ((name: string, value: Value) => onChange(withSetting(patch, module.id, name, value)));
  return (
    <section aria-label={`Settings of ${titleOf(module, catalogue)}`} className="px-4 py-3">
      <h2 className="font-read text-xl leading-tight font-semibold">{titleOf(module, catalogue)}</h2>
      <p className="mb-1 text-soft">
        <b className="font-medium text-ink">{type.title}.</b> {type.summary}
      </p>
      <Settings module={module} type={type} old={old} patch={patch} measures={measures} set={set} />
      <Sources patch={patch} catalogue={catalogue} module={module} type={type} onChange={onChange} />
    </section>
  );
}

interface SettingsProps {
  module: Module;
  type: ModuleType;
  old: Module | undefined;
  patch: Patch;
  measures: Record<string, Measure> | undefined;
  set: ((name: string, value: Value) => void) | undefined;
}

interface Scale {
  name: string;
  help: string;
  ruler: RulerType;
}

/** Base values that somebody uses come first; those of inputs that nobody has touched wait under “More”. */
function Settings({ module, type, old, patch, measures, set }: SettingsProps) {
  const scales: Scale[] = [
    ...type.inputs.flatMap((input) =>
      input.ruler ? { name: input.name, help: input.help, ruler: input.ruler } : [],
    ),
    ...type.numbers,
  ];
  const inUse = (scale: Scale) => !RARE.has(scale.name) || touched(module, patch, scale.name);
  const draw = (scale: Scale) => (
    <Ruler
      key={scale.name}
      label={scale.name.replace("_", " ")}
      help={scale.help}
      ruler={scale.ruler}
      value={Number(settingOf(module, type, scale.name))}
      before={old && Number(settingOf(old, type, scale.name))}
      moved={moved(patch, measures, `${module.id}.${scale.name}`)}
      onChange={set && ((value) => set(scale.name, value))}
    />
  );
  const rare = scales.filter((scale) => !inUse(scale));
  const choices = type.choices.map((choice) => (
    <Segments
      key={choice.name}
      label={choice.name}
      help={choice.help}
      unit={choice.unit}
      options={choice.options.map((value, place) => ({ value, word: choice.words[place] ?? String(value) }))}
      value={settingOf(module, type, choice.name)}
      before={old && settingOf(old, type, choice.name)}
      onChange={set && ((value) => set(choice.name, value))}
    />
  ));
  const steers = type.family === "steer";
  return (
    <>
      {!steers && choices}
      {type.rows.map((row) => (
        <Bars
          key={row.name}
          label={row.name}
          help={row.help}
          ruler={row.ruler}
          length={row.length}
          inUse={inUseOf(module, type, row)}
          values={rowOf(module, row.name)}
          before={old && rowOf(old, row.name)}
          onChange={set && ((values) => set(row.name, values))}
        />
      ))}
      {scales.filter(inUse).map(draw)}
      {steers && choices}
      {rare.length > 0 && (
        <details className="mt-3">
          <summary className="cursor-pointer text-soft hover:text-ink">
            More: {rare.map((one) => one.name).join(", ")}
          </summary>
          {rare.map(draw)}
        </details>
      )}
    </>
  );
}

/** How much of a row is in use: as much as its module counts. */
function inUseOf(module: Module, type: ModuleType, row: RowType): number {
  const count = type.numbers.find((one) => one.name === "count" || one.name === "first");
  return count ? Number(settingOf(module, type, count.name)) : row.length;
}

/** Settings that most patches leave alone. */
const RARE = new Set(["pitch", "linear", "phase", "width", "ratio", "offset", "default"]);

const touched = (module: Module, patch: Patch, name: string) =>
  module.settings?.[name] !== undefined ||
  (name !== "pitch" && connectionsOf(patch).some((one) => one.to === `${module.id}.${name}`)) ||
  (name === "width" && module.settings?.["wave"] === "square");

function moved(
  patch: Patch,
  measures: Record<string, Measure> | undefined,
  port: string,
): [number, number] | undefined {
  const measure = measures?.[port];
  if (!measure || !connectionsOf(patch).some((one) => one.to === port)) return undefined;
  return [measure.least, measure.greatest];
}

interface SourcesProps {
  patch: Patch;
  catalogue: Catalogue;
  module: Module;
  type: ModuleType;
  onChange: Props["onChange"];
}

function Sources({ patch, catalogue, module, type, onChange }: SourcesProps) {
  const lines = type.inputs.flatMap((input) =>
    connectionsOf(patch)
      .filter((one) => one.to === `${module.id}.${input.name}`)
      .map((connection) => ({ input, connection })),
  );
  if (lines.length === 0) return null;
  return (
    <>
      <h3 className="mt-4 mb-1 font-semibold text-soft">What comes in</h3>
      <ul>
        {lines.map(({ input, connection }) => (
          <Source
            key={`${connection.from}>${connection.to}`}
            input={input}
            connection={connection}
            name={(port) => nameOf(patch, catalogue, port)}
            onDepth={onChange && ((depth) => onChange(withDepth(patch, connection, depth)))}
          />
        ))}
      </ul>
    </>
  );
}

function nameOf(patch: Patch, catalogue: Catalogue, port: string): string {
  const [id, name] = split(port);
  const module = modulesOf(patch).find((one) => one.id === id);
  const title = module ? titleOf(module, catalogue) : id;
  return name === "out" ? title : `${title}’s ${name}`;
}

interface SourceProps {
  input: InputType;
  connection: Connection;
  name: (port: string) => string;
  onDepth: ((depth: number) => void) | undefined;
}

const DEPTHS: RulerType = {
  low: -100_000,
  high: 100_000,
  default: 1,
  unit: "",
  step: 0.01,
  travel: "linear",
};

const PATTERNS: Record<InputType["kind"], string> = {
  audio: "border-t-[3px] border-solid",
  control: "border-t-2 border-dashed",
  pitch: "border-t-2 border-dotted",
  gate: "border-t border-solid",
};

function Source({ input, connection, name, onDepth }: SourceProps) {
  return (
    <li className="grid grid-cols-[22px_1fr_auto] items-baseline gap-x-2 border-t border-rule py-1">
      <span aria-hidden="true" className={`h-0 self-center border-ink ${PATTERNS[input.kind]}`} />
      <span>
        <b className="font-medium">{name(connection.from)}</b> <span className="text-soft">{input.name}</span>
        {connection.scaled_by && <span className="text-soft"> × {name(connection.scaled_by)}</span>}
      </span>
      {onDepth ? (
        <NumberEntry
          label={`Depth from ${name(connection.from)} to ${input.name}`}
          ruler={{ ...DEPTHS, unit: input.depth_unit }}
          value={connection.depth}
          onCommit={onDepth}
        />
      ) : (
        <span>
          {trimmed(connection.depth)} {input.depth_unit}
        </span>
      )}
    </li>
  );
}
