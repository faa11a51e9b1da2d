import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";

import type { ReactNode } from "react";

import { type Command, keyText } from "./commands";
import type { Foot } from "./useBenchState";

interface Props {
  commands: Command[];
  foot: Foot;
  onFoot: (foot: Foot) => void;
  connections: number;
  findings: number | undefined;
  listening: boolean;
  /** How many changes can be taken back. */
  steps: number;
  /** What belongs to what is shown beneath. */
  children?: ReactNode;
}

/** The strip between the map and what stands beneath it: what can be done, and what is shown there. */
export function BenchBar({
  commands,
  foot,
  onFoot,
  connections,
  findings,
  listening,
  steps,
  children,
}: Props) {
  const command = (id: string) => commands.find((one) => one.id === id);
  return (
    <div className="flex h-9 shrink-0 items-center gap-1 border-t border-rule px-3">
      <div role="tablist" aria-label="Beneath the map" className="flex h-full shrink-0 gap-1">
        <Tab word="Lenses" foot="lenses" shown={foot} onFoot={onFoot} />
        <Tab word={`Connections ${connections}`} foot="connections" shown={foot} onFoot={onFoot} />
        <Tab
          word={
            findings === undefined ? "Checkup" : findings === 0 ? "Checkup: all well" : `Checkup: ${findings}`
          }
          foot="checkup"
          shown={foot}
          onFoot={onFoot}
          warn={findings !== undefined && findings > 0}
        />
        <Tab word="Phrase" foot="phrase" shown={foot} onFoot={onFoot} />
      </div>
      {children}
      <span className="flex-1" />
      {listening && <Plain command={command("hear-all")} word="Hear everything" strong />}
      <Plain command={command("add")} word="Add…" strong />
      <Plain command={command("connect")} word="Connect…" />
      <Plain command={command("undo")} word="Undo" steps={steps} />
      <Plain command={command("redo")} word="Redo" />
      <MoreMenu commands={commands} />
      <Plain command={command("fit")} word="Fit" />
      <Plain command={command("keys")} word="?" />
    </div>
  );
}

interface TabProps {
  word: string;
  foot: Foot;
  shown: Foot;
  onFoot: (foot: Foot) => void;
  warn?: boolean;
}

function Tab({ word, foot, shown, onFoot, warn = false }: TabProps) {
  const here = foot === shown;
  return (
    <button
      type="button"
      role="tab"
      id={`tab-${foot}`}
      aria-selected={here}
      aria-controls="foot"
      data-foot={foot}
      className={`border-b-2 px-2 whitespace-nowrap ${here ? "border-ink font-semibold" : "border-transparent hover:text-ink"} ${
        warn ? "text-warn" : here ? "" : "text-soft"
      }`}
      onClick={() => onFoot(foot)}
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
      className={`rounded px-1.5 py-1 whitespace-nowrap hover:bg-this/10 disabled:text-firm ${strong ? "font-semibold" : ""}`}
      onClick={command.run}
    >
      {word}
    </button>
  );
}

/** All that can be done with what is selected, with its keys. */
function MoreMenu({ commands }: { commands: Command[] }) {
  const shown = commands.filter((one) => one.group === "build" || one.group === "listen");
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
