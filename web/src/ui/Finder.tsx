import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { type ReactNode, useState } from "react";

interface Props<T> {
  label: string;
  placeholder: string;
  /** What is found for the words typed, the best first. */
  find: (words: string) => T[];
  keyOf: (item: T) => string;
  draw: (item: T, words: string) => ReactNode;
  onChoose: (item: T) => void;
  onClose: () => void;
  nothing: string;
}

/** A field and the list of what it finds: typed, moved through with the arrows, chosen with Enter. */
export function Finder<T>({ label, placeholder, find, keyOf, draw, onChoose, onClose, nothing }: Props<T>) {
  const [words, setWords] = useState("");
  const found = find(words);
  return (
    <Combobox
      immediate
      value={null as T | null}
      onChange={(item: T | null) => item !== null && onChoose(item)}
      by={(a, b) => a !== null && b !== null && keyOf(a) === keyOf(b)}
    >
      <ComboboxInput
        autoFocus
        aria-label={label}
        autoComplete="off"
        spellCheck={false}
        placeholder={placeholder}
        className="mx-4 mt-2 rounded border border-firm bg-paper px-3 py-2 text-read outline-none focus:border-this"
        value={words}
        onChange={(event) => setWords(event.target.value)}
        onKeyDown={(event) => {
          if (event.key !== "Escape") return;
          event.preventDefault();
          onClose();
        }}
      />
      <ComboboxOptions static modal={false} className="mt-2 min-h-0 flex-1 overflow-y-auto pb-2">
        {found.map((item) => (
          <ComboboxOption
            key={keyOf(item)}
            value={item}
            className="cursor-pointer px-4 py-1.5 data-focus:bg-this-wash"
          >
            {draw(item, words)}
          </ComboboxOption>
        ))}
      </ComboboxOptions>
      {found.length === 0 && <p className="px-4 pb-4 font-read text-soft italic">{nothing}</p>}
    </Combobox>
  );
}
