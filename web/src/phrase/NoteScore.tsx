import { type KeyboardEvent, useRef, useState } from "react";

import type { Phrase } from "../api/client";
import { isSharp, noteText, trimmed } from "../ui/units";
import { BeatLines } from "./BeatLines";
import { focusPiece } from "./focusPiece";
import {
  fitted,
  GRID,
  nextOnGrid,
  type Note,
  noteBehind,
  onGrid,
  type Room,
  roomOf,
  withNote,
  withoutNote,
} from "./phrases";
import { PieceField, type Share } from "./PieceField";

interface Props {
  phrase: Phrase;
  chosen: number | undefined;
  onChoose: (place: number | undefined) => void;
  /** Changes of one kind in quick succession can be taken back as one. Without it nothing can be changed. */
  onChange: ((phrase: Phrase, kind?: string) => void) | undefined;
}

/** What the pointer holds: a note of the phrase as it was, moved as a whole or at its end. */
interface Held {
  phrase: Phrase;
  place: number;
  note: Note;
  end: boolean;
  /** Where it was taken hold of, from its start and from its pitch. */
  at: { beat: number; pitch: number };
  kind: string;
}

const OCTAVE = 12;

/** The notes over the beats: placed, moved and made longer with the pointer or the arrow keys. */
export function NoteScore(props: Props) {
  const { phrase, chosen, onChoose, onChange } = props;
  const field = useRef<HTMLDivElement>(null);
  const { room, put, take, drag, release } = usePieces(props);
  const press = (event: KeyboardEvent, place: number, note: Note) => {
    if (!onChange || event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === "Delete" || event.key === "Backspace") {
      onChange(withoutNote(phrase, place));
      const left = phrase.notes.length - 1;
      onChoose(left > 0 ? Math.min(place, left - 1) : undefined);
      if (left > 0) focusPiece(field.current, Math.min(place, left - 1));
    } else if (event.key === "Enter") {
      focusPiece(field.current, put(phrase, undefined, noteBehind(phrase, place)));
    } else {
      const moved = movedBy(event, note);
      if (!moved) return;
      focusPiece(field.current, put(phrase, place, fitted(moved, phrase.beats), "keys"));
    }
    event.preventDefault();
  };
  return (
    <div className="grid min-h-28 flex-1 grid-cols-[60px_minmax(0,1fr)]">
      <PitchNames phrase={phrase} room={room} />
      <PieceField
        field={field}
        name="notes"
        label="Notes"
        className=""
        changeable={onChange !== undefined}
        onTake={take}
        onDrag={drag}
        onLetGo={() => {
          release();
          focusPiece(field.current, chosen);
        }}
      >
        <BeatLines beats={phrase.beats} numbered />
        <PitchLines phrase={phrase} room={room} />
        {phrase.notes.map((note, place) => (
          <OneNote
            key={place}
            {...{ note, place, room, beats: phrase.beats, chosen: place === chosen }}
            changeable={onChange !== undefined}
            onFocus={() => onChoose(place)}
            onKeyDown={(event) => press(event, place, note)}
          />
        ))}
        {phrase.notes.length === 0 && (
          <p className="pointer-events-none absolute inset-0 m-auto h-fit w-fit font-read text-soft italic">
            {onChange ? "No notes yet: point where one is to begin." : "No notes."}
          </p>
        )}
      </PieceField>
    </div>
  );
}

const rowsOf = (room: Room) => room.high - room.low + 1;
/** Where the middle of a pitch's row is, in percent from above. */
const middleOf = (pitch: number, room: Room) => `${(100 * (room.high - pitch + 0.5)) / rowsOf(room)}%`;

/** Placing notes, and taking hold of them with the pointer. */
function usePieces({ phrase, chosen, onChoose, onChange }: Props) {
  const [stillRoom, setStillRoom] = useState<Room>();
  // while a note is dragged the lines stay, so that it stays under the pointer
  const room = stillRoom ?? roomOf(phrase);
  const rows = rowsOf(room);
  const pointed = ({ across, down }: Share) => ({
    beat: across * phrase.beats,
    pitch: room.high - Math.min(rows - 1, Math.floor(down * rows)),
  });
  const put = (base: Phrase, place: number | undefined, note: Note, kind?: string): number => {
    const [changed, now] = withNote(base, place, note);
    onChange?.(changed, kind);
    onChoose(now);
    return now;
  };
  const take = (share: Share, piece: number | undefined, target: HTMLElement, kind: string): Held => {
    const { beat, pitch } = pointed(share);
    const known = piece === undefined ? undefined : phrase.notes[piece];
    setStillRoom(room);
    if (piece !== undefined && known) {
      onChoose(piece);
      const at = { beat: beat - known.start, pitch: pitch - known.pitch };
      return { phrase, place: piece, note: known, end: target.dataset.end !== undefined, at, kind };
    }
    const start = Math.min(Math.floor(beat / GRID) * GRID, Math.max(0, phrase.beats - GRID));
    const note = fitted({ ...noteBehind(phrase, chosen), start, pitch }, phrase.beats);
    const [base, place] = withNote(phrase, undefined, note);
    put(phrase, undefined, note, kind);
    return { phrase: base, place, note, end: true, at: { beat: 0, pitch: 0 }, kind };
  };
  const drag = ({ note, at, ...hold }: Held, share: Share) => {
    const { beat, pitch } = pointed(share);
    const there = hold.end
      ? { ...note, length: Math.max(GRID, onGrid(beat) - note.start) }
      : { ...note, start: onGrid(beat - at.beat), pitch: pitch - at.pitch };
    put(hold.phrase, hold.place, fitted(there, phrase.beats), hold.kind);
  };
  return { room, put, take, drag, release: () => setStillRoom(undefined) };
}

