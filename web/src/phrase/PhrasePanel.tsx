import { type ReactNode, useState } from "react";

import type { Phrase } from "../api/client";
import { ActionMenu } from "../ui/ActionMenu";
import { controlNamed, controlsOf } from "./controls";
import {
  type ChosenPoint,
  type Choosing,
  Field,
  NoteFields,
  type PhraseProps,
  PointFields,
  ruler,
} from "./Fields";
import { GestureLane } from "./GestureLane";
import { MidiFiles } from "./MidiFiles";
import { NoteScore } from "./NoteScore";
import {
  GRID,
  LONGEST_SECONDS,
  noteBehind,
  type Point,
  shortened,
  withNote,
  withoutNote,
  withPoints,
} from "./phrases";

interface Props extends PhraseProps {
  /** What else is to be known of it, and done with it. */
  children?: ReactNode;
}

/** The phrase that exercises the patch: its notes over the beats, the movements of its controls, its tempo. */
export function PhrasePanel(props: Props) {
  const { phrase, onChange } = props;
  const [wanted, setChosen] = useState<number>();
  const chosen = wanted !== undefined && wanted < phrase.notes.length ? wanted : undefined;
  const note = chosen === undefined ? undefined : phrase.notes[chosen];
  const [point, setPoint] = useState<ChosenPoint>();
  const choose = (place: number | undefined) => {
    setChosen(place);
    setPoint(undefined);
  };
  const choosing = { ...props, chosen, onChoose: choose };
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[228px_minmax(0,1fr)] gap-5 narrow:grid-cols-1 narrow:overflow-y-auto">
      <div className="flex min-h-0 flex-col gap-1 overflow-y-auto pr-1">
        <Whole {...props} />
        {point && <PointFields {...props} point={point} onChoose={setPoint} />}
        {note && !point && <NoteFields {...choosing} note={note} />}
        {!note && !point && onChange && (
          <p className="mt-1 border-t border-rule pt-1.5 text-note text-soft">
            Point into the score for a note; drag it, or its end. Arrow keys move it, with Shift its end;
            Enter adds one behind it, Delete takes it out.
          </p>
        )}
        <div className="mt-auto flex flex-wrap items-center gap-x-3 gap-y-1 pt-1">
          <Actions {...choosing} />
          <MidiFiles
            className="act"
            phrase={phrase}
            levers={props.patch.modules.filter(({ type }) => type === "lever").map(({ id }) => `lever:${id}`)}
            onChange={onChange}
          />
          {props.children}
        </div>
      </div>
      <div className="flex min-h-0 min-w-0 flex-col gap-1.5 overflow-y-auto pt-4.5 pr-2 pb-1">
        <NoteScore phrase={phrase} chosen={chosen} onChoose={choose} onChange={onChange} />
        <Movements {...props} onChoose={setPoint} />
      </div>
    </div>
  );
}

/** The name, the tempo and the length of the phrase. */
function Whole({ phrase, onChange }: PhraseProps) {
  return (
    <>
      {onChange ? (
        <input
          aria-label="Name of the phrase"
          placeholder="Name of the phrase"
          maxLength={200}
          className="rounded-sm border border-rule bg-leaf px-2 py-1 font-medium"
          value={phrase.title}
          onChange={(event) => onChange({ ...phrase, title: event.target.value }, "title")}
        />
      ) : (
        <h2 className="font-medium">{phrase.title || "Phrase"}</h2>
      )}
      <Field
        label="Beats a minute"
        value={phrase.tempo}
        ruler={ruler("", Math.max(20, (phrase.beats * 60) / LONGEST_SECONDS), 400)}
        onSet={onChange && ((tempo) => onChange({ ...phrase, tempo }))}
      />
      <Field
        label="Length"
        value={phrase.beats}
        ruler={ruler("beat", shortest(phrase), Math.min(1024, (phrase.tempo * LONGEST_SECONDS) / 60))}
        onSet={onChange && ((beats) => onChange(shortened({ ...phrase, beats })))}
      />
    </>
  );
}

/** Adding and deleting notes, and movements of controls that have none. */
function Actions({ phrase, patch, catalogue, chosen, onChoose, onChange }: Choosing) {
  if (!onChange) return null;
  const unused = controlsOf(patch, catalogue).filter((one) =>
    phrase.gestures.every((known) => known.control !== one.control),
  );
  const add = () => {
    const [changed, place] = withNote(phrase, undefined, noteBehind(phrase, chosen));
    onChange(changed);
    onChoose(place);
  };
  const remove = (place: number) => {
    onChange(withoutNote(phrase, place));
    onChoose(undefined);
  };
  return (
    <>
      <button type="button" className="act" onClick={add}>
        Add a note
      </button>
      {chosen !== undefined && (
        <button type="button" className="act" onClick={() => remove(chosen)}>
          Delete it
        </button>
      )}
      {unused.length > 0 && (
        <ActionMenu
          anchor="top end"
          className="act"
          actions={unused.map((one) => ({
            word: one.name,
            run: () => onChange(withPoints(phrase, one.control, [{ beat: 0, value: 0 }])),
          }))}
        >
          Move a control…
        </ActionMenu>
      )}
    </>
  );
}

/** The movements of controls, beneath the notes. */
function Movements({
  phrase,
  patch,
  catalogue,
  onChoose,
  onChange,
}: PhraseProps & { onChoose: (point: ChosenPoint) => void }) {
  return phrase.gestures.map((gesture) => {
    const { control } = gesture;
    const moved = controlNamed(control, patch, catalogue);
    const { name } = moved;
    const put =
      onChange && ((points: Point[], kind?: string) => onChange(withPoints(phrase, control, points), kind));
    return (
      <div key={control} className="grid h-11 shrink-0 grid-cols-[60px_minmax(0,1fr)]">
        <div className="flex min-w-0 flex-col justify-center pr-2 text-right text-note text-soft">
          <span className="truncate" title={name}>
            {name}
          </span>
          {put && (
            <button
              type="button"
              aria-label={`Take out the movement of ${name}`}
              className="act self-end whitespace-nowrap"
              onClick={() => put([])}
            >
              Take out
            </button>
          )}
        </div>
        <GestureLane
          gesture={gesture}
          moved={moved}
          beats={phrase.beats}
          onChange={put}
          onChoose={(place) => onChoose({ control, place })}
        />
      </div>
    );
  });
}

/** So long that the last note still begins in it. */
const shortest = ({ notes }: Phrase) => Math.max(1, ...notes.map((note) => note.start + GRID));
