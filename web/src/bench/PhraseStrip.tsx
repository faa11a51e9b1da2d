import { type KeyboardEvent, type PointerEvent, type ReactNode, useEffect, useRef, useState } from "react";

import type { MarkPlace, Moment, Phrase } from "../api/client";
import { phraseSeconds, strikeAt } from "../phrase/phrases";
import { lighting } from "../marks/lit";
import { freeNumber, markAt, numbered, withMark } from "../marks/marks";
import { MarkNumber } from "../marks/MarkNumber";
import { useBench } from "./BenchContext";
import type { Player } from "./player";

interface Props {
  seconds: number | undefined;
  player: Player;
  playing: boolean;
}

/** The least part of the strip, in s, that the pointer has to be drawn over for a stretch rather than a note. */
const LEAST_STRETCH = 0.05;

/** The notes of the phrase over the time of the render, the moment that all lenses look at, and the place that plays. */
export function PhraseStrip({ seconds, player, playing }: Props) {
  const { phrase } = useBench();
  const total = Math.max(seconds ?? 0, phraseSeconds(phrase));
  return (
    <div className="flex min-w-24 flex-1 flex-col gap-0.5 @container narrow:basis-full" data-score>
      <MomentWords />
      <Strip phrase={phrase} total={total}>
        <Moments total={total} />
        {playing && <Playhead player={player} total={total} />}
      </Strip>
    </div>
  );
}

/** Looks at another moment: keeps it in the step where that is being written. */
function useLook(): (moment: Moment | null) => void {
  const { lenses, onMoment } = useBench();
  return (moment) => {
    lenses.lookAt(onMoment ? undefined : moment);
    onMoment?.(moment);
  };
}

/** What the lenses look at, in words, and the two that need no pointing. */
function MomentWords() {
  const { now, seen } = useBench();
  const look = useLook();
  const shown = now.data?.moment;
  return (
    <div className="flex h-4 items-baseline gap-1 overflow-hidden text-note coarse:h-7 leading-none whitespace-nowrap text-soft">
      <span className="min-w-0 truncate" data-moment title={shown?.why}>
        {shown && (
          <>
            <span className="hidden @min-[21rem]:inline">Looking at </span>
            {shown.words}
          </>
        )}
      </span>
      <span className="ml-auto flex gap-0.5">
        <Word pressed={seen.moment === null} word="says most" title={shown?.why} run={() => look(null)} />
        <MarkMoment />
        <Word
          pressed={seen.moment?.kind === "whole"}
          word="whole"
          title="Look at the whole phrase"
          run={() => look({ kind: "whole" })}
        />
      </span>
    </div>
  );
}

/** Sets a mark at the moment that the lenses look at. */
function MarkMoment() {
  const { now, phrase, marks = [], onMarks } = useBench();
  const shown = now.data?.moment;
  const number = freeNumber(marks);
  if (!onMarks || !shown || number === undefined) return null;
  const at = {
    kind: "moment" as const,
    beat: Math.round(((shown.begin_s * phrase.tempo) / 60) * 1000) / 1000,
  };
  if (at.beat > phrase.beats || markAt(marks, at)) return null;
  return (
    <button
      type="button"
      aria-label="Mark this moment"
      title="Set a number on this moment that the text can refer to"
      className="grid size-4 place-items-center rounded-[2px] coarse:size-6 border border-firm leading-none hover:border-ink hover:text-ink"
      onClick={() => onMarks(withMark(marks, at, { number }))}
    >
      +
    </button>
  );
}

function Word(props: { pressed: boolean; word: string; title: string | undefined; run: () => void }) {
  return (
    <button
      type="button"
      aria-pressed={props.pressed}
      title={props.title}
      className="rounded px-1 leading-4 coarse:leading-7 hover:text-this aria-pressed:bg-this-wash aria-pressed:font-semibold aria-pressed:text-this"
      onClick={props.run}
    >
      {props.word}
    </button>
  );
}

interface StripProps {
  phrase: Phrase;
  total: number;
  children: ReactNode;
}

/** The strip itself: a note is pointed at, a stretch drawn over; the arrow keys go from note to note. */
function Strip({ phrase, total, children }: StripProps) {
  const { now } = useBench();
  const { drawn, ...handlers } = usePointing(phrase, total);
  const shown = now.data?.moment;
  const mark = drawn ?? (shown && { begin: shown.begin_s, end: shown.end_s });
  const percent = (time: number) => `${(100 * time) / total}%`;
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label="What the lenses look at"
      aria-valuemin={0}
      aria-valuemax={shown?.notes ?? 0}
      aria-valuenow={shown?.note ?? 0}
      aria-valuetext={shown ? `${shown.words}. ${shown.why}` : "nothing yet"}
      title="Point at a note, draw over a stretch, or go from note to note with the arrow keys"
      className="relative h-9 cursor-pointer touch-none overflow-hidden border border-rule bg-paper"
      {...handlers}
    >
      <Notes phrase={phrase} total={total} />
      {mark && (
        <div
          data-mark
          className="pointer-events-none absolute inset-y-0 border-x-2 border-b-2 border-this bg-this/10"
          style={{ left: percent(mark.begin), width: percent(Math.max(0, mark.end - mark.begin)) }}
        />
      )}
      {children}
    </div>
  );
}

