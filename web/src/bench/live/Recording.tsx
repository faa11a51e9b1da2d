import { useEffect, useState } from "react";

import { useBench } from "../BenchContext";
import { ActionMenu } from "../../ui/ActionMenu";
import type { LiveState } from "../../live/states";

const COUNT_IN = 4;
const GRIDS: [grid: number, words: string][] = [
  [0, "as played"],
  [1, "to the beat"],
  [0.5, "to half beats"],
  [0.25, "to quarters of a beat"],
];

/** Records what is played as the step's phrase. */
export function Recording({ state }: { state: LiveState }) {
  const { live, moves, writing, phrase, state: bench } = useBench();
  const [grid, setGrid] = useState(0);
  const { recorded, standing } = state;
  useEffect(() => {
    if (!recorded) return;
    moves.play({ ...recorded, title: phrase.title || "Played", company: phrase.company });
    bench.say("Recorded as the step’s phrase. Undo brings the one before back.");
    live.taken();
  }, [recorded, moves, phrase.title, phrase.company, bench, live]);
  if (!writing) return null;
  if (standing?.taking || standing?.counting)
    return (
      <button
        type="button"
        className="shrink-0 rounded border border-warn bg-warn px-2 py-0.5 font-semibold text-leaf"
        data-taking={standing.taking}
        onClick={() => live.finish(grid)}
      >
        {standing.taking ? "Recording: end it" : "Counting in…"}
      </button>
    );
  const isPhrase = state.performing === "phrase";
  const words = GRIDS.find(([one]) => one === grid)?.[1] ?? "";
  return (
    <ActionMenu
      anchor="top end"
      className="shrink-0 rounded border border-firm px-2 py-0.5 data-open:bg-this-wash"
      actions={[
        { word: "Record a phrase, counted in with a click", run: () => live.record(COUNT_IN, true, false) },
        { word: "Record a phrase from now on", run: () => live.record(0, false, false) },
        {
          word: "Record movements over the phrase that plays",
          run: () => live.record(0, false, true),
          off: !isPhrase,
        },
        ...GRIDS.map(([one, name], n) => ({
          word: `${one === grid ? "● " : ""}Notes ${name}`,
          run: () => setGrid(one),
          apart: n === 0,
        })),
      ]}
    >
      {grid === 0 ? "Record…" : `Record, ${words}…`}
    </ActionMenu>
  );
}
