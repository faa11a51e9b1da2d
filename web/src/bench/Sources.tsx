import type { Connection, Edit, Ends, InputType, Module, Patch } from "../api/client";
import { type Catalogue, endsOf, lineKey, portTitle } from "../api/patch";
import { DepthEntry, ScaleChoice } from "./LineControls";

interface Props {
  patch: Patch;
  catalogue: Catalogue;
  module: Module;
  input: InputType;
  chosen: Ends | undefined;
  onChoose: (ends: Ends) => void;
  onEdit: ((edits: Edit[]) => void) | undefined;
}

const PATTERNS: Record<InputType["kind"], string> = {
  audio: "border-t-[3px] border-solid",
  control: "border-t-2 border-dashed",
  pitch: "border-t-2 border-dotted",
  gate: "border-t border-solid",
};

export const sourcesOf = (patch: Patch, module: Module, input: InputType): Connection[] =>
  patch.connections.filter((one) => one.to === `${module.id}.${input.name}`);

/** What comes into an input: each source with its depth, what scales it, and whether it is on. */
export function Sources({ patch, catalogue, module, input, chosen, onChoose, onEdit }: Props) {
  const key = chosen && lineKey(chosen);
  return (
    <ul>
      {sourcesOf(patch, module, input).map((connection) => (
        <li
          key={connection.from}
          className={`grid grid-cols-[18px_1fr_auto] items-baseline gap-x-1.5 text-[13.5px] ${
            lineKey(connection) === key ? "bg-this-wash" : ""
          } ${connection.off ? "text-soft" : ""}`}
        >
          <span aria-hidden="true" className={`h-0 self-center border-ink ${PATTERNS[input.kind]}`} />
          <span className="flex min-w-0 items-baseline gap-1">
            <button
              type="button"
              className="truncate text-left font-medium hover:text-this"
              onClick={() => onChoose(endsOf(connection))}
            >
              {portTitle(patch, connection.from, catalogue)}
            </button>
          </span>
          <span className="flex items-baseline gap-1.5">
            <DepthEntry connection={connection} patch={patch} catalogue={catalogue} onEdit={onEdit} />
            {onEdit && (
              <input
                type="checkbox"
                aria-label={`${portTitle(patch, connection.from, catalogue)} to ${input.name} is on`}
                title="Switch this connection off or on"
                className="self-center accent-ink"
                checked={!connection.off}
                onChange={() => onEdit([{ kind: "line", line: endsOf(connection), off: !connection.off }])}
              />
            )}
          </span>
          {(connection.scaled_by || lineKey(connection) === key) && (
            <span className="col-span-2 col-start-2 flex items-baseline gap-1.5 text-soft">
              scaled by
              <ScaleChoice connection={connection} patch={patch} catalogue={catalogue} onEdit={onEdit} />
            </span>
          )}
        </li>
      ))}
    </ul>
  );
}

interface AddSourceProps {
  name: string;
  onAdd: (() => void) | undefined;
}

/** Asks for another source of an input. */
export function AddSource({ name, onAdd }: AddSourceProps) {
  if (!onAdd) return null;
  return (
    <button
      type="button"
      aria-label={`Connect something to ${name}`}
      title={`Connect something to ${name}`}
      className="rounded px-1.5 leading-none text-soft hover:bg-this/10 hover:text-ink"
      onClick={onAdd}
    >
      +
    </button>
  );
}
