import { useBench } from "../BenchContext";
import type { InCompany as How } from "../store";

const WAYS: [how: How, word: string, title: string][] = [
  ["alone", "Alone", "The sound alone (F)"],
  ["with", "With", "Together with its company (F)"],
  ["without", "Without", "The company without it (Shift F)"],
];

/** How a sound that has company is heard. */
export function InCompany() {
  const { phrase, state } = useBench();
  if (phrase.company.length === 0) return null;
  return (
    <div
      role="group"
      aria-label="In company"
      className="flex shrink-0 overflow-hidden rounded border border-rule"
    >
      {WAYS.map(([how, word, title]) => (
        <button
          key={how}
          type="button"
          aria-pressed={state.inCompany === how}
          title={title}
          className={`px-2.5 py-1.5 narrow:px-2 ${state.inCompany === how ? "bg-this-wash font-semibold text-this" : "text-soft"}`}
          onClick={() => state.hearIn(how)}
        >
          {word}
        </button>
      ))}
    </div>
  );
}
