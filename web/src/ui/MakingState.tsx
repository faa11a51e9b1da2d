import type { Making } from "../api/jobs";

/** How far a file is that is being made; where it is when it is there, or why there is none. */
export function MakingState({ making }: { making: Making }) {
  const { busy, failure, made, giveUp } = making;
  if (busy)
    return (
      <p role="status" className="flex items-center gap-3">
        <span className="text-soft">{busy.words}…</span>
        <progress aria-label={`${busy.words}: how much is done`} className="h-1.5 w-40" value={busy.part} />
        <button type="button" className="button" onClick={giveUp}>
          Stop
        </button>
      </p>
    );
  if (failure)
    return (
      <p role="alert" className="text-warn">
        {failure}
      </p>
    );
  if (!made) return null;
  return (
    <p role="status" className="text-soft">
      It is made.{" "}
      <a href={made.address} className="link" download="">
        Save it again
      </a>{" "}
      within an hour.
    </p>
  );
}
