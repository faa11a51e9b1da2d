import { LensRow } from "./lenses/LensRow";
import { CompanyPanel } from "./company/CompanyPanel";
import { PhrasePanel } from "../phrase/PhrasePanel";
import { Guarded } from "../ui/Guarded";
import { useBench } from "./BenchContext";
import { CheckupPanel } from "./CheckupPanel";
import { RoutingTable } from "./RoutingTable";

/** What stands beneath the map; on a small screen it may be elsewhere that one looks. */
export function BenchFoot({ className }: { className: string }) {
  const { state, patch, phrase } = useBench();
  const { foot } = state;
  return (
    <div
      id="foot"
      role="tabpanel"
      aria-labelledby={`tab-${foot}`}
      className={`sheet col-span-full flex min-h-0 min-w-0 flex-col border-t border-rule px-4 pt-2 pb-1 narrow:flex-1 ${className}`}
    >
      <Guarded what="What stands here" until={[foot, patch, phrase]}>
        {foot === "connections" && <RoutingTable />}
        {foot === "phrase" && <PhrasePart />}
        {foot === "company" && <CompanyPanel />}
        {foot === "checkup" && <CheckupPanel />}
        {foot === "lenses" && <LensPart />}
      </Guarded>
    </div>
  );
}

function PhrasePart() {
  const { phrase, patch, catalogue, writing, moves, phraseActions } = useBench();
  const play = writing ? moves.play : undefined;
  return (
    <PhrasePanel phrase={phrase} patch={patch} catalogue={catalogue} onChange={play}>
      {phraseActions}
    </PhrasePanel>
  );
}

function LensPart() {
  const { now } = useBench();
  if (!now.error || now.data) return <LensRow />;
  return (
    <div role="alert" className="m-auto text-center">
      <p className="mb-2 font-read text-warn">{now.error.message} The patch could not be heard.</p>
      <button type="button" className="button" onClick={now.retry}>
        Try again
      </button>
    </div>
  );
}
