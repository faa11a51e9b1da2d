import type { Aim } from "../api/client";
import { Choice } from "../ui/Choice";

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
  return (
    <div
      className="off-paper mt-3 flex flex-wrap items-baseline gap-x-1.5 gap-y-1 text-note"
      data-aim={now.by}
    >
      <h2 className="font-semibold text-soft">Done when</h2>
      <Choice
        label="What counts as done"
        look="word"
        value={now.by}
        options={BY.map(([value, word]) => ({ value, word }))}
        onChange={(by) => put({ by })}
      />
      {(now.by === "sound" || now.by === "both") && (
        <Choice
          label="How exactly"
          look="word"
          value={nearest[0]}
          options={TOLERANCES.map(([value, word]) => ({ value, word }))}
          onChange={(tolerance) => put({ tolerance })}
        />
      )}
    </div>
  );
}
