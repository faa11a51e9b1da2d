import type { Patch, Phrase, RulerType } from "../api/client";
import type { Catalogue } from "../api/patch";
import { NumberEntry } from "../ui/NumberEntry";
import { controlNamed } from "./controls";
import { fitted, GRID, type Note, type Point, pointsOf, withNote, withPoint, withPoints } from "./phrases";

/** A phrase that is shown, and changed where it can be. */
export interface PhraseProps {
  phrase: Phrase;
  /** Whose levers gestures can move. */
  patch: Patch;
  catalogue: Catalogue;
  /** Changes of one kind in quick succession can be taken back as one. Without it nothing can be changed. */
  onChange: ((phrase: Phrase, kind?: string) => void) | undefined;
}

export interface Choosing extends PhraseProps {
  chosen: number | undefined;
  onChoose: (place: number | undefined) => void;
}

/** The values of the note that is chosen. */
export function NoteFields({ phrase, chosen = 0, onChoose, onChange, note }: Choosing & { note: Note }) {
  const set = (change: Partial<Note>) => {
    const [changed, place] = withNote(phrase, chosen, fitted({ ...note, ...change }, phrase.beats));
    onChange?.(changed);
    onChoose(place);
  };
  return (
    <fieldset className="mt-1 border-t border-rule pt-1">
      <legend className="sr-only">
        Note {chosen + 1} of {phrase.notes.length}
      </legend>
      <Field
        label="Note"
        value={note.pitch}
        ruler={ruler("note", 0, 127)}
        onSet={onChange && ((pitch) => set({ pitch }))}
      />
      <Field
        label="Begins at beat"
        value={note.start + 1}
        ruler={ruler("", 1, phrase.beats + 1 - GRID)}
        onSet={onChange && ((start) => set({ start: start - 1 }))}
      />
      <Field
        label="Lasts"
        value={note.length}
        ruler={ruler("beat", 0.01, Math.max(note.length, phrase.beats - note.start))}
        onSet={onChange && ((length) => set({ length }))}
      />
      <Field
        label="Velocity"
        value={note.velocity}
        ruler={ruler("", 0, 1)}
        onSet={onChange && ((velocity) => set({ velocity }))}
      />
    </fieldset>
  );
}

/** A point of a movement that is chosen. */
export interface ChosenPoint {
  control: string;
  place: number;
}

interface PointProps extends PhraseProps {
  point: ChosenPoint;
  onChoose: (point: ChosenPoint) => void;
}

/** The values of the point that is chosen: its beat, and where what it moves stands, in the unit of that. */
export function PointFields({ phrase, patch, catalogue, point, onChoose, onChange }: PointProps) {
  const { control, place } = point;
  const moved = controlNamed(control, patch, catalogue);
  const gesture = phrase.gestures.find((one) => one.control === control);
  const points = gesture ? pointsOf(gesture) : [];
  const here = points[place];
  if (!here) return null;
  const set = (part: Partial<Point>) => {
    const [changed, now] = withPoint(points, place, { ...here, ...part });
    onChange?.(withPoints(phrase, control, changed));
    onChoose({ control, place: now });
  };
  return (
    <fieldset className="mt-1 border-t border-rule pt-1">
      <legend className="sr-only">
        {moved.name}, point {place + 1} of {points.length}
      </legend>
      <Field
        label={`${moved.name}, point ${place + 1}: at beat`}
        value={here.beat + 1}
        ruler={ruler("", 1, phrase.beats + 1)}
        onSet={onChange && ((beat) => set({ beat: beat - 1 }))}
      />
      <Field
        label="Stands at"
        value={moved.valueAt(here.value)}
        ruler={moved.ruler}
        onSet={onChange && ((value) => set({ value: Number(moved.positionOf(value).toFixed(6)) }))}
      />
    </fieldset>
  );
}

interface FieldProps {
  label: string;
  value: number;
  ruler: RulerType;
  onSet: ((value: number) => void) | undefined;
}

export function Field({ label, value, ruler, onSet }: FieldProps) {
  return (
    <div className="flex items-baseline justify-between gap-2">
      <span className="text-soft">{label}</span>
      <NumberEntry label={label} ruler={ruler} value={value} onCommit={onSet} />
    </div>
  );
}

export const ruler = (unit: string, low: number, high: number): RulerType => ({
  unit,
  low,
  high,
  default: low,
  step: 0.01,
  travel: "linear",
});
