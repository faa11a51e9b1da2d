import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";

import { useStore } from "zustand";

import { AgainstList } from "./lenses/AgainstList";
import { useRoom } from "../ui/room";
import { useBench } from "./BenchContext";
import { type Command, keyText } from "./commands";
import { type Foot, listeningOf } from "./store";

/** The strip between the map and what stands beneath it: what can be done, and what is shown there. */
export function BenchBar() {
  const { state, past, commands } = useBench();
  const command = (id: string) => commands.find((one) => one.id === id);
  return (
    <div className="flex min-h-9 shrink-0 flex-wrap items-center gap-x-1 border-t border-rule px-2.5">
      <Tabs />
      {state.foot === "lenses" && <Behind />}
      <span className="flex-1" />
      {listeningOf(state) && <Plain command={command("hear-all")} word="Hear all" strong />}
      <Plain command={command("add")} word="Add…" strong />
      <Plain command={command("connect")} word="Connect…" />
      <Plain command={command("undo")} word="Undo" steps={past.steps} />
      <Plain command={command("redo")} word="Redo" />
      <MoreMenu commands={commands} />
      <Plain command={command("fit")} word="Fit" />
      <Plain command={command("keys")} word="?" />
    </div>
  );
}

/** What stands behind the lenses: while it is played, only what was frozen. */
function Behind() {
  const { live } = useBench();
  const { phase, frozen } = useStore(live.state);
  if (phase !== "on" && phase !== "lost") return <AgainstList />;
  return (
    <span className={`ml-2 truncate px-1 ${frozen ? "text-compared-text" : "text-soft"}`}>
      {frozen ? "what was frozen" : "what sounds now"}
    </span>
  );
}

function Tabs() {
  const { patch, phrase, findings } = useBench();
  const found = findings?.length ?? 0;
  const checkup =
    findings === undefined ? "Checkup" : found === 0 ? "Checkup: all well" : `Checkup: ${found}`;
  return (
    <div
      role="tablist"
      aria-label="Beneath the map"
      className="flex min-h-9 shrink-0 narrow:min-w-0 narrow:shrink narrow:flex-wrap"
    >
      <Tab word="Lenses" foot="lenses" />
      <Tab word={`Connections ${patch.connections.length}`} foot="connections" />
      <Tab word={checkup} foot="checkup" warn={found > 0} />
      <Tab word="Phrase" foot="phrase" />
      <Tab word={phrase.company.length > 0 ? `Company ${phrase.company.length}` : "Company"} foot="company" />
    </div>
  );
}

interface TabProps {
  word: string;
  foot: Foot;
  warn?: boolean;
}

function Tab({ word, foot, warn = false }: TabProps) {
  const { state } = useBench();
  const folded = useRoom((room) => room.foot === 0) || state.wide;
  const here = foot === state.foot;
  return (
    <button
      type="button"
      role="tab"
      id={`tab-${foot}`}
      aria-selected={here}
      aria-controls={folded ? undefined : "foot"}
      data-foot={foot}
      className={`min-h-6 border-b-2 px-1.5 whitespace-nowrap ${here ? "border-ink font-semibold" : "border-transparent hover:text-ink"} ${
        warn ? "text-warn" : here ? "" : "text-soft"
      }`}
      onClick={() => state.show(foot)}
    >
      {word}
    </button>
  );
}

interface PlainProps {
  command: Command | undefined;
  word: string;
  strong?: boolean;
  steps?: number;
}

function Plain({ command, word, strong = false, steps }: PlainProps) {
  if (!command) return null;
  return (
    <button
      type="button"
      title={`${command.words} (${command.keys.map(keyText).join(", ")})`}
      aria-keyshortcuts={command.keys[0]?.replace("Ctrl", "Control")}
      disabled={!command.possible}
      data-steps={steps}
      className={`rounded px-1 py-1 whitespace-nowrap hover:bg-this/10 disabled:text-firm ${strong ? "font-semibold" : ""}`}
      onClick={command.run}
    >
      {word}
    </button>
  );
}

/** All that can be done with what is selected, with its keys. */
function MoreMenu({ commands }: { commands: Command[] }) {
  const shown = commands.filter(({ group }) => group === "build" || group === "listen" || group === "files");
  return (
    <Menu as="div" className="relative">
      <MenuButton className="rounded px-1.5 py-1 whitespace-nowrap hover:bg-this/10">Do…</MenuButton>
      <MenuItems
        modal={false}
        className="absolute right-0 bottom-full z-30 max-h-[50vh] w-max overflow-y-auto rounded border border-firm bg-leaf py-1 shadow-md"
      >
        {shown.map((one) => (
          <MenuItem key={one.id} disabled={!one.possible}>
            <button
              type="button"
              className="flex w-full gap-8 px-4 py-1 text-left data-disabled:text-firm data-focus:bg-this-wash"
              onClick={one.run}
            >
              <span className="flex-1">{one.words}</span>
              <kbd className="font-work text-soft">{keyText(one.keys[0] ?? "")}</kbd>
            </button>
          </MenuItem>
        ))}
      </MenuItems>
    </Menu>
  );
}
