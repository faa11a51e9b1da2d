import type {
  Edit,
  Ends,
  InputType,
  Measure,
  Module,
  ModuleType,
  NumberType,
  Patch,
  RowType,
  RulerType,
  Value,
} from "../api/client";
import { type Catalogue, rowOf, rulerBeside, settingOf, titleOf } from "../api/patch";
import { rules } from "../api/rules";
import { Bars } from "../ui/Bars";
import { NumberEntry } from "../ui/NumberEntry";
import { Ruler } from "../ui/Ruler";
import { Segments } from "../ui/Segments";
import type { Connecting } from "./ConnectPanel";
import { ModulePicture } from "./ModulePicture";
import { SectionInspector } from "./SectionInspector";
import { AddSource, Sources, sourcesOf } from "./Sources";

interface Props {
  patch: Patch;
  before: Patch | undefined;
  catalogue: Catalogue;
  measures: Record<string, Measure> | undefined;
  selected: string | undefined;
  line: Ends | undefined;
  onLine: (ends: Ends) => void;
  /** Without these nothing can be changed. */
  onSet: ((module: string, setting: string, value: Value) => void) | undefined;
  onEdit: ((edits: Edit[]) => void) | undefined;
  onConnect: ((connecting: Connecting) => void) | undefined;
  onSelect: (id: string) => void;
}

/** The selected module: what it is, its picture, its rulers and choices, and under each input what steers it. */
export function Inspector(props: Props) {
  const { patch, before, catalogue, selected, onEdit, onSet } = props;
  const module = patch.modules.find((one) => one.id === selected);
  const section = patch.sections.find((one) => one.id === selected);
  const type = module && catalogue.get(module.type);
  if (section)
    return (
      <SectionInspector
        key={section.id}
        section={section}
        patch={patch}
        catalogue={catalogue}
        onEdit={onEdit}
      />
    );
  if (!module || !type) {
    return (
      <p className="p-4 font-read text-soft italic">
        Choose a card on the map to see and change its settings.
      </p>
    );
  }
  const old = before?.modules.find((one) => one.id === module.id && one.type === module.type);
  const set = onSet && ((name: string, value: Value) => onSet(module.id, name, value));
  const title = titleOf(module, catalogue);
  const home = patch.sections.find((one) => one.modules.includes(module.id));
  return (
    <section aria-label={`Settings of ${title}`} className="px-4 py-3">
      <Title
        key={`${module.id}${module.label}`}
        label={module.label}
        title={title}
        onRename={onEdit && ((label) => onEdit([{ kind: "rename", module: module.id, label }]))}
      />
      <p className="truncate text-soft" title={`${type.summary} ${type.explanation}`}>
        <b className="font-medium text-ink">{type.title}.</b> {type.summary}
      </p>
      {home && (
        <p className="text-soft">
          In the section{" "}
          <button
            type="button"
            className="font-medium text-ink underline decoration-firm decoration-dotted hover:text-this"
            onClick={() => props.onSelect(home.id)}
          >
            {home.label}
          </button>
        </p>
      )}
      <ModulePicture module={module} type={type} before={old} onSet={set} />
      <Settings {...props} module={module} type={type} old={old} set={set} />
      {type.usually === "player" && (
        <Voices
          voices={patch.voices}
          onChange={onEdit && ((voices) => onEdit([{ kind: "voices", voices }]))}
        />
      )}
    </section>
  );
}

/** How many notes can sound at once, each with modules of its own. */
function Voices({ voices, onChange }: { voices: number; onChange: ((voices: number) => void) | undefined }) {
  return (
    <div className="mt-1.5 flex items-baseline gap-2" title="Each note then has modules of its own.">
      <span className="flex-1">Notes at once</span>
      <NumberEntry
        label="Notes at once"
        ruler={rules.voices}
        value={voices}
        onCommit={onChange && ((count) => onChange(Math.round(count)))}
      />
    </div>
  );
}

interface TitleProps {
  label: string;
  title: string;
  onRename: ((label: string) => void) | undefined;
}

/** The module's name, changed where it stands. */
export function Title({ label, title, onRename }: TitleProps) {
  const look = "font-read text-xl leading-tight font-semibold";
  if (!onRename) return <h2 className={look}>{title}</h2>;
  const commit = (text: string) => {
    if (text !== title && text !== label) onRename(text);
  };
  return (
    <h2 className={look}>
      <input
        aria-label="Name"
        defaultValue={title}
        maxLength={60}
        className="w-full rounded-sm bg-transparent hover:bg-this/5 focus:bg-leaf"
        onBlur={(event) => commit(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
          if (event.key === "Escape") {
            event.currentTarget.value = title;
            event.currentTarget.blur();
          }
        }}
      />
    </h2>
  );
}

interface SettingsProps extends Props {
  module: Module;
  type: ModuleType;
  old: Module | undefined;
  set: ((name: string, value: Value) => void) | undefined;
}

