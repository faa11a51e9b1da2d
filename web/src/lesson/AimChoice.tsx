import type { Aim } from "../api/client";

const USUAL: Aim = { by: "sound", tolerance: 1 };
const BY: [Aim["by"], string][] = [
  ["sound", "it sounds the same"],
  ["wiring", "it is wired the same"],
  ["both", "both are the same"],
  ["free", "free: explore"],
];
const TOLERANCES: [number, string][] = [
  [0.5, "strictly"],
  [1, "as usual"],
  [2, "generously"],
  [4, "roughly"],
];

interface Props {
  aim: Aim | null | undefined;
  onChange: (aim: Aim | null) => void;
}

/** What counts as done for those who do the step at a bench of their own. */
export function AimChoice({ aim, onChange }: Props) {
  const now = aim ?? USUAL;
  const put = (part: Partial<Aim>) => {
    const next = { ...now, ...part };
    onChange(next.by === USUAL.by && next.tolerance === USUAL.tolerance ? null : next);
  };
  const nearest = TOLERANCES.reduce((best, one) =>
    Math.abs(one[0] - now.tolerance) < Math.abs(best[0] - now.tolerance) ? one : best,
  );
  const look = "rounded border border-rule bg-transparent px-1 py-0.5 hover:border-firm";
  return (
    <div className="mt-3 flex flex-wrap items-baseline gap-x-1.5 gap-y-1 text-[13.5px]" data-aim={now.by}>
      <h2 className="font-semibold text-soft">Done when</h2>
      <select
        aria-label="What counts as done"
        className={look}
        value={now.by}
        onChange={(event) => put({ by: event.target.value as Aim["by"] })}
      >
        {BY.map(([by, words]) => (
          <option key={by} value={by}>
            {words}
          </option>
        ))}
      </select>
      {(now.by === "sound" || now.by === "both") && (
        <select
          aria-label="How exactly"
          className={look}
          value={nearest[0]}
          onChange={(event) => put({ tolerance: Number(event.target.value) })}
        >
          {TOLERANCES.map(([tolerance, words]) => (
            <option key={tolerance} value={tolerance}>
              {words}
            </option>
          ))}
        </select>
      )}
    </div>
  );
}
