"""Phrases as standard MIDI files, and back (Standard MIDI Files 1.0, MIDI Manufacturers Association, 1996)."""

import io
import itertools
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import mido

from inner_tone.core.errors import InnerToneError
from inner_tone.core.phrase import (
    GREATEST_TEMPO,
    LEAST_LENGTH,
    LEAST_TEMPO,
    LONGEST_SECONDS,
    MOST_NOTES,
    Gesture,
    Note,
    Phrase,
    checked_phrase,
)

MOST_BYTES = 1 << 20
MOST_EVENTS = 200_000
MOST_GESTURES, MOST_POINTS = 32, 2000
TICKS = 960  # of a beat, as files are written
USUAL_TEMPO = 120.0
WHEEL, FIRST_LEVER = 1, 20  # controllers; those from 20 on are free for everybody
LEVER = re.compile(r"controller (\d+) moves (lever:[a-z][a-z0-9_-]*)")
RANK = {"note_off": 0, "control_change": 1, "pitchwheel": 1, "note_on": 2}
STEPS_PER_BEAT = 16  # of a movement, since a file knows only values
BEND_MIDDLE, BEND_MOST = 8192, 8191
# Python's own mistakes in files that are cut off or no MIDI; mido raises them as they come
UNREADABLE = (EOFError, OSError, ValueError, IndexError, KeyError, TypeError, OverflowError, MemoryError)


@dataclass(frozen=True)
class Track:
    """A track of a file: its number from 0, its name, and how many notes it has."""

    number: int
    name: str
    notes: int


@dataclass(frozen=True)
class Found:
    """What a file has: its tracks with notes, which of them was taken, the phrase, and what is to be said of it."""

    tracks: tuple[Track, ...]
    track: int | None
    phrase: Phrase | None
    said: tuple[str, ...] = ()


@dataclass
class Heard:
    """What is heard on a track, with times in ticks."""

    notes: list[tuple[int, int, int, int]] = field(default_factory=list)  # from, to, pitch, velocity
    moves: dict[str, list[tuple[int, float]]] = field(default_factory=dict)
    end: int = 0


def midi_bytes(phrase: Phrase) -> bytes:
    """Return a phrase as a MIDI file of one track; levers go to controllers from 20 on."""
    track = mido.MidiTrack()
    track.append(mido.MetaMessage("track_name", name=printable(phrase.title or "Phrase")))
    track.append(mido.MetaMessage("set_tempo", tempo=mido.bpm2tempo(phrase.tempo)))
    track.append(mido.MetaMessage("time_signature", numerator=4, denominator=4))
    levers = [one.control for one in phrase.gestures if one.control.startswith("lever:")]
    controllers = {control: FIRST_LEVER + n for n, control in enumerate(levers)}
    track.extend(mido.MetaMessage("text", text=f"controller {n} moves {one}") for one, n in controllers.items())
    timed = [*notes_of(phrase), *(one for gesture in phrase.gestures for one in moves_of(gesture, controllers))]
    last = 0
    for tick, message in sorted(timed, key=lambda one: (one[0], RANK[one[1].type])):
        track.append(message.copy(time=tick - last))
        last = tick
    track.append(mido.MetaMessage("end_of_track", time=max(0, round(phrase.beats * TICKS) - last)))
    file = mido.MidiFile(type=0, ticks_per_beat=TICKS)
    file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def printable(text: str) -> str:
    """Return a text as files of this kind have it: Latin letters."""
    return text.encode("latin-1", "replace").decode("latin-1")


def notes_of(phrase: Phrase) -> Iterator[tuple[int, mido.Message]]:
    """Yield the beginning and the end of each note, by tick; a note between two keys goes to the nearer one."""
    for note in phrase.notes:
        pitch = max(0, min(127, round(note.pitch)))
        begin = round(note.start * TICKS)
        end = max(begin + 1, round(min(note.start + note.length, phrase.beats) * TICKS))
        yield begin, mido.Message("note_on", note=pitch, velocity=max(1, round(127 * note.velocity)))
        yield end, mido.Message("note_off", note=pitch, velocity=0)


def moves_of(gesture: Gesture, controllers: Mapping[str, int]) -> Iterator[tuple[int, mido.Message]]:
    """Yield a movement as values, by tick, each where it changes."""
    last: mido.Message | None = None
    for beat, value in stepped(gesture.points):
        if gesture.control == "bend":
            message = mido.Message("pitchwheel", pitch=round(value * (BEND_MOST if value > 0 else BEND_MIDDLE)))
        else:
            controller = controllers.get(gesture.control, WHEEL)
            message = mido.Message("control_change", control=controller, value=max(0, min(127, round(127 * value))))
        if last is None or message != last:
            yield round(beat * TICKS), message
            last = message


