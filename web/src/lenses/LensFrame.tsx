import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from "@headlessui/react";
import type { ReactNode } from "react";

export interface TapChoice {
  tap: string;
  word: string;
}

interface Props {
  name: string;
  taps: TapChoice[];
  tap: string;
  onTap: (tap: string) => void;
  options?: ReactNode;
  legend: string | undefined;
  sentence: string;
  busy: boolean;
  children: ReactNode;
}

/** What is the same around every lens: its name, what it listens to, its picture and its sentence. */
export function LensFrame({ name, taps, tap, onTap, options, legend, sentence, busy, children }: Props) {
  return (
    <figure aria-label={name} data-lens={name.toLowerCase()} className="flex min-h-0 min-w-0 flex-col">
      <div className="mb-1 flex items-baseline gap-3">
        <b className="font-semibold">{name}</b>
        <TapList taps={taps} tap={tap} onTap={onTap} lens={name} />
        {legend && (
          <span className="truncate text-compared-text">
            <span
              aria-hidden="true"
              className="mr-1 inline-block w-4 border-t-2 border-compared align-middle"
            />
            {legend}
          </span>
        )}
        <span className="flex-1" />
        {options}
      </div>
      <div
        className={`relative min-h-0 flex-1 border border-rule bg-leaf transition-opacity ${busy ? "opacity-60" : ""}`}
        aria-busy={busy}
      >
        {children}
      </div>
      <figcaption className="mt-1.5 h-[2.9em] overflow-hidden font-read text-[15px] leading-[1.4] italic">
        {sentence}
      </figcaption>
    </figure>
  );
}

function TapList({ taps, tap, onTap, lens }: Pick<Props, "taps" | "tap" | "onTap"> & { lens: string }) {
  const word = taps.find((one) => one.tap === tap)?.word ?? tap;
  return (
    <Listbox as="div" className="relative" value={tap} onChange={onTap}>
      <ListboxButton
        aria-label={`${lens} listens to ${word}`}
        className="max-w-52 truncate border-b border-dotted border-firm text-left hover:border-ink"
      >
        {word}
      </ListboxButton>
      <ListboxOptions
        modal={false}
        className="absolute top-full left-0 z-20 max-h-60 w-max overflow-auto rounded border border-firm bg-leaf py-1 shadow-md"
      >
        {taps.map((one) => (
          <ListboxOption
            key={one.tap}
            value={one.tap}
            className="cursor-pointer px-3 py-1 data-focus:bg-this-wash data-selected:font-semibold"
          >
            {one.word}
          </ListboxOption>
        ))}
      </ListboxOptions>
    </Listbox>
  );
}
