import type { Instruction } from "../api/client";

const ROLES = { plain: "", name: "font-semibold", value: "font-semibold text-this" };

/** What to do in this step, as Inner Tone has worked it out from the patches. */
export function Instructions({ instructions, first }: { instructions: Instruction[]; first: boolean }) {
  if (instructions.length === 0) {
    return <p className="text-soft">{first ? "The patch is still empty." : "The patch stays as it was."}</p>;
  }
  return (
    <ol className="border-b border-rule">
      {instructions.map((one, place) => (
        <li key={`${place}-${one.text}`} className="grid grid-cols-[26px_1fr] border-t border-rule py-1">
          <span className="text-soft">{place + 1}</span>
          <span>
            {one.parts.map((part, number) => (
              <span key={number} className={ROLES[part.role]}>
                {part.text}
              </span>
            ))}
          </span>
        </li>
      ))}
    </ol>
  );
}
