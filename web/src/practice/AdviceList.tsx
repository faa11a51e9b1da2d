import type { Advice } from "../api/client";
import type { Searching } from "./useAdvice";

interface Props {
  advice: Searching;
  /** Lets a module be seen. */
  onLook?: (module: string) => void;
}

/** What to turn, as it was found by trying; or how far that has come. */
export function AdviceList({ advice, onLook }: Props) {
  const { busy, part, found, failure } = advice;
  if (busy)
    return (
      <div className="mt-2 flex items-center gap-2" role="status">
        <progress className="h-1.5 flex-1" value={part ?? undefined} />
        <span className="text-note text-soft">Trying what would help…</span>
        <button type="button" className="act text-note" onClick={advice.stop}>
          Stop
        </button>
      </div>
    );
  if (failure)
    return (
      <p role="alert" className="mt-2 text-warn">
        {failure}
      </p>
    );
  if (!found) return null;
  if (found.length === 0)
    return <p className="mt-2 font-read text-read">No single setting would bring it clearly nearer.</p>;
  return (
    <ol className="mt-2 border-t border-rule font-read text-read" data-advice>
      {found.map((one: Advice, place) => (
        <li key={`${one.module}.${one.setting}`} className="border-b border-rule py-1">
          {onLook ? (
            <button type="button" className="text-left hover:text-this" onClick={() => onLook(one.module)}>
              {place > 0 && "Or: "}
              {one.text}
            </button>
          ) : (
            <>
              {place > 0 && "Or: "}
              {one.text}
            </>
          )}
        </li>
      ))}
    </ol>
  );
}
