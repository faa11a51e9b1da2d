import { useSyncExternalStore } from "react";

export type BenchMode = "lesson" | "own";

const KEY = "inner-tone-bench";
const listeners = new Set<() => void>();

const read = (): BenchMode => (localStorage.getItem(KEY) === "own" ? "own" : "lesson");

/** Whether one watches the lesson's bench or works at one's own: it stays so from step to step. */
export function useBenchMode(): [BenchMode, (mode: BenchMode) => void] {
  const mode = useSyncExternalStore((listener) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  }, read);
  const choose = (next: BenchMode) => {
    localStorage.setItem(KEY, next);
    listeners.forEach((listener) => listener());
  };
  return [mode, choose];
}

const WORDS: [BenchMode, string][] = [
  ["lesson", "The lesson"],
  ["own", "My own bench"],
];

/** The choice between watching a step and doing it. */
export function BenchChoice({ mode, onChoose }: { mode: BenchMode; onChoose: (mode: BenchMode) => void }) {
  return (
    <div
      role="group"
      aria-label="Whose bench"
      className="mb-2.5 grid grid-cols-2 overflow-hidden rounded border border-firm bg-leaf"
    >
      {WORDS.map(([one, word]) => (
        <button
          key={one}
          type="button"
          aria-pressed={one === mode}
          className={`px-2 py-1 ${one === mode ? "bg-this-wash font-semibold text-this" : "text-soft hover:text-ink"}`}
          onClick={() => onChoose(one)}
        >
          {word}
        </button>
      ))}
    </div>
  );
}
