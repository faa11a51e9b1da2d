import { Description, Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { type ReactNode, useState } from "react";

import type { Clash } from "../api/client";
import type { Choices } from "../api/kept";

const HEADS = { theirs: "There now", mine: "Here" };

interface Props {
  title: string;
  clashes: Clash[];
  onDecide: (choices: Choices) => void;
  onMineAsNew: () => void;
}

/** Shown when somebody else has changed the very same in a step: each is decided by itself. */
export function ConflictDialog({ title, clashes, onDecide, onMineAsNew }: Props) {
  const [choices, setChoices] = useState<Choices>({});
  const all = (side: "theirs" | "mine") =>
    setChoices(Object.fromEntries(clashes.map(({ key }) => [key, side])));
  const open = clashes.filter(({ key }) => !choices[key]).length;
  return (
    <Asking title={`“${title}” was changed elsewhere too`}>
      <Description className="mt-2 mb-4 font-read text-read">
        {clashes.length === 1 ? "One thing has" : `${clashes.length} things have`} been changed there and
        here. All else stands together already. Nothing has been overwritten: what shall stand?
      </Description>
      <div className="min-h-0 overflow-y-auto border-b border-rule">
        <div className="grid grid-cols-[minmax(0,2fr)_minmax(0,3fr)_minmax(0,3fr)] gap-x-3 text-note">
          <span />
          {(["theirs", "mine"] as const).map((side) => (
            <span key={side} className="pb-1 font-semibold text-soft">
              {HEADS[side]}
              {clashes.length > 1 && (
                <button type="button" className="act ml-2 font-normal" onClick={() => all(side)}>
                  all of these
                </button>
              )}
            </span>
          ))}
        </div>
        {clashes.map((clash) => (
          <fieldset
            key={clash.key}
            className="grid grid-cols-[minmax(0,2fr)_minmax(0,3fr)_minmax(0,3fr)] gap-x-3 border-t border-rule py-1.5"
          >
            <legend className="sr-only">{clash.words}</legend>
            <span aria-hidden="true" className="font-semibold">
              {clash.words}
            </span>
            {(["theirs", "mine"] as const).map((side) => (
              <label key={side} className="flex min-w-0 items-start gap-2">
                <input
                  type="radio"
                  name={clash.key}
                  className="mt-1 accent-ink"
                  checked={choices[clash.key] === side}
                  onChange={() => setChoices({ ...choices, [clash.key]: side })}
                />
                <span className="min-w-0 break-words">{clash[side]}</span>
              </label>
            ))}
          </fieldset>
        ))}
      </div>
      <div className="mt-4 flex flex-wrap gap-3">
        <button type="button" className="button-strong" disabled={open > 0} onClick={() => onDecide(choices)}>
          {open > 0 ? `Still to choose: ${open}` : "Keep it so"}
        </button>
        <button type="button" className="button" onClick={onMineAsNew}>
          Keep mine as a new step behind it
        </button>
      </div>
    </Asking>
  );
}

interface GoneProps {
  title: string;
  onBringBack: () => void;
  onLetGo: () => void;
}

/** Shown when somebody has deleted a step while it was changed here. */
export function GoneDialog({ title, onBringBack, onLetGo }: GoneProps) {
  return (
    <Asking title={`“${title}” was deleted elsewhere`}>
      <Description className="mt-2 mb-5 font-read text-read">
        Somebody has deleted this step while you were changing it. What you have changed is still here.
      </Description>
      <div className="flex flex-wrap gap-3">
        <button type="button" className="button-strong" onClick={onBringBack}>
          Bring the step back, with my changes
        </button>
        <button type="button" className="button" onClick={onLetGo}>
          Let it go, and my changes too
        </button>
      </div>
    </Asking>
  );
}

/** A question that has to be answered before anything goes on. */
const Asking = ({ title, children }: { title: string; children: ReactNode }) => (
  <Dialog open onClose={() => undefined} role="alertdialog" className="relative z-40">
    <div className="fixed inset-0 grid place-items-center bg-ink/30 p-6">
      <DialogPanel className="flex max-h-full w-full max-w-3xl flex-col rounded border border-ink bg-leaf p-6 shadow-lg">
        <DialogTitle className="font-read text-head font-semibold">{title}</DialogTitle>
        {children}
      </DialogPanel>
    </div>
  </Dialog>
);
