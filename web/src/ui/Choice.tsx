import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from "@headlessui/react";

export interface Option<T> {
  value: T;
  word: string;
  /** Under what heading it stands, if the list has some. */
  group?: string;
}

interface Props<T> {
  label: string;
  options: Option<T>[];
  value: T;
  onChange: (value: T) => void;
  /** “field” where it stands among fields to be filled in, “word” where it stands in a line of text. */
  look?: "field" | "word";
  className?: string;
}

const LOOKS = {
  field: "rounded border border-firm bg-leaf py-1.5 pr-7 pl-2.5 text-left hover:border-ink",
  word: "border-b border-dotted border-firm py-0.5 pr-5 text-left hover:border-ink",
};

/** One of several, from a list that opens. */
export function Choice<T extends string | number>(props: Props<T>) {
  const { label, options, value, onChange, look = "field", className = "" } = props;
  const shown = options.find((one) => one.value === value)?.word ?? "";
  return (
    <Listbox value={value} onChange={onChange}>
      <ListboxButton
        aria-label={`${label}: ${shown}`}
        title={shown}
        className={`relative max-w-full truncate ${LOOKS[look]} ${className}`}
      >
        {shown}
        <svg
          width="9"
          height="6"
          viewBox="0 0 9 6"
          fill="none"
          stroke="currentColor"
          aria-hidden="true"
          className={`absolute top-1/2 -translate-y-1/2 ${look === "field" ? "right-2.5" : "right-1"}`}
        >
          <path d="M1 1L4.5 4.5L8 1" strokeWidth="1.4" />
        </svg>
      </ListboxButton>
      <ListboxOptions
        anchor="bottom start"
        modal={false}
        className="z-50 max-h-72! w-max min-w-(--button-width) overflow-auto rounded border border-firm bg-leaf py-1 shadow-md"
      >
        {options.map((one, place) => (
          <div key={one.value}>
            {one.group !== undefined && one.group !== options[place - 1]?.group && (
              <div className="mt-1 px-3 pt-1 text-note font-semibold text-soft" role="presentation">
                {one.group}
              </div>
            )}
            <ListboxOption
              value={one.value}
              className="cursor-pointer px-3 py-1 data-focus:bg-this-wash data-selected:font-semibold"
            >
              {one.word}
            </ListboxOption>
          </div>
        ))}
      </ListboxOptions>
    </Listbox>
  );
}
