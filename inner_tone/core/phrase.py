"""The phrase: the notes and gestures that exercise a patch, and who sounds together with it."""

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import replace
from math import ceil
from typing import Annotated, Any, Literal

from pydantic import Field

from inner_tone.core.documents import Document, read
from inner_tone.core.errors import DocumentError, Problem
from inner_tone.core.patch.model import Name, Patch
from inner_tone.core.patch.validate import problems_of_patch

LONGEST_SECONDS = 180.0
HIGHEST_PITCH = 127.0
GRID_BEATS = 0.25  # what is placed by hand goes to quarters of a beat

OF_LEVER = "lever:"  # before the id of a lever, in the control of a gesture
LEAST_TEMPO, GREATEST_TEMPO = 20.0, 400.0  # beats per minute
LEAST_BEATS, MOST_BEATS = 0.1, 1024.0  # of a phrase: what is shorter is heard as nothing, and begun anew without end
LEAST_LENGTH = 0.001  # of a note, in beats
MOST_NOTES = 4096
MOST_PARTS = 6  # of the company of a phrase
MOST_POINTS = 20_000  # of a gesture: a wheel that is moved for minutes on end
Beats = Annotated[float, Field(ge=0, le=MOST_BEATS)]
Tempo = Annotated[float, Field(ge=LEAST_TEMPO, le=GREATEST_TEMPO)]


Lever = Annotated[str, Field(pattern=rf"^{OF_LEVER}[a-z][a-z0-9_-]{{0,39}}$")]
Control = Annotated[str, Field(pattern=rf"^(wheel|bend|{OF_LEVER}[a-z][a-z0-9_-]{{0,39}})$")]
Point = tuple[Beats, Annotated[float, Field(ge=-1, le=1)]]


class Note(Document):
    """One note: start and length in beats, pitch as a MIDI note number, velocity 0 to 1."""

    start: Beats
    length: Annotated[float, Field(ge=LEAST_LENGTH, le=MOST_BEATS)]
    pitch: Annotated[float, Field(ge=0, le=HIGHEST_PITCH)]
    velocity: Annotated[float, Field(ge=0, le=1)] = 0.8


NEW_NOTE = Note(start=0, length=1, pitch=57)


def fitted(note: Note, beats: float) -> Note:
    """Return a note that has been moved beyond a phrase of so many beats, put back to where it can be."""
    start = between(note.start, 0.0, max(0.0, beats - GRID_BEATS))
    length = between(note.length, min(GRID_BEATS, note.length), max(GRID_BEATS, beats - start))
    return note.model_copy(update={"start": start, "length": length, "pitch": between(note.pitch, 0.0, HIGHEST_PITCH)})


def between(value: float, low: float, high: float) -> float:
    """Return a value held between two others."""
    return min(high, max(low, value))


class Gesture(Document):
    """The movement of one control, as points of (beat, value), joined by straight lines."""

    control: Control
    points: Annotated[tuple[Point, ...], Field(min_length=1, max_length=MOST_POINTS, fail_fast=True)]


class Score(Document):
    """Notes and gestures with a tempo in beats per minute; times are in beats."""

    format: Literal["inner-tone/phrase"] = "inner-tone/phrase"
    version: Literal[1] = 1
    title: Annotated[str, Field(max_length=200)] = ""
    tempo: Tempo = 96.0
    beats: Annotated[float, Field(ge=LEAST_BEATS, le=MOST_BEATS)] = 8.0
    notes: Annotated[tuple[Note, ...], Field(max_length=MOST_NOTES)] = ()
    gestures: Annotated[tuple[Gesture, ...], Field(max_length=32)] = ()

    @property
    def seconds(self) -> float:
        """The time that the phrase's beats take."""
        return self.beats * 60.0 / self.tempo

    def sample(self, beat: float, rate: float) -> int:
        """Return the sample at which a beat falls."""
        return round(beat * 60.0 / self.tempo * rate)


class Companion(Document):
    """One of those who sound together with a phrase: a patch that plays a phrase of its own, again and again.

    It has the tempo of the phrase whose company it is. Its level is in dB, `pan` from −1 (left) to 1; it may come in
    and go out over so many beats. A `muted` one stays, and is not heard.
    """

    id: Name
    name: Annotated[str, Field(min_length=1, max_length=60)]
    patch: Patch
    phrase: Score
    level: Annotated[float, Field(ge=-60, le=12)] = 0.0
    pan: Annotated[float, Field(ge=-1, le=1)] = 0.0
    fade_in: Beats = 0.0
    fade_out: Beats = 0.0
    muted: bool = False


