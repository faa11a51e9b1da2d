"""What happens in time: notes that begin and end, wheels that move; and a phrase as such events."""

from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import TypeVar

from inner_tone.core.modules.declaration import Value
from inner_tone.core.phrase import Gesture, Note, Phrase


@dataclass(frozen=True)
class NoteOn:
    """A key goes down: pitch in semitones from middle C, velocity 0 to 1."""

    pitch: float
    velocity: float


@dataclass(frozen=True)
class NoteOff:
    """The key of that pitch goes up, and at the same moment those of others: none of them is fallen back to."""

    pitch: float
    also: tuple[float, ...] = ()


@dataclass(frozen=True)
class Move:
    """A control stands at `value` now and changes by `slope` with every sample."""

    control: str
    value: float
    slope: float = 0.0


@dataclass(frozen=True)
class Change:
    """Somebody sets a module's setting; a number goes to its new value in a hundredth of a second."""

    module: str
    setting: str
    value: Value


Event = NoteOn | NoteOff | Move | Change
Timed = tuple[int, Event]
When = TypeVar("When", int, float)

ORDER = {NoteOff: 0, Move: 1, Change: 1, NoteOn: 2}


def events_of(phrase: Phrase, rate: float) -> list[Timed]:
    """Return the phrase's events by sample; at one sample, keys go up first, then wheels move, then keys go down."""
    end = phrase.sample(phrase.beats, rate)
    events = [event for note in phrase.notes for event in note_events(note, phrase, rate, end)]
    events += [event for gesture in phrase.gestures for event in gesture_events(gesture, phrase, rate)]
    return sorted(lifted_together(events), key=lambda timed: (timed[0], ORDER[type(timed[1])]))


def lifted_together(events: Iterable[tuple[When, Event]]) -> list[tuple[When, Event]]:
    """Return events in which each key that goes up knows which others do so at the same time."""
    events, up = list(events), defaultdict(list)
    for when, event in events:
        if isinstance(event, NoteOff):
            up[when].append(event.pitch)
    return [
        (when, replace(event, also=tuple(one for one in up[when] if one != event.pitch)))
        if isinstance(event, NoteOff)
        else (when, event)
        for when, event in events
    ]


def note_events(note: Note, phrase: Phrase, rate: float, end: int) -> Iterator[Timed]:
    """Yield a note's beginning and its end, which is not later than the end of the phrase."""
    pitch = note.pitch - 60.0
    start = phrase.sample(note.start, rate)
    yield start, NoteOn(pitch, note.velocity)
    yield max(start + 1, min(end, phrase.sample(note.start + note.length, rate))), NoteOff(pitch)


def gesture_events(gesture: Gesture, phrase: Phrase, rate: float) -> Iterator[Timed]:
    """Yield a gesture's straight pieces; it stands still before its first point and after its last."""
    yield 0, Move(gesture.control, gesture.points[0][1])
    for (from_beat, from_value), (to_beat, to_value) in pairwise(gesture.points):
        start, stop = phrase.sample(from_beat, rate), phrase.sample(to_beat, rate)
        if stop > start:
            yield start, Move(gesture.control, from_value, (to_value - from_value) / (stop - start))
        yield stop, Move(gesture.control, to_value)
