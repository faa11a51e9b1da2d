import type { StepContent } from "../api/client";

type Decision = StepContent["decisions"][number];

interface Props {
  decisions: Decision[];
  /** Lets one side win, and is done with the decision. */
  onDecide: (place: number, early: boolean) => void;
}

/** What an earlier step and this one have both changed, one by one, with both values. */
export function Decisions({ decisions, onDecide }: Props) {
  if (decisions.length === 0) return null;
  return (
    <section aria-label="To be decided" className="mb-3 border border-warn bg-leaf p-2.5" data-decisions>
      <h2 className="font-semibold text-warn">
        {decisions.length === 1 ? "One thing" : `${decisions.length} things`} to be decided
      </h2>
      <ol>
        {decisions.map((one, place) => (
          <li key={`${place}-${one.words}`} className="mt-1.5 border-t border-rule pt-1.5">
            <div className="first-letter:uppercase">
              {one.words}. {one.note}
            </div>
            <div className="mt-1 flex flex-col items-start gap-1">
              <button type="button" className="button" onClick={() => onDecide(place, false)}>
                Keep: {one.late}
              </button>
              {one.edits.length > 0 && (
                <button type="button" className="button" onClick={() => onDecide(place, true)}>
                  From the earlier step: {one.early}
                </button>
              )}
            </div>
          </li>
        ))}
      </ol>
    </section>
  );
}
