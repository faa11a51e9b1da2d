import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";

import type { LensWish, RulerType } from "../api/client";
import type { FormRow } from "../api/rules";
import { NumberEntry } from "../ui/NumberEntry";
import { Segments } from "../ui/Segments";
import { lensRule } from "../api/rules";

interface Props {
  view: LensWish;
  onSet: (part: globalThis.Partial<LensWish>) => void;
}

/** How a lens shows what it shows, by the form that it declares. */
export function LensSettings({ view, onSet }: Props) {
  const { form } = lensRule(view.kind);
  return (
    <Popover className="relative">
      <PopoverButton
        aria-label={`Set the lens ${view.kind}`}
        className="rounded px-1 hover:bg-this/10 data-open:bg-this-wash"
      >
        Set…
      </PopoverButton>
      <PopoverPanel
        anchor="top end"
        className="z-30 flex w-[390px] max-w-[100vw] flex-col gap-1 rounded border border-firm bg-leaf p-3 shadow-md"
        focus
      >
        {form.map((row) => (
          <Row key={row.label} row={row} settings={{ ...view }} onSet={onSet} />
        ))}
      </PopoverPanel>
    </Popover>
  );
}

interface RowProps {
  row: FormRow;
  settings: Record<string, unknown>;
  onSet: Props["onSet"];
}

function Row({ row, settings, onSet }: RowProps) {
  if (row.is === "amounts") return <Amounts row={row} settings={settings} onSet={onSet} />;
  const { name, label, options, unit } = row;
  return (
    <Segments
      label={label}
      {...(unit && { unit })}
      value={options.findIndex(({ value }) => value === settings[name])}
      options={options.map(({ word }, place) => ({ value: place, word }))}
      onChange={(place) => onSet({ [name]: options[place]?.value })}
    />
  );
}

const APART = 1.1; // each number is so much greater than the one before

function Amounts({ row, settings, onSet }: RowProps & { row: Extract<FormRow, { is: "amounts" }> }) {
  const values = row.numbers.map(({ name }) => Number(settings[name]));
  const between = (place: number): RulerType => ({
    ...row.ruler,
    low: Math.max(row.ruler.low, APART * (values[place - 1] ?? -Infinity)),
    high: Math.min(row.ruler.high, (values[place + 1] ?? Infinity) / APART),
  });
  return (
    <div className="mt-1.5 flex items-baseline gap-2">
      <span className="w-16 shrink-0 first-letter:uppercase">{row.label}</span>
      <div className="flex items-baseline">
        {row.numbers.map(({ name, word }, place) => (
          <span key={name} className="flex items-baseline">
            {place > 0 && <span className="mx-2 text-soft">to</span>}
            <NumberEntry
              label={word}
              ruler={between(place)}
              value={values[place] ?? row.ruler.default}
              onCommit={(value) => onSet({ [name]: value })}
            />
          </span>
        ))}
      </div>
    </div>
  );
}
