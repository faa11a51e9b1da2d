import type { ReactNode } from "react";
import { useStore } from "zustand";

import type { Patch } from "../api/client";
import { LiveStrip } from "./live/LiveStrip";
import { Divider } from "../ui/Divider";
import { Fold } from "../ui/Fold";
import { Guarded } from "../ui/Guarded";
import { Notice } from "../ui/Notice";
import { type Pane, useRoom } from "../ui/room";
import { useKeys } from "../ui/useKeys";
import { BenchBar } from "./BenchBar";
import { MarkingContext } from "../marks/marking";
import { BenchContext, type BenchProps, type BenchView, useBench } from "./BenchContext";
import { BenchFoot } from "./BenchFoot";
import { BenchMap } from "./BenchMap";
import { BenchNotes } from "./BenchNotes";
import { keyTable } from "./commands";
import { Inspector } from "./Inspector";
import { Projected } from "./Projected";
import { Questions } from "./Questions";
import { Transport } from "./Transport";
import { useBenchView } from "./useBenchView";

/** What plays: the phrase, or the people at the bench. */
function Foot() {
  const { live } = useBench();
  const phase = useStore(live.state, (state) => state.phase);
  return phase === "starting" || phase === "on" || phase === "lost" ? <LiveStrip /> : <Transport />;
}

/** The selected module with its rulers, which can be folded away. */
function Side({ className, patch }: { className: string; patch: Patch }) {
  const { state } = useBench();
  const { inspector, put } = useRoom();
  return (
    <div
      className={`off-paper relative flex min-h-0 min-w-3 border-l border-rule narrow:flex-1 narrow:border-0 ${className}`}
    >
      <div
        className={`min-w-0 flex-1 overflow-y-auto ${inspector ? "" : "hidden narrow:block"}`}
        tabIndex={-1}
        data-inspector
      >
        <Guarded what="This module" until={[patch, state.selected]}>
          <Inspector />
        </Guarded>
      </div>
      <Fold
        what="the rulers"
        open={inspector}
        side="right"
        keys="Shift+I"
        className="absolute top-1/2 -left-2 z-10 h-10! w-4! border border-rule bg-paper"
        onFold={() => put({ inspector: !inspector })}
      />
    </div>
  );
}

/** What all parts of a bench read. */
function Shared({ view, children }: { view: BenchView; children: ReactNode }) {
  const { marks, onMarks } = view;
  return (
    <BenchContext value={view}>
      <MarkingContext value={{ marks, onMarks }}>{children}</MarkingContext>
    </BenchContext>
  );
}

/** The place where the patch is: the map, the lenses, the selected module, and the playing. */
export function Bench(props: BenchProps) {
  const view = useBenchView(props);
  const { state } = view;
  const { pane, foot, inspector, projected, put } = useRoom();
  const only = (...panes: Pane[]) => (panes.includes(pane) ? "" : "narrow:hidden");
  const footRow = state.wide || foot === 0 ? "" : ` min(${foot}px, 70%)`;
  useKeys(keyTable(view.commands));
  return (
    <Shared view={view}>
      <div
        data-render={view.now.data?.key}
        data-behind={view.late}
        data-wide={state.wide || undefined}
        style={{
          gridTemplateColumns: `minmax(0, 1fr) ${inspector ? "clamp(252px, 22.8vw, 292px)" : "auto"}`,
          gridTemplateRows: `minmax(0, 1fr) auto${footRow}`,
        }}
        className={`sheet grid min-h-0 min-w-0 narrow:flex narrow:flex-1 narrow:flex-col ${
          state.wide ? "fixed inset-0 z-30 bg-paper" : ""
        } ${only("map", "lens", "rulers")}`}
      >
        <div className={`sheet grid min-h-0 min-w-0 narrow:flex-1 ${only("map")}`}>
          <Guarded what="The map" until={[props.patch]}>
            <BenchMap />
          </Guarded>
        </div>
        <Side className={only("rulers")} patch={props.patch} />
        <div className={`off-paper relative col-span-full min-w-0 ${only("map", "lens")}`}>
          {!state.wide && <Divider />}
          <Guarded what="This row" until={[props.patch]}>
            <BenchBar />
          </Guarded>
        </div>
        {!state.wide && (foot > 0 || pane === "lens") && (
          <BenchFoot className={`${only("lens")} ${foot > 0 ? "" : "hidden narrow:flex"}`} />
        )}
      </div>
      <div className="off-paper col-span-full min-w-0">
        <Guarded what="What plays" until={[props.patch, props.phrase]}>
          <Foot />
        </Guarded>
      </div>
      <Guarded what="This question">
        <Questions />
      </Guarded>
      {projected !== undefined &&
        (props.unshown ? (
          <Notice warn onClose={() => put({ projected: undefined })}>
            {props.unshown}
          </Notice>
        ) : (
          <Guarded what="The projector’s view" until={[projected]}>
            <Projected asked={projected} />
          </Guarded>
        ))}
      <BenchNotes />
    </Shared>
  );
}