class Phrase(Score):
    """What a patch is exercised by: notes and gestures, and the `company` that sounds together with them."""

    company: Annotated[tuple[Companion, ...], Field(max_length=MOST_PARTS)] = ()


def levers_named(phrase: Phrase, names: Mapping[str, str]) -> Phrase:
    """Return a phrase that moves levers with other ids; those that are not given stay."""

    def named(one: Gesture) -> Gesture:
        lever = one.control.removeprefix(OF_LEVER)
        known = lever != one.control and lever in names
        return one.model_copy(update={"control": f"{OF_LEVER}{names[lever]}"}) if known else one

    return phrase.model_copy(update={"gestures": tuple(named(one) for one in phrase.gestures)})


def read_phrase(data: Any) -> Phrase:
    """Return JSON data as a phrase; raises DocumentError."""
    return checked_phrase(read(Phrase, data))


def checked_phrase(phrase: Phrase) -> Phrase:
    """Return a phrase whose structure is right if its times and its company are too; raises DocumentError."""
    problems = [*problems_of(phrase), *company_problems(phrase)]
    if problems:
        raise DocumentError(problems)
    return phrase


def problems_of(score: Score) -> list[Problem]:
    """Find out what is wrong with notes and gestures."""
    return [
        *too_long(score),
        *notes_out_of_phrase(score),
        *gestures_out_of_order(score),
        *gestures_out_of_phrase(score),
    ]


def too_long(phrase: Score) -> list[Problem]:
    """Find out whether the phrase would take longer than can be rendered."""
    if phrase.seconds <= LONGEST_SECONDS:
        return []
    message = f"The phrase lasts {phrase.seconds:.0f} seconds; at most {LONGEST_SECONDS:.0f} can be rendered."
    return [Problem("beats", message, "Take fewer beats or a faster tempo.")]


def notes_out_of_phrase(phrase: Score) -> list[Problem]:
    """Find notes that begin after the phrase has ended."""
    return [
        Problem(
            f"notes[{number}].start",
            f"The note begins at beat {note.start:g}, but the phrase has only {phrase.beats:g}.",
            "Move the note forward or lengthen the phrase.",
        )
        for number, note in enumerate(phrase.notes)
        if note.start >= phrase.beats
    ]


def gestures_out_of_order(phrase: Score) -> list[Problem]:
    """Find gestures whose points do not go forward in time."""
    return [
        Problem(f"gestures[{number}].points", "The points do not go forward in time.", "Sort them by beat.")
        for number, gesture in enumerate(phrase.gestures)
        if any(a[0] > b[0] for a, b in zip(gesture.points, gesture.points[1:], strict=False))
    ]


def gestures_out_of_phrase(phrase: Score) -> list[Problem]:
    """Find points of gestures that lie behind the end of the phrase."""
    return [
        Problem(
            f"gestures[{number}].points[{place}]",
            f"The point lies at beat {beat:g}, but the phrase has only {phrase.beats:g}.",
            "Move the point forward or lengthen the phrase.",
        )
        for number, gesture in enumerate(phrase.gestures)
        for place, (beat, _) in enumerate(gesture.points)
        if beat > phrase.beats
    ]


def too_much_in_rounds(part: Score, beats: float) -> Iterator[Problem]:
    """Find out whether a phrase that is played again and again for so many beats has more in it than one may have."""
    rounds = ceil(beats / part.beats)
    remedy = "Lengthen the part’s phrase, or take something out of it."
    if rounds * len(part.notes) > MOST_NOTES:
        yield Problem("notes", f"Played {rounds} times, it has more than {MOST_NOTES:,} notes.", remedy)
    for number, gesture in enumerate(part.gestures):
        if rounds * len(gesture.points) > MOST_POINTS:
            message = f"Played {rounds} times, it has more than {MOST_POINTS:,} points."
            yield Problem(f"gestures[{number}].points", message, remedy)


def company_problems(phrase: Phrase) -> list[Problem]:
    """Find what is wrong with those who sound together with a phrase."""
    found: list[Problem] = []
    ids = Counter(part.id for part in phrase.company)
    for number, part in enumerate(phrase.company):
        here = f"company[{number}]"
        if ids[part.id] > 1:
            found.append(Problem(f"{here}.id", f"“{part.id}” is called so too.", "Give one of them another id."))
        own = [*problems_of(part.phrase), *too_much_in_rounds(part.phrase, phrase.beats)]
        problems = [replace(one, path=f"phrase.{one.path}") for one in own]
        problems += [replace(one, path=f"patch.{one.path}") for one in problems_of_patch(part.patch)]
        found += [replace(one, path=f"{here}.{one.path}") for one in problems]
    return found
