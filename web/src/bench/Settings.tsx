import { useQuery } from "@tanstack/react-query";

import type {
  ChoiceType,
  InputType,
  Module,
  ModuleType,
  NumberType,
  RowType,
  RulerType,
  Value,
} from "../api/client";
import { client, got } from "../api/client";
import { rowOf, rulerBeside, settingOf, spoken } from "../api/patch";
import { Bars } from "../ui/Bars";
import { Ruler } from "../ui/Ruler";
import { OneOf } from "../ui/OneOf";
import { Segments } from "../ui/Segments";
import { SoundField } from "./sounds/SoundField";
import { useBench } from "./BenchContext";
import {
  counts,
  hasChannel,
  type InspectedModule,
  inUseOf,
  isUsed,
  moved,
  touched,
  unitOf,
  works,
} from "./inUse";
import { AddSource, Sources, sourcesOf } from "./Sources";

/** Base values that somebody uses come first; those of inputs that nobody has touched wait under “More”. */
export function Settings(props: InspectedModule) {
  const { patch, catalogue } = useBench();
  const { module, type } = props;
  const rulers = type.inputs.filter((input) => counts(module, patch, input));
  const plain = type.inputs.filter((input) => !counts(module, patch, input));
  const inUse = (one: InputType | NumberType) =>
    works(props, one) && (!one.rare || touched(props, patch, catalogue, one));
  const isBehind = (choice: ChoiceType) => type.family === "steer" || choice.behind;
  const choices = type.choices.filter(
    (one) =>
      works(props, one) &&
      (one.channel === "" ||
        module.settings?.[one.name] !== undefined ||
        hasChannel(patch, module, type, one.channel)),
  );
  const rowInUse = (row: RowType) => !row.rare || isUsed(module, patch, row);
  return (
    <>
      <Choices {...props} As={Segments} choices={choices.filter((one) => !isBehind(one))} />
      <Rows {...props} rows={type.rows.filter(rowInUse)} />
      <Rulers {...props} inputs={rulers.filter(inUse)} numbers={type.numbers.filter(inUse)} />
      <Choices {...props} As={OneOf} choices={choices.filter(isBehind)} />
      {plain.length > 0 && <h3 className="mt-3 font-semibold text-soft">What comes in</h3>}
      {plain.map((input) => (
        <PlainInput key={input.name} {...props} input={input} />
      ))}
      <More
        {...props}
        inputs={rulers.filter((one) => !inUse(one))}
        numbers={type.numbers.filter((one) => !inUse(one) && works(props, one))}
        rows={type.rows.filter((one) => !rowInUse(one))}
      />
    </>
  );
}

interface ChoicesProps extends InspectedModule {
  choices: ChoiceType[];
  /** Side by side, or as it fits. */
  As: typeof OneOf;
}

function Choices({ module, type, old, set, choices, As }: ChoicesProps) {
  const { edit } = useBench();
  const choose = ({ name, begins }: ChoiceType, value: Value) =>
    begins ? edit?.([{ kind: "set", module: module.id, setting: name, value }]) : set?.(name, value);
  return choices.map((choice) =>
    choice.own ? (
      <SoundField
        key={choice.name}
        {...{ module, type, old, set }}
        setting={choice.name}
        help={choice.help}
      />
    ) : (
      <As
        key={choice.name}
        label={spoken(choice.name)}
        help={choice.help}
        unit={choice.unit}
        options={choice.options.map((value, place) => ({
          value,
          word: choice.words[place] ?? String(value),
        }))}
        value={settingOf(module, type, choice.name)}
        before={old && settingOf(old, type, choice.name)}
        onChange={set && ((value) => choose(choice, value))}
      />
    ),
  );
}

type RowsProps = InspectedModule & { rows: RowType[] };

function Rows({ module, type, old, set, rows }: RowsProps) {
  const { patch, catalogue } = useBench();
  const sounding = useSounding(module, type);
  return rows.map((row) => (
    <Bars
      key={row.name}
      label={spoken(row.name)}
      help={row.help}
      ruler={{ ...row.ruler, unit: unitOf(patch, catalogue, module, row) }}
      length={row.length}
      inUse={inUseOf(module, type, row)}
      counted={row.counted_by !== ""}
      sounding={sounding?.[row.name]}
      values={rowOf(module, row.name)}
      before={old && rowOf(old, row.name)}
      onChange={set && ((values) => set(row.name, values))}
    />
  ));
}

