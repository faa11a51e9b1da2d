import { type ReactNode, type KeyboardEvent, memo, useCallback, useEffect, useRef, useState } from "react";

import type { Instruction, StepContent, Wording } from "../api/client";
import { ActionMenu } from "../ui/ActionMenu";
import type { Voice } from "./voice";
import { readWords, wordsOf } from "./wording";

const ROLES = { plain: "", name: "font-semibold", value: "font-semibold text-this" };

interface Writing {
  content: StepContent;
  /** Wordings of what is done no longer, or otherwise. */
  unfitting: Wording[];
  /** Whether the educator's order can still be followed. */
  orderHolds: boolean;
  onChange: (change: globalThis.Partial<StepContent>) => void;
  /** Splits the step after so many instructions. */
  onSplit: (after: number) => void;
}

interface Props {
  instructions: Instruction[];
  first: boolean;
  voice: Voice;
  /** Of each, whether one's own patch shows it. */
  ticks?: boolean[] | undefined;
  writing: Writing | undefined;
}

/** What to do in this step, as Inner Tone has worked it out from the patches; in the educator's words and order. */
export function Instructions({ instructions, first, voice, ticks, writing }: Props) {
  const [wording, setWording] = useState<string>();
  const keys = instructions.map((one) => one.key);
  const reword = (key: string, text: string | undefined) => {
    if (writing) writing.onChange({ wording: reworded(writing.content.wording, key, text) });
    setWording(undefined);
  };
  const move = (place: number, by: number) =>
    writing?.onChange({ order: moved(keys, place, by), order_made: false });
  const onAct = useSteady((number: number, what: Act) => {
    const key = keys[number - 1];
    if (key === undefined) return;
    if (what === "word") setWording(key);
    else if (what === "unword") reword(key, undefined);
    else move(number - 1, what === "up" ? -1 : 1);
  });
  return (
    <>
      {instructions.length === 0 ? (
        <p className="text-soft">{first ? "The patch is still empty." : "The patch stays as it was."}</p>
      ) : (
        <ol className="border-b border-rule">
          {instructions.map((one, place) => (
            <Row
              key={`${place}-${one.text}`}
              number={place + 1}
              done={ticks?.[place]}
              said={
                writing && wording === one.key ? (
                  <WordingField
                    instruction={one}
                    number={place + 1}
                    onKeep={(text) => reword(one.key, text)}
                    onLeave={() => setWording(undefined)}
                  />
                ) : (
                  <Said instruction={one} voice={voice} />
                )
              }
            >
              {writing && (
                <Actions
                  number={place + 1}
                  worded={one.wording !== null}
                  last={place === keys.length - 1}
                  onAct={onAct}
                />
              )}
              {writing && place > 0 && (
                <SplitButton number={place + 1} onSplit={() => writing.onSplit(place)} />
              )}
            </Row>
          ))}
        </ol>
      )}
      {writing && <Misfits {...writing} onDrop={(key) => reword(key, undefined)} />}
    </>
  );
}

const reworded = (wording: StepContent["wording"], key: string, text: string | undefined) => {
  const others = wording.filter((one) => one.key !== key);
  return text === undefined ? others : [...others, { key, text }];
};

const moved = (keys: string[], place: number, by: number) =>
  keys.toSpliced(place, 1).toSpliced(place + by, 0, ...keys.slice(place, place + 1));

interface RowProps {
  number: number;
  done: boolean | undefined;
  said: ReactNode;
  children: ReactNode;
}

/** One instruction, with its number or that it is done. */
const Row = ({ number, done, said, children }: RowProps) => (
  <li
    data-done={done}
    className="group relative grid grid-cols-[26px_1fr_auto] border-t border-rule py-1 data-[done=true]:text-soft"
  >
    <NumberOrTick number={number} done={done ?? false} />
    {said}
    {children}
  </li>
);

/** A function that stays the same one, whatever it does now: what it is given to is not drawn anew for it. */
function useSteady(does: (number: number, what: Act) => void): (number: number, what: Act) => void {
  const now = useRef(does);
  useEffect(() => {
    now.current = does;
  });
  return useCallback((number: number, what: Act) => now.current(number, what), []);
}

function SplitButton({ number, onSplit }: { number: number; onSplit: () => void }) {
  return (
    <button
      type="button"
      aria-label={`Split the step before instruction ${number}`}
      title="Split the step here"
      className="absolute -top-2.5 right-7 z-10 rounded-full border border-firm bg-leaf px-2 text-note leading-5 text-soft opacity-0 group-hover:opacity-100 hover:text-ink focus-visible:opacity-100"
      onClick={onSplit}
    >
      split here
    </button>
  );
}

