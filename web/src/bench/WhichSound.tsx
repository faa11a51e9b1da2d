import { useState } from "react";

import { AGAINST } from "../lenses/views";

export type Which = "this" | "other";

interface Props {
  /** What the sound of the bench itself is called. */
  word: string;
  which: Which;
  onChange: (which: Which) => void;
  /** What the other sound is; nothing if there is none. */
  otherName: string | undefined;
}

interface Guessing {
  /** Whether the first button plays this step. */
  thisFirst: boolean;
  guess: Which | undefined;
}

interface Tally {
  right: number;
  all: number;
}

/** Which of two sounds is played, both equally loud; blind, one has to tell them apart by ear. */
export function WhichSound({ word, which, onChange, otherName }: Props) {
  const [guessing, setGuessing] = useState<Guessing>();
  const [tally, setTally] = useState<Tally>({ right: 0, all: 0 });
  const begin = () => {
    setGuessing({ thisFirst: Math.random() < 0.5, guess: undefined });
    onChange(Math.random() < 0.5 ? "this" : "other");
  };
  if (otherName === undefined) return <Button word={word} pressed look="this" onClick={() => undefined} />;
  if (!guessing)
    return (
      <div className="flex shrink-0 items-center gap-1.5 narrow:gap-0.5">
        <div role="group" aria-label="Which sound is played, equally loud" className={GROUP}>
          <Button
            word={word}
            title={`${word} (B switches); both are equally loud`}
            pressed={which === "this"}
            look="this"
            onClick={() => onChange("this")}
          />
          <Button
            word={WORDS[otherName] ?? otherName}
            title={`${otherName} (B switches); both are equally loud`}
            pressed={which === "other"}
            look="other"
            onClick={() => onChange("other")}
          />
        </div>
        <button
          type="button"
          className="act-quiet px-1 coarse:py-1"
          title="Hear both without knowing which is which"
          onClick={begin}
        >
          Blind
        </button>
      </div>
    );
  return (
    <Blind
      word={word}
      guessing={guessing}
      tally={tally}
      which={which}
      onChange={onChange}
      onGuess={(guess) => {
        setGuessing({ ...guessing, guess });
        setTally({ right: tally.right + (guess === "this" ? 1 : 0), all: tally.all + 1 });
      }}
      onAgain={begin}
      onEnd={() => setGuessing(undefined)}
    />
  );
}

const WORDS: Record<string, string> = {
  [AGAINST.before]: "Before",
  [AGAINST.target]: "Last step",
  [AGAINST.frozen]: "Frozen",
};

const GROUP = "flex shrink-0 overflow-hidden rounded border border-rule";

interface BlindProps {
  word: string;
  guessing: Guessing;
  tally: Tally;
  which: Which;
  onChange: (which: Which) => void;
  onGuess: (guess: Which) => void;
  onAgain: () => void;
  onEnd: () => void;
}

function Blind({ word, guessing, tally, which, onChange, onGuess, onAgain, onEnd }: BlindProps) {
  const order: Which[] = guessing.thisFirst ? ["this", "other"] : ["other", "this"];
  const place = guessing.thisFirst ? "the first" : "the second";
  return (
    <div className="flex shrink-0 items-center gap-2" data-blind>
      <div role="group" aria-label="Two sounds, not known which" className={GROUP}>
        {order.map((one, n) => (
          <Button
            key={one}
            word={n === 0 ? "First" : "Second"}
            pressed={which === one}
            look="unknown"
            onClick={() => onChange(one)}
          />
        ))}
      </div>
      {guessing.guess === undefined ? (
        <div className="leading-tight">
          <div className="text-soft">Which is {word.toLowerCase()}?</div>
          {order.map((one, n) => (
            <button key={one} type="button" className="act mr-2 font-semibold" onClick={() => onGuess(one)}>
              {n === 0 ? "The first" : "The second"}
            </button>
          ))}
        </div>
      ) : (
        <div className="leading-tight" role="status">
          <div>
            {guessing.guess === "this" ? "Right" : "No"}: it is {place}. {tally.right} of {tally.all}
          </div>
          <button type="button" className="act mr-2" onClick={onAgain}>
            Again
          </button>
          <button type="button" className="act" onClick={onEnd}>
            Enough
          </button>
        </div>
      )}
    </div>
  );
}

const LOOKS = {
  this: "bg-this-wash font-semibold text-this",
  other: "bg-compared-wash font-semibold text-compared-text",
  unknown: "bg-rule font-semibold",
};

interface ButtonProps {
  word: string;
  title?: string;
  pressed: boolean;
  look: keyof typeof LOOKS;
  onClick: () => void;
}

function Button({ word, title, pressed, look, onClick }: ButtonProps) {
  return (
    <button
      type="button"
      aria-pressed={pressed}
      title={title}
      className={`px-3 py-1.5 narrow:px-2 first-letter:uppercase ${pressed ? LOOKS[look] : "text-soft"}`}
      onClick={onClick}
    >
      {word}
    </button>
  );
}
