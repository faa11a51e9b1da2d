import type { MarkPlace, Patch, StepMark } from "../api/client";
import type { Catalogue } from "../api/patch";
import type { OnLink } from "./Prose";
import { lighting } from "../marks/lit";
import { Purpose } from "../bench/MarkField";
import { numbered, placeWords, withMark } from "../marks/marks";
import { MarkNumber } from "../marks/MarkNumber";

interface Props {
  marks: StepMark[];
  patch: Patch;
  catalogue: Catalogue;
  onLink: OnLink;
  onChange: ((marks: StepMark[]) => void) | undefined;
}

/** What takes the number of a place away: what a module or a line is for stays. */
const unmarked = ({ kind }: MarkPlace): Partial<StepMark> =>
  kind === "module" || kind === "line" ? { number: null } : { number: null, purpose: "" };

/** The numbered places of a step, what each is, and what it is for. */
export function MarkList({ marks, patch, catalogue, onLink, onChange }: Props) {
  const shown = numbered(marks);
  if (shown.length === 0) return null;
  return (
    <section aria-label="Marks" className="mt-3" data-marks>
      <h2 className="mb-1 font-semibold text-soft">Marks</h2>
      <ol>
        {shown.map((mark) => {
          const { number, at, purpose } = mark;
          const words = placeWords(at, patch, catalogue);
          return (
            <li key={number} className="flex items-baseline gap-2 py-0.5" {...lighting(number)}>
              <button
                type="button"
                data-mark={number}
                aria-label={`Mark ${number}: ${words}`}
                className="shrink-0"
                onClick={() => onLink("mark", `${number}`)}
              >
                <MarkNumber number={number} />
              </button>
              <span className="min-w-0 flex-1">
                {words}
                {purpose && !onChange && <i className="font-read text-soft">, {purpose}</i>}
                {onChange && (
                  <span className="flex">
                    <Purpose
                      key={purpose}
                      label={`What is to be seen at mark ${number}`}
                      purpose={purpose}
                      onKeep={(kept) => onChange(withMark(marks, at, { purpose: kept }))}
                    />
                  </span>
                )}
              </span>
              {onChange && (
                <button
                  type="button"
                  aria-label={`Take mark ${number} away`}
                  className="act-quiet shrink-0 px-1"
                  onClick={() => onChange(withMark(marks, at, unmarked(at)))}
                >
                  ✕
                </button>
              )}
            </li>
          );
        })}
      </ol>
    </section>
  );
}