/** Its number, or that it is done. */
function NumberOrTick({ number, done }: { number: number; done: boolean }) {
  if (!done) return <span className="text-soft">{number}</span>;
  return (
    <span className="font-bold text-ok" role="img" aria-label={`${number}, done`}>
      ✓
    </span>
  );
}

/** The sentence of an instruction; it is drawn anew only when it is another. */
const Said = memo(function Said({ instruction, voice }: { instruction: Instruction; voice: Voice }) {
  return (
    <span>
      {(voice === "brief" ? instruction.brief : instruction.parts).map((part, number) => (
        <span key={number} className={ROLES[part.role]}>
          {part.text}
        </span>
      ))}
      {voice === "explained" && instruction.purpose && (
        <span className="mt-0.5 block font-read text-work text-soft italic">{instruction.purpose}</span>
      )}
    </span>
  );
});

type Act = "word" | "unword" | "up" | "down";

interface ActionsProps {
  number: number;
  worded: boolean;
  last: boolean;
  onAct: (number: number, act: Act) => void;
}

/** What can be done with an instruction. There may be hundreds: one is drawn anew only when something about it changes. */
const Actions = memo(function Actions({ number, worded, last, onAct }: ActionsProps) {
  const offered: [Act, string][] = [
    ["word", "Word it yourself"],
    ...(worded ? [["unword", "Let your words go"] satisfies [Act, string]] : []),
    ...(number > 1 ? [["up", "Move up"] satisfies [Act, string]] : []),
    ...(last ? [] : [["down", "Move down"] satisfies [Act, string]]),
  ];
  return (
    <ActionMenu
      label={`Instruction ${number}`}
      actions={offered.map(([act, word]) => ({ word, run: () => onAct(number, act) }))}
      className="px-1 leading-5 text-soft opacity-0 group-focus-within:opacity-100 group-hover:opacity-100 hover:text-ink focus-visible:opacity-100 data-open:opacity-100"
    >
      ⋯
    </ActionMenu>
  );
});

interface WordingProps {
  instruction: Instruction;
  number: number;
  onKeep: (text: string) => void;
  onLeave: () => void;
}

/** Where an instruction is worded: around its facts, which stay what they are. */
function WordingField({ instruction, number, onKeep, onLeave }: WordingProps) {
  const [typed, setTyped] = useState(() => wordsOf(instruction));
  const read = readWords(typed, instruction.facts);
  const press = (event: KeyboardEvent) => {
    if (event.key === "Escape") onLeave();
    if (event.key !== "Enter" || event.shiftKey) return;
    event.preventDefault();
    if ("text" in read) onKeep(read.text);
  };
  return (
    <div className="pr-1">
      <textarea
        autoFocus
        aria-label={`Words of instruction ${number}`}
        aria-invalid={"trouble" in read}
        rows={2}
        maxLength={1000}
        className="field-sizing-content w-full rounded border border-firm bg-leaf p-1.5"
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        onKeyDown={press}
      />
      <div className="flex items-baseline gap-3 text-note">
        <span
          role="status"
          className={`flex-1 leading-tight ${"trouble" in read ? "text-warn" : "text-soft"}`}
        >
          {"trouble" in read ? read.trouble : "What is in braces follows the patch."}
        </span>
        <button
          type="button"
          className="act font-semibold"
          disabled={"trouble" in read}
          onClick={() => "text" in read && onKeep(read.text)}
        >
          Keep
        </button>
        <button type="button" className="act-quiet" onClick={onLeave}>
          Cancel
        </button>
      </div>
    </div>
  );
}

/** What the educator has worded or ordered that the patch no longer bears out. */
function Misfits({ unfitting, orderHolds, onChange, onDrop }: Writing & { onDrop: (key: string) => void }) {
  if (unfitting.length === 0 && orderHolds) return null;
  const look = "mt-1.5 flex items-baseline gap-3 border-l-3 border-warn pl-2 text-note";
  return (
    <div data-misfits>
      {unfitting.map((one) => (
        <p key={one.key} className={look}>
          <span className="flex-1">
            <b className="font-semibold text-warn">No longer done:</b> {one.text.replace(/\{\d+\}/g, "…")}
          </span>
          <button type="button" className="act" onClick={() => onDrop(one.key)}>
            Let it go
          </button>
        </p>
      ))}
      {!orderHolds && (
        <p className={look}>
          <span className="flex-1">
            <b className="font-semibold text-warn">In your order it cannot be done.</b> This is Inner Tone’s.
          </span>
          <button type="button" className="act" onClick={() => onChange({ order: [] })}>
            Let it go
          </button>
        </p>
      )}
    </div>
  );
}