function PitchNames({ phrase, room }: { phrase: Phrase; room: Room }) {
  return (
    <div className="relative text-note text-soft" aria-hidden="true">
      {named(phrase, room).map((pitch) => (
        <span
          key={pitch}
          className="absolute right-4.5 -translate-y-1/2"
          style={{ top: middleOf(pitch, room) }}
        >
          {noteText(pitch)}
        </span>
      ))}
      <Keys room={room} />
    </div>
  );
}

/** The edge of a keyboard, a key for each row: what stands high on it is high. */
function Keys({ room }: { room: Room }) {
  const pitches = Array.from({ length: rowsOf(room) }, (_, n) => room.high - n);
  return (
    <div className="absolute inset-y-0 right-0.5 flex w-3 flex-col border border-rule">
      {pitches.map((pitch) => (
        <span key={pitch} className={`min-h-0 flex-1 ${isSharp(pitch) ? "bg-soft" : ""}`} />
      ))}
    </div>
  );
}

function PitchLines({ phrase, room }: { phrase: Phrase; room: Room }) {
  return named(phrase, room).map((pitch) => (
    <div
      key={pitch}
      className="pointer-events-none absolute inset-x-0 border-t border-dotted border-rule"
      style={{ top: middleOf(pitch, room) }}
    />
  ));
}

interface OneNoteProps {
  note: Note;
  place: number;
  room: Room;
  beats: number;
  chosen: boolean;
  changeable: boolean;
  onFocus: () => void;
  onKeyDown: (event: KeyboardEvent) => void;
}

function OneNote({ note, place, room, beats, chosen, changeable, onFocus, onKeyDown }: OneNoteProps) {
  return (
    <div
      data-piece={place}
      role="slider"
      tabIndex={0}
      aria-label={`Note ${place + 1}`}
      aria-orientation="vertical"
      aria-valuemin={0}
      aria-valuemax={127}
      aria-valuenow={note.pitch}
      aria-valuetext={noteWords(note)}
      aria-readonly={!changeable}
      title={noteWords(note)}
      className={`absolute min-w-1.5 rounded-xs ${chosen ? "bg-this" : "bg-ink"} ${changeable ? "cursor-move" : ""}`}
      style={{
        left: `${(100 * note.start) / beats}%`,
        width: `${(100 * Math.min(note.length, beats - note.start)) / beats}%`,
        top: `calc(${(100 * (room.high - note.pitch)) / rowsOf(room)}% + 1px)`,
        height: `calc(${100 / rowsOf(room)}% - 2px)`,
        opacity: 0.45 + 0.55 * note.velocity,
      }}
      onFocus={onFocus}
      onKeyDown={onKeyDown}
    >
      {changeable && <div data-end className="absolute inset-y-0 right-0 w-2 cursor-ew-resize" />}
    </div>
  );
}

/** A note as a sentence says it; beats are counted from 1. */
const noteWords = (note: Note) =>
  `${noteText(note.pitch)} at beat ${trimmed(note.start + 1, 4)}, ${trimmed(note.length, 4)} ${
    note.length === 1 ? "beat" : "beats"
  } long`;

/** The pitches that stand beside the score: those that are played, and every C that has room between them. */
function named(phrase: Phrase, room: Room): number[] {
  const apart = Math.ceil((room.high - room.low + 1) / 12);
  const played = [...new Set(phrase.notes.map((note) => Math.round(note.pitch)))];
  const octaves = [];
  for (let pitch = Math.ceil(room.low / OCTAVE) * OCTAVE; pitch <= room.high; pitch += OCTAVE)
    octaves.push(pitch);
  const kept: number[] = [];
  for (const pitch of [...played, ...octaves])
    if (kept.every((other) => Math.abs(other - pitch) >= apart)) kept.push(pitch);
  return kept;
}

/** Up and down by semitones or octaves, left and right over the beats; with Shift the end alone. */
function movedBy({ key, shiftKey }: KeyboardEvent, note: Note): Note | undefined {
  const higher = { ArrowUp: 1, ArrowDown: -1, PageUp: OCTAVE, PageDown: -OCTAVE }[key];
  if (higher !== undefined) return { ...note, pitch: note.pitch + higher };
  const way = { ArrowRight: 1, ArrowLeft: -1 }[key];
  if (way === undefined) return undefined;
  if (!shiftKey) return { ...note, start: nextOnGrid(note.start, way) };
  const end = nextOnGrid(note.start + note.length, way);
  return end - note.start < GRID ? undefined : { ...note, length: end - note.start };
}