/** Base values that somebody uses come first; those of inputs that nobody has touched wait under “More”. */
function Settings(props: SettingsProps) {
  const { module, type, old, patch, set } = props;
  const rulers = type.inputs.filter((input) => input.ruler);
  const plain = type.inputs.filter((input) => !input.ruler);
  const inUse = (one: InputType | NumberType) => !one.rare || touched(module, patch, type, one);
  const shownInputs = rulers.filter(inUse);
  const shownNumbers = type.numbers.filter(inUse);
  const waitingInputs = rulers.filter((input) => !inUse(input));
  const waitingNumbers = type.numbers.filter((number) => !inUse(number));
  const inputs = (some: InputType[]) =>
    some.map((input) => <InputRuler key={input.name} {...props} input={input} />);
  const numbers = (some: ModuleType["numbers"]) =>
    some.map((one) => (
      <SettingRuler
        key={one.name}
        {...props}
        name={one.name}
        help={one.help}
        ruler={rulerBeside(module, type, one)}
      />
    ));
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
  const rare = [...waitingInputs, ...waitingNumbers];
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
      {inputs(shownInputs)}
      {numbers(shownNumbers)}
      {steers && choices}
      {plain.length > 0 && <h3 className="mt-3 font-semibold text-soft">What comes in</h3>}
      {plain.map((input) => (
        <PlainInput key={input.name} {...props} input={input} />
      ))}
      {rare.length > 0 && (
        <details className="mt-3">
          <summary className="cursor-pointer text-soft hover:text-ink">
            More: {rare.map((one) => one.name).join(", ")}
          </summary>
          {inputs(waitingInputs)}
          {numbers(waitingNumbers)}
        </details>
      )}
    </>
  );
}

interface SettingRulerProps extends SettingsProps {
  name: string;
  help: string;
  ruler: RulerType;
}

function SettingRuler({
  module,
  type,
  old,
  patch,
  measures,
  set,
  name,
  help,
  ruler,
  ...rest
}: SettingRulerProps) {
  return (
    <Ruler
      label={name.replace("_", " ")}
      help={help}
      ruler={ruler}
      value={Number(settingOf(module, type, name))}
      before={old && Number(settingOf(old, type, name))}
      moved={moved(patch, measures, `${module.id}.${name}`)}
      onChange={set && ((value) => set(name, value))}
      beside={<AddSourceTo {...rest} module={module} name={name} type={type} />}
    />
  );
}

/** The ruler of an input's base value, and beneath it what moves it. */
function InputRuler({ input, ...props }: SettingsProps & { input: InputType }) {
  if (!input.ruler) return null;
  return (
    <>
      <SettingRuler {...props} name={input.name} help={input.help} ruler={input.ruler} />
      <SourcesOf {...props} input={input} />
    </>
  );
}

/** An input without a base value: only what comes in. */
function PlainInput({ input, ...props }: SettingsProps & { input: InputType }) {
  const used = sourcesOf(props.patch, props.module, input).length > 0;
  return (
    <div className="border-t border-rule py-0.5">
      <div className="flex items-baseline justify-between">
        <span title={input.help} className={used ? "" : "text-soft"}>
          {input.name}
          {!used && ": nothing"}
        </span>
        <AddSourceTo {...props} name={input.name} />
      </div>
      <SourcesOf {...props} input={input} />
    </div>
  );
}

function SourcesOf({ input, ...props }: SettingsProps & { input: InputType }) {
  return (
    <Sources
      patch={props.patch}
      catalogue={props.catalogue}
      module={props.module}
      input={input}
      chosen={props.line}
      onChoose={props.onLine}
      onEdit={props.onEdit}
    />
  );
}

type AddSourceToProps = Pick<SettingsProps, "module" | "type" | "onConnect"> & { name: string };

function AddSourceTo({ module, type, onConnect, name }: AddSourceToProps) {
  const isInput = type.inputs.some((input) => input.name === name);
  if (!isInput || !onConnect) return null;
  return <AddSource name={name} onAdd={() => onConnect({ port: `${module.id}.${name}`, into: true })} />;
}

/** How much of a row is in use: as much as its module counts. */
function inUseOf(module: Module, type: ModuleType, row: RowType): number {
  return row.counted_by ? Number(settingOf(module, type, row.counted_by)) : row.length;
}

/** Whether a setting that most patches leave alone is of use in this one. */
function touched(module: Module, patch: Patch, type: ModuleType, one: InputType | NumberType): boolean {
  const [choice, option] = ("usual_with" in one && one.usual_with) || [];
  return (
    module.settings?.[one.name] !== undefined ||
    patch.connections.some((line) => line.to === `${module.id}.${one.name}`) ||
    (choice !== undefined && settingOf(module, type, choice) === option)
  );
}

function moved(
  patch: Patch,
  measures: Record<string, Measure> | undefined,
  port: string,
): [number, number] | undefined {
  const measure = measures?.[port];
  if (!measure || !patch.connections.some((one) => one.to === port)) return undefined;
  return [measure.least, measure.greatest];
}
