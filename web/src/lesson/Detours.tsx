import type { Detour, Instruction } from "../api/client";

interface Writing {
  /** The detour that is being built, if one is. */
  building: string | undefined;
  onBuild: (id: string | undefined) => void;
  onBranch: () => void;
  onChange: (detours: Detour[]) => void;
}

interface Props {
  detours: Detour[];
  /** How each leaves the step. */
  said: Instruction[][];
  /** The name of the one that stands behind the lenses. */
  shown: string | undefined;
  onShow: (detour: Detour | undefined) => void;
  writing?: Writing;
}

/** Variations of a step, shown and heard beside it and never carried on. */
export function Detours({ detours, said, shown, onShow, writing }: Props) {
  if (detours.length === 0 && !writing) return null;
  return (
    <section aria-label="Detours" className={`mt-3 ${detours.length > 0 ? "" : "off-paper"}`}>
      <div className="mb-1 flex items-baseline gap-3">
        <h2 className="flex-1 font-semibold text-soft">{detours.length > 0 ? "Detours" : "No detours"}</h2>
        {writing && (
          <button type="button" className="act text-note" onClick={writing.onBranch}>
            Branch off here
          </button>
        )}
      </div>
      {detours.map((one, place) => (
        <div key={one.id} data-detour={one.id} className="mb-2 border-l-3 border-compared pl-3">
          <Words
            detour={one}
            number={place + 1}
            onChange={
              writing &&
              ((part) =>
                writing.onChange(detours.map((two) => (two.id === one.id ? { ...two, ...part } : two))))
            }
          />
          <p className="text-note leading-snug">
            {(said[place] ?? []).map((instruction) => instruction.text).join(" ") ||
              "As the step itself, so far."}
          </p>
          <div className="flex gap-3 text-note">
            <Action
              word={shown === one.name ? "Hide" : "Show and hear"}
              onClick={() => onShow(shown === one.name ? undefined : one)}
            />
            {writing && (
              <>
                <Action
                  word={writing.building === one.id ? "Back to the step" : "Build it"}
                  onClick={() => writing.onBuild(writing.building === one.id ? undefined : one.id)}
                />
                <Action
                  word="Take it out"
                  onClick={() => writing.onChange(detours.filter((other) => other.id !== one.id))}
                />
              </>
            )}
          </div>
        </div>
      ))}
    </section>
  );
}

interface WordsProps {
  detour: Detour;
  number: number;
  onChange: ((part: Partial<Pick<Detour, "name" | "note">>) => void) | undefined;
}

/** What a detour is called, and what is to be noticed in it. */
function Words({ detour, number, onChange }: WordsProps) {
  return (
    <>
      {onChange ? (
        <input
          aria-label={`Name of detour ${number}`}
          maxLength={60}
          className="w-full rounded-sm bg-transparent font-semibold text-compared-text hover:bg-this/5 focus:bg-leaf"
          value={detour.name}
          onChange={(event) => event.target.value && onChange({ name: event.target.value })}
        />
      ) : (
        <h3 className="font-semibold text-compared-text">{detour.name}</h3>
      )}
      {onChange ? (
        <textarea
          aria-label={`Note on detour ${number}`}
          placeholder="What to notice in it"
          rows={1}
          maxLength={5000}
          className="field-sizing-content w-full resize-none rounded-sm bg-transparent font-read text-work leading-snug placeholder:text-soft hover:bg-this/5 focus:bg-leaf"
          value={detour.note}
          onChange={(event) => onChange({ note: event.target.value })}
        />
      ) : (
        detour.note && <p className="font-read text-work leading-snug">{detour.note}</p>
      )}
    </>
  );
}

const Action = ({ word, onClick }: { word: string; onClick: () => void }) => (
  <button type="button" className="act" onClick={onClick}>
    {word}
  </button>
);

/** The detours of a step with one more, which begins as the step is. */
export function withDetour(detours: Detour[], patch: Detour["patch"]): [Detour[], string] {
  const ids = new Set(detours.map((one) => one.id));
  const numbers = Array.from({ length: ids.size + 1 }, (_, n) => n + 1);
  const free = numbers.find((n) => !ids.has(`detour-${n}`)) ?? ids.size + 1;
  const id = `detour-${free}`;
  return [[...detours, { id, name: `Detour ${free}`, note: "", patch, phrase: null }], id];
}
