import { type KeyboardEvent, useEffect, useRef, useState } from "react";

import { NOT_WHOLE, wrongDate } from "./times";

interface Props {
  label: string;
  /** A day, as 2026-12-08; nothing where there is none. */
  value: string | null;
  onCommit: (day: string | null) => void;
}

/** A day that can be typed or chosen: it is kept once it is whole, and what is wrong with it is said. */
export function DateEntry({ label, value, onCommit }: Props) {
  const [wrong, setWrong] = useState<string>();
  const typing = useRef(false);
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    // what others have set meanwhile is taken over, but from under nobody's hands
    if (field.current && field.current !== document.activeElement) field.current.value = value ?? "";
  }, [value]);
  const commit = (there: HTMLInputElement) => {
    typing.current = false;
    const trouble = there.validity.badInput ? NOT_WHOLE : wrongDate(there.value);
    setWrong(trouble);
    if (trouble === undefined && (there.value || null) !== value) onCommit(there.value || null);
  };
  const press = (event: KeyboardEvent<HTMLInputElement>) => {
    const there = event.currentTarget;
    if (event.key === "Enter") commit(there);
    else if (event.key === "Escape") {
      there.value = value ?? "";
      typing.current = false;
      setWrong(undefined);
    } else if (event.key !== "Tab") typing.current = true;
  };
  return (
    <span className="relative">
      <input
        ref={field}
        type="date"
        aria-label={label}
        aria-invalid={wrong !== undefined}
        className="rounded border border-firm bg-leaf px-1.5 py-0.5 text-ink aria-invalid:border-warn"
        defaultValue={value ?? ""}
        onKeyDown={press}
        // a day that is chosen in a calendar is whole at once; one that is typed is when one goes on
        onChange={(event) => typing.current || commit(event.currentTarget)}
        onBlur={(event) => commit(event.currentTarget)}
      />
      {wrong && (
        <span
          role="alert"
          className="absolute top-8 right-0 z-10 w-64 border border-warn bg-leaf p-2 text-work text-warn"
        >
          {wrong}
        </span>
      )}
    </span>
  );
}
