import type { Connection, RulerType } from "../api/client";
import { endsOf, inputOf, portTitle } from "../api/patch";
import { Choice } from "../ui/Choice";
import { NumberEntry } from "../ui/NumberEntry";
import { useBench } from "./BenchContext";

const DEPTHS: RulerType = {
  low: -100_000,
  high: 100_000,
  default: 1,
  unit: "",
  step: 0.01,
  travel: "linear",
};

/** How far a connection moves its input, in the input's unit. */
export function DepthEntry({ connection }: { connection: Connection }) {
  const { patch, catalogue, edit } = useBench();
  const input = inputOf(patch, connection.to, catalogue);
  const name = portTitle(patch, connection.from, catalogue);
  return (
    <NumberEntry
      label={`Depth from ${name} to ${input?.words ?? ""}`}
      ruler={{ ...DEPTHS, unit: input?.depth_unit ?? "" }}
      value={connection.depth}
      onCommit={edit && ((depth) => edit([{ kind: "line", line: endsOf(connection), depth }]))}
    />
  );
}

/** Which signal a connection is scaled by, if any. */
export function ScaleChoice({ connection }: { connection: Connection }) {
  const { patch, catalogue, edit } = useBench();
  const name = (port: string) => portTitle(patch, port, catalogue);
  if (!edit) return <span>{connection.scaled_by ? name(connection.scaled_by) : ""}</span>;
  const ports = patch.modules.flatMap((module) =>
    (catalogue.get(module.type)?.outputs ?? []).map((output) => `${module.id}.${output.name}`),
  );
  return (
    <Choice
      label={`What scales ${name(connection.from)} to ${inputOf(patch, connection.to, catalogue)?.name ?? ""}`}
      look="word"
      value={connection.scaled_by ?? "nothing"}
      options={[{ value: "nothing", word: "—" }, ...ports.map((port) => ({ value: port, word: name(port) }))]}
      onChange={(scaled_by) => edit([{ kind: "line", line: endsOf(connection), scaled_by }])}
    />
  );
}
