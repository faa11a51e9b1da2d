import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from "@headlessui/react";

import { useBench } from "../BenchContext";
import { type Against, AGAINST, choicesOf } from "../../lenses/views";

/** What stands behind the lenses. */
export function AgainstList() {
  const { seen, lenses } = useBench();
  const { against } = lenses;
  const shown =
    seen.scene?.name ??
    (seen.against === "recording" ? seen.others.recording?.legend : undefined) ??
    AGAINST[seen.against];
  const word = (one: Against) => (one === "fitting" ? `${AGAINST.fitting}: ${shown}` : AGAINST[one]);
  return (
    <Listbox
      as="div"
      className="relative ml-2 max-w-36 min-w-0 grow-99 basis-20"
      value={against}
      onChange={lenses.compareWith}
    >
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
        {choicesOf(seen.others, seen.inner).map((one) => (
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
