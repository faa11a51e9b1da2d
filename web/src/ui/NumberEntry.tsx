import { useRef, useState } from "react";

import type { RulerType } from "../api/client";
import { inUnit, parsed, withUnit } from "./units";

interface Props {
  label: string;
  ruler: RulerType;
  value: number;
  onCommit: ((value: number) => void) | undefined;
  /** Whether it is a pitch: then it can be said as a note or in hertz. */
  pitch?: boolean | undefined;
  /** Whether its unit stands elsewhere. */
  bare?: boolean;
}

const KINDS: Record<string, string> = { s: "time", note: "note" };

/** A value that can be typed with its unit. What cannot be read or lies off the ruler is kept and explained. */
export function NumberEntry({ label, ruler, value, onCommit, pitch = false, bare = false }: Props) {
  const shown = inUnit(value, ruler.unit);
  const [typed, setTyped] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const given = useRef(false);

  const commit = (): boolean => {
    if (typed === null) return true;
    const meant = parsed(typed, ruler.unit, { shown: shown.unit, pitch });
    if (meant === null) setWrong(`“${typed}” is no ${KINDS[ruler.unit] ?? "number"} that can be read here.`);
    else if (meant < ruler.low || meant > ruler.high)
      setWrong(`Choose from ${withUnit(ruler.low, ruler.unit)} to ${withUnit(ruler.high, ruler.unit)}.`);
    else {
      setTyped(null);
      setWrong(null);
      onCommit?.(meant);
      return true;
    }
    return false;
  };

  /** Lets go of the field without committing what was in it. */
  const leave = (field: HTMLInputElement) => {
    given.current = true;
    field.blur();
    given.current = false;
  };

  const cancel = () => {
    setTyped(null);
    setWrong(null);
  };

  if (!onCommit) return <Plain {...shown} bare={bare} />;
  return (
    <span className="relative flex items-baseline">
      <input
        aria-label={`${label}, typed`}
        aria-invalid={wrong !== null}
        className={`rounded-sm border-b border-dotted border-transparent bg-transparent font-semibold coarse:h-7 hover:border-firm focus:bg-leaf ${bare ? "text-center" : "text-right"}`}
        style={{ width: `${Math.max(bare ? 3 : 4, (typed ?? shown.number).length + 1)}ch` }}
        value={typed ?? shown.number}
        onFocus={(event) => event.target.select()}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={() => given.current || commit()}
        onKeyDown={(event) => {
          // then keys mean what they mean elsewhere again
          if (event.key === "Enter" && commit()) event.currentTarget.blur();
          if (event.key === "Escape") {
            cancel();
            leave(event.currentTarget);
          }
        }}
      />
      {!bare && <span className="ml-1 text-soft">{shown.unit}</span>}
      {wrong && <Wrong>{wrong}</Wrong>}
    </span>
  );
}

const Wrong = ({ children }: { children: string }) => (
  <span
    role="alert"
    className="absolute top-6 right-0 z-10 w-52 border border-warn bg-leaf p-2 text-work text-warn"
  >
    {children}
  </span>
);

const Plain = ({ number, unit, bare }: { number: string; unit: string; bare: boolean }) => (
  <span>
    <b className="font-semibold">{number}</b> {!bare && <span className="text-soft">{unit}</span>}
  </span>
);
