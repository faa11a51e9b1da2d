import { useBench } from "./BenchContext";
import { ConnectPanel } from "./ConnectPanel";
import { FilePanel } from "./FilePanel";
import { GroupPanel } from "./GroupPanel";
import { KeyList } from "./KeyList";
import { Palette } from "./Palette";
import { SoundsPanel } from "./sounds/SoundsPanel";
import { ReplacePanel } from "./ReplacePanel";

/** What is asked before something is done. */
export function Questions() {
  const { patch, state, commands } = useBench();
  const { asking } = state;
  const replaced = patch.modules.find((one) => asking?.what === "replace" && one.id === asking.module);
  return (
    <>
      {asking?.what === "add" && <Palette />}
      {asking?.what === "connect" && <ConnectPanel connecting={asking.connecting} />}
      {replaced && <ReplacePanel module={replaced} />}
      {asking?.what === "group" && <GroupPanel modules={asking.modules} />}
      {asking?.what === "file" && <FilePanel />}
      {asking?.what === "sounds" && <SoundsPanel module={asking.module} />}
      {asking?.what === "keys" && <KeyList commands={commands} onClose={() => state.ask(undefined)} />}
    </>
  );
}