def stepped(points: Sequence[tuple[float, float]]) -> Iterator[tuple[float, float]]:
    """Yield a line of straight pieces in small steps."""
    yield points[0]
    for (begin, value), (end, goal) in itertools.pairwise(points):
        steps = max(1, round((end - begin) * STEPS_PER_BEAT))
        for n in range(1, steps + 1):
            yield begin + (end - begin) * n / steps, value + (goal - value) * n / steps


def read_midi(data: bytes, track: int | None = None, levers: Sequence[str] = ()) -> Found:
    """Return what is in a MIDI file.

    Parameters
    ----------
    data
        The file.
    track
        The track that is wished; without one it is taken if there is only one with notes.
    levers
        The controls that other controllers than the wheel move, in their order, unless the file itself says so.

    Raises
    ------
    InnerToneError
        If it is no MIDI file, is cut off, or has nothing that can be played.
    """
    file = opened(data)
    named = named_levers(file, levers)
    heard = [heard_on(one, named) for one in file.tracks]
    tracks = tuple(
        Track(n, str(one.name).strip() or f"Track {n + 1}", len(heard[n].notes))
        for n, one in enumerate(file.tracks)
        if heard[n].notes
    )
    if not tracks:
        raise InnerToneError("There are no notes in this MIDI file.")
    if track is None and len(tracks) > 1:
        return Found(tracks, None, None, (f"The file has {len(tracks)} tracks with notes. Choose one.",))
    chosen = tracks[0].number if track is None else track
    if chosen not in [one.number for one in tracks]:
        raise InnerToneError(f"The file has no notes on track {chosen + 1}.")
    tempo, said = tempo_of(file)
    title = next(one.name for one in tracks if one.number == chosen)
    phrase, more = phrase_of(heard[chosen], file.ticks_per_beat, tempo, title)
    return Found(tracks, chosen, phrase, (*said, *more))


def opened(data: bytes) -> mido.MidiFile:
    """Return a file as mido reads it; raises InnerToneError with what is wrong with it."""
    if len(data) > MOST_BYTES:
        raise InnerToneError(
            f"The file has {len(data):,} bytes; at most {MOST_BYTES:,} can be read. Take a part of it."
        )
    if data[:4] != b"MThd":
        raise InnerToneError("This is no MIDI file: it does not begin as one does.")
    if is_cut_off(data):
        raise InnerToneError("The MIDI file ends before it says that it does. Save it once more.")
    if int.from_bytes(data[12:14], "big") & 0x8000 or not int.from_bytes(data[12:14], "big"):
        raise InnerToneError("The MIDI file counts time by film frames, not by beats. Save it with beats.")
    try:
        file = mido.MidiFile(file=io.BytesIO(data), clip=True)
    except UNREADABLE as error:
        raise InnerToneError("This MIDI file cannot be read: something in it is not as such files are.") from error
    events = sum(len(one) for one in file.tracks)
    if events > MOST_EVENTS:
        raise InnerToneError(f"The file has {events:,} events; at most {MOST_EVENTS:,} can be read. Take a part of it.")
    if file.type == 2:
        raise InnerToneError("The file holds several pieces that are not played together (type 2). Save one of them.")
    return file


def is_cut_off(data: bytes) -> bool:
    """Tell whether a chunk says that it is longer than what is there, or the file that it has more tracks."""
    place = chunks = 0
    while place + 8 <= len(data):
        place += 8 + int.from_bytes(data[place + 4 : place + 8], "big")
        chunks += 1
    return place > len(data) or len(data) < 14 or chunks <= int.from_bytes(data[10:12], "big")


def named_levers(file: mido.MidiFile, levers: Sequence[str]) -> dict[int, str]:
    """Return which control each controller moves, as a file of ours says, or else in the order of their numbers."""
    texts = [one.text for track in file.tracks for one in track if one.type == "text"]
    told = {int(found[1]): found[2] for text in texts if (found := LEVER.fullmatch(text))}
    if told:
        return told
    used = sorted({one.control for track in file.tracks for one in track if one.type == "control_change"} - RESERVED)
    return dict(zip(used, levers, strict=False))