/** The rows of a module as they sound, where that is otherwise than they are written. */
function useSounding(module: Module, type: ModuleType): Record<string, number[]> | undefined {
  const { data } = useQuery({
    queryKey: ["rows", module.type, module.settings],
    enabled: type.shakes,
    staleTime: Infinity,
    placeholderData: (previous) => previous,
    queryFn: () => got(client.POST("/api/patches/rows", { body: { module } })),
  });
  return data;
}

type RulersProps = InspectedModule & { inputs: InputType[]; numbers: NumberType[] };

function Rulers({ inputs, numbers, ...props }: RulersProps) {
  const { module, type } = props;
  return (
    <>
      {inputs.map((input) => (
        <InputRuler key={input.name} {...props} input={input} />
      ))}
      {numbers.map((one) => (
        <SettingRuler
          key={one.name}
          {...props}
          name={one.name}
          help={one.help}
          ruler={rulerBeside(module, type, one)}
        />
      ))}
    </>
  );
}

/** The types of module whose rare settings somebody has opened: they stay so, whatever is selected next. */
const opened = new Set<string>();

function More(props: RulersProps & RowsProps) {
  const rare = [...props.rows, ...props.inputs, ...props.numbers];
  if (rare.length === 0) return null;
  const { name } = props.type;
  return (
    <details
      className="mt-3"
      open={opened.has(name)}
      onToggle={({ currentTarget: { open } }) => (open ? opened.add(name) : opened.delete(name))}
    >
      <summary className="cursor-pointer text-soft hover:text-ink">
        More: {rare.map(wordsFor).join(", ")}
      </summary>
      <Rows {...props} />
      <Rulers {...props} />
    </details>
  );
}

interface SettingRulerProps extends InspectedModule {
  name: string;
  help: string;
  ruler: RulerType;
  /** What people call it. */
  label?: string;
  pitch?: boolean;
}

/** What people call an input or a setting. */
const wordsFor = (one: InputType | NumberType | RowType) => ("words" in one ? one.words : spoken(one.name));

function SettingRuler(props: SettingRulerProps) {
  const { module, type, old, set, name, help, ruler, pitch } = props;
  const label = props.label ?? spoken(name);
  const { patch, now } = useBench();
  return (
    <Ruler
      label={label}
      help={help}
      ruler={ruler}
      pitch={pitch}
      value={Number(settingOf(module, type, name))}
      before={old && Number(settingOf(old, type, name))}
      moved={moved(patch, now.data?.measures, `${module.id}.${name}`)}
      onChange={set && ((value) => set(name, value))}
      beside={<AddSourceTo module={module} name={name} type={type} />}
    />
  );
}

/** The ruler of an input's base value, and beneath it what moves it. */
function InputRuler({ input, ...props }: InspectedModule & { input: InputType }) {
  if (!input.ruler) return null;
  return (
    <>
      <SettingRuler
        {...props}
        name={input.name}
        label={input.words}
        help={input.help}
        ruler={input.ruler}
        pitch={input.kind === "pitch"}
      />
      <Sources module={props.module} input={input} />
    </>
  );
}

/** An input without a base value: only what comes in. */
function PlainInput({ input, module, type }: InspectedModule & { input: InputType }) {
  const { patch } = useBench();
  const used = sourcesOf(patch, module, input).length > 0;
  return (
    <div className="border-t border-rule py-0.5">
      <div className="flex items-baseline justify-between">
        <span title={input.help} className={used ? "" : "text-soft"}>
          {input.words}
          {!used && ": nothing"}
        </span>
        <AddSourceTo module={module} type={type} name={input.name} />
      </div>
      <Sources module={module} input={input} />
    </div>
  );
}

function AddSourceTo({ module, type, name }: Pick<InspectedModule, "module" | "type"> & { name: string }) {
  const { state, writing } = useBench();
  const isInput = type.inputs.some((input) => input.name === name);
  if (!isInput || !writing) return null;
  const port = `${module.id}.${name}`;
  return (
    <AddSource name={name} onAdd={() => state.ask({ what: "connect", connecting: { port, into: true } })} />
  );
}
