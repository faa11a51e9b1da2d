import type { Edit, Finding, Patch } from "../api/client";
import { type Catalogue, titleOf } from "../api/patch";

interface Props {
  findings: Finding[] | undefined;
  /** Whether something else is heard than what is written: then the lesson cannot be judged by it. */
  listening: boolean;
  patch: Patch;
  catalogue: Catalogue;
  onShow: (module: string) => void;
  /** Without it nothing can be changed. */
  onMend: ((edits: Edit[]) => void) | undefined;
}

/** What is probably not meant: where, what was measured, why it matters, and what mends it. */
export function CheckupPanel({ findings, listening, patch, catalogue, onShow, onMend }: Props) {
  if (listening)
    return (
      <p className="m-auto font-read text-base">
        The checkup waits while something is muted, heard alone or bypassed. H lets everything be heard as
        written.
      </p>
    );
  if (!findings) return <p className="m-auto font-read text-soft italic">Listening…</p>;
  if (findings.length === 0)
    return (
      <p className="m-auto font-read text-base">
        Nothing to mend: it sounds, ends, keeps its pitch and its level, and every module does something.
      </p>
    );
  const nameOf = (id: string) => {
    const module = patch.modules.find((one) => one.id === id);
    return module ? titleOf(module, catalogue) : "The patch";
  };
  return (
    <ul className="min-h-0 flex-1 overflow-y-auto" aria-label="Findings">
      {findings.map((one, place) => (
        <li
          key={`${one.code}${one.module}${place}`}
          data-finding={one.code}
          className="grid grid-cols-[150px_1fr_auto] gap-x-4 border-b border-rule py-2"
        >
          <div>
            <button
              type="button"
              className="text-left font-read text-base font-semibold underline decoration-firm decoration-dotted hover:text-this"
              onClick={() => onShow(one.module)}
              disabled={one.module === ""}
            >
              {nameOf(one.module)}
            </button>
            <div className="text-sm text-soft">{one.measured}</div>
          </div>
          <div>
            <p className="font-read text-base leading-snug text-warn">{one.message}</p>
            <p className="text-soft">{one.why}</p>
          </div>
          <div className="w-60 self-center text-right">
            {one.edits.length > 0 && onMend ? (
              <>
                {one.action !== one.remedy && <p className="mb-1 text-left text-soft">{one.remedy}</p>}
                <button type="button" className="button text-left" onClick={() => onMend(one.edits)}>
                  {one.action}
                </button>
              </>
            ) : (
              <p className="text-left">{one.remedy}</p>
            )}
          </div>
        </li>
      ))}
    </ul>
  );
}