interface Stretch {
  begin: number;
  end: number;
}

function usePointing(phrase: Phrase, total: number) {
  const { now } = useBench();
  const look = useLook();
  const [drawn, setDrawn] = useState<Stretch>();
  const from = useRef<number>(undefined);
  const timeAt = (event: PointerEvent<HTMLElement>) => {
    const { left, width } = event.currentTarget.getBoundingClientRect();
    return Math.min(total, Math.max(0, ((event.clientX - left) / width) * total));
  };
  const stretchTo = (time: number): Stretch | undefined => {
    const start = from.current;
    if (start === undefined || Math.abs(time - start) < LEAST_STRETCH) return undefined;
    return { begin: Math.min(start, time), end: Math.max(start, time) };
  };
  return {
    drawn,
    onPointerDown: (event: PointerEvent<HTMLElement>) => {
      event.currentTarget.setPointerCapture(event.pointerId);
      from.current = timeAt(event);
    },
    onPointerMove: (event: PointerEvent<HTMLElement>) => setDrawn(stretchTo(timeAt(event))),
    onPointerUp: (event: PointerEvent<HTMLElement>) => {
      const time = timeAt(event);
      const stretch = stretchTo(time);
      const note = strikeAt(phrase, time);
      if (stretch) look({ kind: "stretch", begin_s: stretch.begin, end_s: stretch.end });
      else if (note > 0) look({ kind: "note", note });
      from.current = undefined;
      setDrawn(undefined);
    },
    onKeyDown: (event: KeyboardEvent<HTMLElement>) => {
      const wish = wished(event.key, now.data?.moment);
      if (wish === undefined || event.ctrlKey || event.metaKey || event.altKey) return;
      look(wish);
      event.preventDefault();
      event.stopPropagation();
    },
  };
}

/** The moment that a key leads to: the next note, the one before, the first, the last, or what says most. */
function wished(key: string, shown: { note: number; notes: number } | undefined): Moment | null | undefined {
  if (!shown) return undefined;
  if (key === "Escape") return null;
  if (key === "PageUp" || key === "PageDown") return { kind: "whole" };
  if (shown.notes === 0) return undefined;
  const places: Record<string, number> = {
    ArrowRight: shown.note + 1,
    ArrowUp: shown.note + 1,
    ArrowLeft: shown.note - 1,
    ArrowDown: shown.note - 1,
    Home: 1,
    End: shown.notes,
  };
  const note = places[key];
  return note === undefined ? undefined : { kind: "note", note: Math.min(shown.notes, Math.max(1, note)) };
}

function Notes({ phrase, total }: { phrase: Phrase; total: number }) {
  const { notes } = phrase;
  const pitches = notes.map((note) => note.pitch);
  const low = Math.min(...pitches) - 2;
  const range = Math.max(...pitches) + 2 - low;
  const beat = 60 / phrase.tempo;
  const percent = (time: number) => `${(100 * time) / total}%`;
  return (
    <>
      {Array.from({ length: Math.ceil(phrase.beats) + 1 }, (_, n) => (
        <div
          key={n}
          className={`absolute inset-y-0 border-l ${n % 4 === 0 ? "border-firm" : "border-rule"}`}
          style={{ left: percent(n * beat) }}
        />
      ))}
      {notes.map((note) => (
        <div
          key={`${note.start}-${note.pitch}`}
          className="absolute h-1.5 rounded-xs bg-ink"
          style={{
            left: percent(note.start * beat),
            width: percent(note.length * beat),
            bottom: `${((note.pitch - low) / range) * 74 + 8}%`,
          }}
        />
      ))}
    </>
  );
}

/** Whether the notes around a moment lie in the upper half of the strip. */
function isHigh({ notes }: Phrase, at: MarkPlace): boolean {
  const beat = at.kind === "moment" ? at.beat : 0;
  const pitches = notes.map((one) => one.pitch);
  const middle = (Math.min(...pitches) + Math.max(...pitches)) / 2;
  return notes.some(
    ({ start, length, pitch }) => start <= beat + 0.25 && start + length > beat && pitch >= middle,
  );
}

/** The marks of moments. */
function Moments({ total }: { total: number }) {
  const { phrase, marks = [] } = useBench();
  return numbered(marks).map(({ at, number }) => {
    const seconds = at.kind === "moment" ? (at.beat * 60) / phrase.tempo : Infinity;
    if (seconds > total) return null;
    return (
      <span
        key={number}
        className={`absolute text-note ${isHigh(phrase, at) ? "bottom-0" : "top-0"}`}
        style={{ left: `min(${(100 * seconds) / total}%, 100% - 1.4em)` }}
        {...lighting(number)}
      >
        <MarkNumber number={number} />
      </span>
    );
  });
}

function Playhead({ player, total }: { player: Player; total: number }) {
  const [position, setPosition] = useState(0);
  useEffect(() => {
    let frame = 0;
    const tick = () => {
      setPosition(player.position());
      frame = requestAnimationFrame(tick);
    };
    frame = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(frame);
  }, [player]);
  return (
    <div
      data-position={position.toFixed(3)}
      className="absolute inset-y-0 border-l-2 border-this"
      style={{ left: `${(100 * Math.min(position, total)) / total}%` }}
    />
  );
}
