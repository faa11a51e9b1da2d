import { Label, Radio, RadioGroup } from "@headlessui/react";

interface Option<T> {
  value: T;
  word: string;
}

export interface OneOfProps<T> {
  label: string;
  help?: string;
  unit?: string;
  options: Option<T>[];
  value: T;
  before?: T | undefined;
  onChange: ((value: T) => void) | undefined;
}

/** One of a few words, chosen in one move. */
export function Segments<T extends string | number>({
  label,
  help,
  unit,
  options,
  value,
  before,
  onChange,
}: OneOfProps<T>) {
  return (
    <RadioGroup
      value={value}
      onChange={(chosen: T) => onChange?.(chosen)}
      disabled={!onChange}
      className="mt-1 flex items-baseline gap-2 leading-tight"
    >
      <Label title={help} className="min-w-12 shrink-0 first-letter:uppercase">
        {label}
      </Label>
      <div className="flex flex-wrap items-baseline gap-x-1.5 gap-y-1">
        {options.map((option) => (
          <Radio
            key={option.value}
            value={option.value}
            className={`cursor-pointer border-b-2 px-0.5 py-0 data-disabled:cursor-default ${mark(option.value, value, before)}`}
          >
            {option.word}
          </Radio>
        ))}
        {unit && <span className="ml-1 text-soft">{unit}</span>}
      </div>
    </RadioGroup>
  );
}

function mark<T>(option: T, value: T, before: T | undefined): string {
  if (option === value) return "border-this font-semibold";
  if (option === before) return "border-dotted border-compared";
  return "border-rule";
}
