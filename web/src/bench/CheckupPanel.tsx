import type { Finding } from "../api/client";
import { titleOf } from "../api/patch";
import { useBench } from "./BenchContext";
import { listeningOf } from "./store";

/** What is probably not meant: where, what was measured, why it matters, and what mends it. */
export function CheckupPanel() {
  const { findings, state } = useBench();
  // what is heard otherwise than written tells nothing about the lesson
  if (listeningOf(state))
    return (
      <p className="m-auto font-read text-read">
        The checkup waits while something is muted, heard alone or bypassed. H lets everything be heard as
        written.
      </p>
    );
  if (!findings) return <p className="m-auto font-read text-soft italic">Listening…</p>;
  if (findings.length === 0)
    return (
      <p className="m-auto font-read text-read">
        Nothing to mend: it sounds, ends, keeps its pitch and its level, and every module does something.
      </p>
    );
  return (
    <ul className="min-h-0 flex-1 overflow-y-auto" aria-label="Findings">
      {findings.map((one, place) => (
        <Found key={`${one.code}${one.module}${place}`} finding={one} />
      ))}
    </ul>
  );
}

function Found({ finding: one }: { finding: Finding }) {
  const { patch, catalogue, state, map } = useBench();
  const module = patch.modules.find(({ id }) => id === one.module);
  const show = () => {
    state.select([one.module]);
    map.handle?.focusCard(one.module);
  };
  return (
    <li data-finding={one.code} className="grid grid-cols-[150px_1fr_auto] gap-x-4 border-b border-rule py-2">
      <div>
        <button
          type="button"
          className="lead text-left font-read text-read font-semibold"
          onClick={show}
          disabled={one.module === ""}
        >
          {module ? titleOf(module, catalogue) : "The patch"}
        </button>
        <div className="text-work text-soft">{one.measured}</div>
      </div>
      <div>
        <p className="font-read text-read leading-snug text-warn">{one.message}</p>
        <p className="text-soft">{one.why}</p>
      </div>
      <div className="w-60 self-center text-right">
        <Remedy finding={one} />
      </div>
    </li>
  );
}

function Remedy({ finding: one }: { finding: Finding }) {
  const { writing, act, moves } = useBench();
  const phrase = one.phrase;
  if ((one.edits.length === 0 && !phrase) || !writing) return <p className="text-left">{one.remedy}</p>;
  const mend = () => (phrase ? moves.play(phrase) : act(one.edits));
  return (
    <>
      {one.action !== one.remedy && <p className="mb-1 text-left text-soft">{one.remedy}</p>}
      <button type="button" className="button text-left" onClick={mend}>
        {one.action}
      </button>
    </>
  );
}