# the wheel; bank, data entry, volume, balance, pan, expression; pedals; numbers of parameters; modes
RESERVED = {0, WHEEL, 6, 7, 8, 10, 11, 32, 38, *range(64, 70), *range(96, 102), *range(120, 128)}


def heard_on(track: mido.MidiTrack, levers: Mapping[int, str]) -> Heard:
    """Return what is heard on a track; a note that is never let go lasts to its end."""
    found, now = Heard(), 0
    down: dict[tuple[int, int], tuple[int, int]] = {}
    for message in track:
        now += int(message.time)
        if message.type == "note_on" and message.velocity > 0:
            close(found, down, (message.channel, message.note), now)
            down[message.channel, message.note] = now, message.velocity
        elif message.type in ("note_on", "note_off"):
            close(found, down, (message.channel, message.note), now)
        elif message.type == "pitchwheel":
            bend = message.pitch / (BEND_MOST if message.pitch > 0 else BEND_MIDDLE)
            found.moves.setdefault("bend", []).append((now, bend))
        elif message.type == "control_change":
            control = "wheel" if message.control == WHEEL else levers.get(message.control)
            if control is not None:
                found.moves.setdefault(control, []).append((now, message.value / 127))
    for key in list(down):
        close(found, down, key, now)
    found.end = now
    return found


def close(found: Heard, down: dict[tuple[int, int], tuple[int, int]], key: tuple[int, int], now: int) -> None:
    """End a note, if it is down."""
    if key in down:
        begin, velocity = down.pop(key)
        found.notes.append((begin, max(begin + 1, now), key[1], velocity))


def tempo_of(file: mido.MidiFile) -> tuple[float, list[str]]:
    """Return the tempo at the beginning of a file, and what is to be said of it."""
    tempos = [one.tempo for track in file.tracks for one in track if one.type == "set_tempo"]
    if not tempos:
        return USUAL_TEMPO, []
    if tempos[0] == 0:
        return USUAL_TEMPO, [f"The file has a tempo of nothing; {USUAL_TEMPO:g} beats a minute are taken."]
    tempo = 60e6 / tempos[0]
    kept = min(GREATEST_TEMPO, max(LEAST_TEMPO, tempo))
    said = [f"Its tempo of {tempo:.3g} beats a minute is taken as {kept:g}."] if abs(kept - tempo) > 1e-6 else []
    if len(set(tempos)) > 1:
        said.append(f"Its tempo changes; the first, {kept:.4g} beats a minute, is taken.")
    return round(kept, 3), said


def phrase_of(heard: Heard, ticks: int, tempo: float, title: str) -> tuple[Phrase, list[str]]:
    """Return what was heard as a phrase, and what of it could not be taken."""
    said: list[str] = []
    longest = LONGEST_SECONDS * tempo / 60.0
    beats = max(1.0, -(-heard.end // ticks))
    if beats > longest:
        said.append(f"It lasts {beats:g} beats; the first {int(longest)}, {LONGEST_SECONDS:.0f} seconds, are taken.")
        beats = float(int(longest))
    notes = sorted(one for one in heard.notes if one[0] / ticks < beats)
    if len(notes) > MOST_NOTES:
        said.append(f"Of its {len(notes):,} notes the first {MOST_NOTES:,} are taken.")
    kept = tuple(
        Note(
            start=begin / ticks,
            length=max(LEAST_LENGTH, (min(end, beats * ticks) - begin) / ticks),
            pitch=pitch,
            velocity=round(velocity / 127, 4),
        )
        for begin, end, pitch, velocity in notes[:MOST_NOTES]
    )
    gestures = tuple(
        Gesture(control=control, points=corners(moves, ticks, beats))
        for control, moves in list(heard.moves.items())[:MOST_GESTURES]
        if any(tick / ticks <= beats for tick, _ in moves)
    )
    phrase = Phrase(title=title[:200], tempo=tempo, beats=beats, notes=kept, gestures=gestures)
    return checked_phrase(phrase), said


def corners(moves: Sequence[tuple[int, float]], ticks: int, beats: float) -> tuple[tuple[float, float], ...]:
    """Return values that stand until the next one as the corners of a line that joins those that follow closely."""
    found: list[tuple[float, float]] = []
    for tick, value in moves:
        beat = tick / ticks
        if beat > beats or len(found) >= MOST_POINTS:
            break
        if found and beat - found[-1][0] > 2.0 / STEPS_PER_BEAT:
            found.append((beat, found[-1][1]))
        found.append((beat, round(value, 4)))
    return tuple(found)
