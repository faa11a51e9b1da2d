import { useStore } from "zustand";

import { LiveStrip } from "../live/LiveStrip";
import { useKeys } from "../ui/useKeys";
import { BenchBar } from "./BenchBar";
import { BenchContext, type BenchProps, useBench } from "./BenchContext";
import { BenchFoot } from "./BenchFoot";
import { BenchMap } from "./BenchMap";
import { BenchNotes } from "./BenchNotes";
import { keyTable } from "./commands";
import { Inspector } from "./Inspector";
import { Questions } from "./Questions";
import { Transport } from "./Transport";
import { useBenchView } from "./useBenchView";

/** What plays: the phrase, or the people at the bench. */
function Foot() {
  const { live } = useBench();
  const phase = useStore(live.state, (state) => state.phase);
  return phase === "starting" || phase === "on" || phase === "lost" ? <LiveStrip /> : <Transport />;
}

/** The place where the patch is: the map, the lenses, the selected module, and the playing. */
export function Bench(props: BenchProps) {
  const view = useBenchView(props);
  const { state } = view;
  useKeys(keyTable(view.commands));
  return (
    <BenchContext value={view}>
      <div
        data-render={view.now.data?.key}
        data-behind={view.late}
        className={`grid min-h-0 min-w-0 grid-cols-[1fr_292px] ${
          state.wide
            ? "fixed inset-0 z-30 grid-rows-[minmax(0,1fr)_auto] bg-paper"
            : "grid-rows-[minmax(0,1fr)_auto_262px]"
        }`}
      >
        <BenchMap />
        <div className="overflow-y-auto border-l border-rule" tabIndex={-1} data-inspector>
          <Inspector />
        </div>
        <div className="col-span-full min-w-0">
          <BenchBar />
        </div>
        {!state.wide && <BenchFoot />}
      </div>
      <div className="col-span-full">
        <Foot />
      </div>
      <Questions />
      <BenchNotes />
    </BenchContext>
  );
}
