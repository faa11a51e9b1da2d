import type { Phrase } from "../api/client";
import { rules } from "../api/rules";

export type Note = Phrase["notes"][number];
export type Gesture = Phrase["gestures"][number];

/** Where a gesture has brought its control by a beat. */
export interface Point {
  beat: number;
  value: number;
}

/** Before the id of a lever, in the control of a gesture. */
const LEVER = "lever:";
/** What is placed by hand goes to quarters of a beat; typed values go anywhere. */
export const GRID = rules.phrase.grid;
export const LONGEST_SECONDS = rules.phrase.longest_seconds;
const HIGHEST = rules.phrase.highest_pitch;
const LEAST_PITCHES = 14;
const AROUND = 2;

/** How long the beats of a phrase take, in s. */
export const phraseSeconds = (phrase: Phrase): number => (phrase.beats * 60) / phrase.tempo;

const TOGETHER_S = 0.001;

/** Which note sounds last by a time in s, counted from 1 by when notes begin; those that begin together are one. */
export function strikeAt(phrase: Phrase, time: number): number {
  const begins = phrase.notes.map((note) => (note.start * 60) / phrase.tempo).toSorted((a, b) => a - b);
  const strikes = begins.filter((begin, n) => n === 0 || begin - (begins[n - 1] ?? 0) >= TOGETHER_S);
  return Math.max(Math.min(1, strikes.length), strikes.filter((begin) => begin <= time).length);
}

/** The pitches that a score has lines for. */
export interface Room {
  low: number;
  high: number;
}

/** Room for all notes and some around them. */
export function roomOf({ notes }: Phrase): Room {
  const pitches = notes.map((note) => note.pitch);
  const low = Math.floor(notes.length > 0 ? Math.min(...pitches) : 57) - AROUND;
  const high = Math.ceil(notes.length > 0 ? Math.max(...pitches) : 57) + AROUND;
  const missing = Math.max(0, LEAST_PITCHES - (high - low + 1));
  const below = Math.min(low, Math.floor(missing / 2));
  return { low: low - below, high: Math.min(HIGHEST, high + missing - below) };
}

export const between = (value: number, low: number, high: number) => Math.min(high, Math.max(low, value));
export const onGrid = (beat: number) => Math.round(beat / GRID) * GRID;

/** The next place on the grid, forward or back. */
export const nextOnGrid = (beat: number, way: number) =>
  way > 0 ? (Math.floor(beat / GRID) + 1) * GRID : (Math.ceil(beat / GRID) - 1) * GRID;

/** A note that has been moved beyond the phrase or the pitches, put back where it can be. */
export function fitted(note: Note, beats: number): Note {
  const start = between(note.start, 0, Math.max(0, beats - GRID));
  return {
    ...note,
    start,
    length: between(note.length, Math.min(GRID, note.length), Math.max(GRID, beats - start)),
    pitch: between(note.pitch, 0, HIGHEST),
  };
}

/** The phrase with a note in the place of another, or as a new one; and where it has come to stand. */
export function withNote(phrase: Phrase, place: number | undefined, note: Note): [Phrase, number] {
  const others = phrase.notes.filter((_, at) => at !== place);
  const notes = [...others, note].toSorted((a, b) => a.start - b.start || a.pitch - b.pitch);
  return [{ ...phrase, notes }, notes.indexOf(note)];
}

export const withoutNote = (phrase: Phrase, place: number): Phrase => ({
  ...phrase,
  notes: phrase.notes.toSpliced(place, 1),
});

/** A new note behind another one, as long and as high as that. */
export function noteBehind(phrase: Phrase, place: number | undefined): Note {
  const last = phrase.notes[place ?? phrase.notes.length - 1];
  if (!last) return fitted(rules.phrase.new_note, phrase.beats);
  return fitted({ ...last, start: last.start + last.length }, phrase.beats);
}

/** A phrase at a bench whose levers have other ids: by the id that each has where it was written. */
export function atLevers(phrase: Phrase, levers: Record<string, string>): Phrase {
  const gestures = phrase.gestures.map((one) => {
    const id = one.control.replace(LEVER, "");
    const there = one.control.startsWith(LEVER) ? (levers[id] ?? id) : id;
    return there === id ? one : { ...one, control: LEVER + there };
  });
  return gestures.every((one, place) => one === phrase.gestures[place]) ? phrase : { ...phrase, gestures };
}

export const pointsOf = ({ points }: Gesture): Point[] =>
  points.map(([beat = 0, value = 0]) => ({ beat, value }));

/** The phrase with a gesture's points, in the order of time; a gesture without points is taken out. */
export function withPoints(phrase: Phrase, control: string, points: Point[]): Phrase {
  const known = phrase.gestures.some((one) => one.control === control);
  const gesture = { control, points: points.map(({ beat, value }) => [beat, value]) };
  const gestures = known
    ? phrase.gestures.map((one) => (one.control === control ? gesture : one))
    : [...phrase.gestures, gesture];
  return { ...phrase, gestures: gestures.filter((one) => one.points.length > 0) };
}

/** A gesture's points with one in the place of another, or as a new one; and where it has come to stand. */
export function withPoint(points: Point[], place: number | undefined, point: Point): [Point[], number] {
  const others = points.filter((_, at) => at !== place);
  const sorted = [...others, point].toSorted((a, b) => a.beat - b.beat);
  return [sorted, sorted.indexOf(point)];
}

/** A phrase whose length has been changed: no note and no movement goes on behind its end. */
export function shortened(phrase: Phrase): Phrase {
  return {
    ...phrase,
    notes: phrase.notes.map((note) => fitted(note, phrase.beats)),
    gestures: phrase.gestures.map((gesture) => ({
      ...gesture,
      points: pointsOf(gesture).map(({ beat, value }) => [Math.min(beat, phrase.beats), value]),
    })),
  };
}
