import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from "@headlessui/react";

import { type Against, AGAINST } from "./views";

interface Props {
  against: Against;
  /** What it comes to, where it is left to itself. */
  meant: Against;
  /** What it is called, where it has a name of its own. */
  name: string | undefined;
  choices: Against[];
  onChoose: (against: Against) => void;
}

/** What stands behind the lenses. */
export function AgainstList({ against, meant, name, choices, onChoose }: Props) {
  const shown = name ?? AGAINST[meant];
  const word = (one: Against) => (one === "fitting" ? `${AGAINST.fitting}: ${shown}` : AGAINST[one]);
  return (
    <Listbox as="div" className="relative ml-2 min-w-0" value={against} onChange={onChoose}>
      <ListboxButton
        aria-label={`Behind the lenses: ${shown}`}
        title="What stands behind the lenses"
        className="block max-w-full truncate px-1 text-compared-text hover:underline"
      >
        <span
          className="mr-1.5 inline-block w-4 border-t-2 border-compared align-middle"
          aria-hidden="true"
        />
        {shown}
      </ListboxButton>
      <ListboxOptions
        modal={false}
        className="absolute bottom-full left-0 z-20 w-max rounded border border-firm bg-leaf py-1 shadow-md"
      >
        {choices.map((one) => (
          <ListboxOption
            key={one}
            value={one}
            className="cursor-pointer px-3 py-1 data-focus:bg-this-wash data-selected:font-semibold"
          >
            {word(one)}
          </ListboxOption>
        ))}
      </ListboxOptions>
    </Listbox>
  );
}
