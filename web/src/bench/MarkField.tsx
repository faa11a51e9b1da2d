import { useState } from "react";

import type { MarkPlace } from "../api/client";
import { rules } from "../api/rules";
import { useBench } from "./BenchContext";
import { lighting } from "../marks/lit";
import { freeNumber, markAt, withMark } from "../marks/marks";
import { MarkNumber } from "../marks/MarkNumber";

interface Props {
  at: MarkPlace;
  /** What the place is called. */
  title: string;
}

/** The mark of a module or a line: its number, and what the place is for; where one writes, both can be set. */
export function MarkField({ at, title }: Props) {
  const { marks = [], onMarks } = useBench();
  const mark = markAt(marks, at);
  const number = mark?.number ?? undefined;
  if (!onMarks) {
    if (!mark) return null;
    return (
      <p className="my-1 flex items-baseline gap-1.5 font-read italic" data-purpose>
        {number !== undefined && <MarkNumber number={number} />}
        {mark.purpose}
      </p>
    );
  }
  const put = (part: { number?: number | null; purpose?: string }) => onMarks(withMark(marks, at, part));
  const next = freeNumber(marks);
  return (
    <div className="my-1 flex items-baseline gap-1.5" data-purpose>
      {number !== undefined && (
        <span {...lighting(number)}>
          <MarkNumber number={number} />
        </span>
      )}
      <Purpose
        key={mark?.purpose ?? ""}
        label={`What ${title} is for`}
        purpose={mark?.purpose ?? ""}
        onKeep={(purpose) => put({ purpose })}
      />
      {number === undefined ? (
        <button
          type="button"
          className="act shrink-0 text-note"
          title="Set a number that the text can refer to"
          disabled={next === undefined}
          onClick={() => next !== undefined && put({ number: next })}
        >
          number it
        </button>
      ) : (
        <button
          type="button"
          aria-label={`no number: take mark ${number} away`}
          className="act-quiet shrink-0 text-note"
          onClick={() => put({ number: null })}
        >
          no number
        </button>
      )}
    </div>
  );
}

interface PurposeProps {
  label: string;
  purpose: string;
  onKeep: (purpose: string) => void;
}

/** A short text, kept when one leaves it or presses Enter; Escape leaves it as it was. */
export function Purpose({ label, purpose, onKeep }: PurposeProps) {
  const [typed, setTyped] = useState(purpose);
  const keep = () => {
    if (typed.trim() !== purpose) onKeep(typed.trim());
  };
  return (
    <textarea
      rows={1}
      aria-label={label}
      placeholder="What is it for here?"
      maxLength={rules.marks.most_purpose}
      className="field-sizing-content min-w-0 flex-1 resize-none border-b border-dotted border-firm bg-transparent font-read italic placeholder:text-soft hover:border-ink focus:bg-leaf"
      value={typed}
      onChange={(event) => setTyped(event.target.value.replace(/\n/g, " "))}
      onBlur={keep}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        if (event.key === "Escape") setTyped(purpose);
      }}
    />
  );
}
