import type { Connection, InputType, Module, Patch } from "../api/client";
import { endsOf, lineKey, portTitle } from "../api/patch";
import { MarkField } from "./MarkField";
import { useBench } from "./BenchContext";
import { DepthEntry, ScaleChoice } from "./LineControls";

const PATTERNS: Record<InputType["kind"], string> = {
  audio: "border-t-[3px] border-solid",
  control: "border-t-2 border-dashed",
  pitch: "border-t-2 border-dotted",
  gate: "border-t border-solid",
};

export const sourcesOf = (patch: Patch, module: Module, input: InputType): Connection[] =>
  patch.connections.filter((one) => one.to === `${module.id}.${input.name}`);

/** What comes into an input: each source with its depth, what scales it, and whether it is on. */
export function Sources({ module, input }: { module: Module; input: InputType }) {
  const { patch, state } = useBench();
  const key = state.line && lineKey(state.line);
  return (
    <ul>
      {sourcesOf(patch, module, input).map((connection) => (
        <Source
          key={connection.from}
          connection={connection}
          input={input}
          chosen={lineKey(connection) === key}
        />
      ))}
    </ul>
  );
}

interface SourceProps {
  connection: Connection;
  input: InputType;
  chosen: boolean;
}

function Source({ connection, input, chosen }: SourceProps) {
  const { patch, catalogue, state, edit } = useBench();
  const from = portTitle(patch, connection.from, catalogue);
  return (
    <li
      className={`grid grid-cols-[18px_1fr_auto] items-baseline gap-x-1.5 text-note ${
        chosen ? "bg-this-wash" : ""
      } ${connection.off ? "text-soft" : ""}`}
    >
      <span aria-hidden="true" className={`h-0 self-center border-ink ${PATTERNS[input.kind]}`} />
      <button
        type="button"
        className="min-w-0 truncate text-left font-medium hover:text-this"
        onClick={() => state.selectLine(endsOf(connection))}
      >
        {from}
      </button>
      <span className="flex items-baseline gap-1.5">
        <DepthEntry connection={connection} />
        {edit && (
          <input
            type="checkbox"
            aria-label={`${from} to ${input.name} is on`}
            title="Switch this connection off or on"
            className="self-center accent-ink"
            checked={!connection.off}
            onChange={() => edit([{ kind: "line", line: endsOf(connection), off: !connection.off }])}
          />
        )}
      </span>
      {(connection.scaled_by || chosen) && (
        <span className="col-span-2 col-start-2 flex items-baseline gap-1.5 text-soft">
          scaled by
          <ScaleChoice connection={connection} />
        </span>
      )}
      {chosen && (
        <span className="col-span-2 col-start-2">
          <MarkField at={{ kind: "line", ...endsOf(connection) }} title={`${from} to ${input.name}`} />
        </span>
      )}
    </li>
  );
}

/** Asks for another source of an input. */
export function AddSource({ name, onAdd }: { name: string; onAdd: () => void }) {
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
