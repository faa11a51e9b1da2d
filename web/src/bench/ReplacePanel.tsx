import type { Module, ModuleType } from "../api/client";
import { titleOf } from "../api/patch";
import { Finder } from "../ui/Finder";
import { Panel } from "../ui/Panel";
import { useBench } from "./BenchContext";
import { fitOf } from "./find";

/** Chooses the type that takes a module's place; those that have most of its inputs come first. */
export function ReplacePanel({ module }: { module: Module }) {
  const { catalogue, state, act } = useBench();
  const onClose = () => state.ask(undefined);
  const old = catalogue.get(module.type);
  const alike = (type: ModuleType) =>
    Number(type.family === old?.family) +
    type.inputs.filter((input) => old?.inputs.some((one) => one.name === input.name)).length;
  const find = (words: string) =>
    [...catalogue.values()]
      .filter((type) => !type.single && type.name !== module.type && fitOf(type, words) > 0)
      .toSorted((a, b) => fitOf(b, words) - fitOf(a, words) || alike(b) - alike(a));
  return (
    <Panel title={`Replace ${titleOf(module, catalogue)} with…`} onClose={onClose}>
      <Finder
        label="What is to stand in its place?"
        placeholder="What is to stand in its place?"
        find={find}
        keyOf={(type) => type.name}
        onChoose={(type) => act([{ kind: "replace", module: module.id, type: type.name }])}
        onClose={onClose}
        nothing="No module is called so."
        draw={(type) => (
          <>
            <b className="font-read font-medium">{type.title}</b>{" "}
            <span className="text-soft">{type.summary}</span>
          </>
        )}
      />
    </Panel>
  );
}
