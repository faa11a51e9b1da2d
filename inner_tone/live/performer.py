"""The simulated player: holds a note, plays a phrase round and round, or goes up and down a chord."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import chain, count, pairwise

from inner_tone.core.engine.events import Event, Move, NoteOff, NoteOn, lifted_together
from inner_tone.core.errors import InnerToneError
from inner_tone.core.phrase import Gesture, Phrase
from inner_tone.live.messages import Perform

MIDDLE = 60.0
MOST_PER_SECOND = 4_000
CHORD = (0, 4, 7, 12, 7, 4)  # a major chord, up and down, in semitones
STEP, HELD = 0.5, 0.4  # beats from one key of the chord to the next, and for how many it is held


@dataclass(frozen=True)
class Due:
    """Something to be done at a beat; a movement has its slope by the beat."""

    beat: float
    event: Event


@dataclass
class Performer:
    """What is being performed, from the beat on at which it began."""

    begun: float
    dues: Iterator[Due]
    due: Due | None = None
    held: set[float] = field(default_factory=set)

    def __post_init__(self) -> None:
        """Look at what is first."""
        self.due = next(self.dues, None)

    def step(self) -> Event:
        """Return what is due, and look at what comes next."""
        assert self.due is not None
        event = self.due.event
        if isinstance(event, NoteOn):
            self.held.add(event.pitch)
        elif isinstance(event, NoteOff):
            self.held.discard(event.pitch)
        self.due = next(self.dues, None)
        return event


def performer_of(wish: Perform, beat: float) -> Performer | None:
    """Return who performs what is wished from a beat on; nobody where nothing is."""
    if wish.what == "note":
        return Performer(beat, iter([Due(beat, NoteOn(wish.pitch - MIDDLE, wish.velocity))]))
    if wish.what == "chord":
        return Performer(beat, chord(wish.pitch - MIDDLE, wish.velocity, beat))
    if wish.what == "phrase" and wish.phrase is not None:
        return Performer(beat, rounds(wish.phrase, beat))
    return None


def check_pace(phrase: Phrase) -> None:
    """Raise InnerToneError for a phrase in which so much happens that nobody else could play beside it."""
    happens = 2 * len(phrase.notes) + sum(len(one.points) for one in phrase.gestures)
    if happens > MOST_PER_SECOND * max(1.0, phrase.seconds):
        raise InnerToneError(
            f"In this phrase {happens:,} things happen in {phrase.seconds:.3g} s: more than {MOST_PER_SECOND:,} a "
            "second cannot be played live. Take out some of its notes or of the points of its movements."
        )


def chord(lowest: float, velocity: float, beat: float) -> Iterator[Due]:
    """Yield a chord's keys, one after the other, for ever."""
    for place in count():
        pitch = lowest + CHORD[place % len(CHORD)]
        yield Due(beat + place * STEP, NoteOn(pitch, velocity))
        yield Due(beat + place * STEP + HELD, NoteOff(pitch))


def rounds(phrase: Phrase, beat: float) -> Iterator[Due]:
    """Yield a phrase again and again; in one place, keys go up first, then controls move, then keys go down."""
    found = lifted_together((one.beat, one.event) for one in in_beats(phrase))
    once = sorted((Due(*one) for one in found), key=lambda one: (one.beat, order(one.event)))
    if not once:
        return
    for turn in count():
        for one in once:
            yield Due(beat + turn * phrase.beats + one.beat, one.event)


def order(event: Event) -> int:
    """Return where an event stands among those of the same beat."""
    return 0 if isinstance(event, NoteOff) else 2 if isinstance(event, NoteOn) else 1


def in_beats(phrase: Phrase) -> Iterator[Due]:
    """Yield what a phrase is made of; a note is let go at its end at the latest."""
    for note in phrase.notes:
        yield Due(note.start, NoteOn(note.pitch - MIDDLE, note.velocity))
        yield Due(min(note.start + note.length, phrase.beats), NoteOff(note.pitch - MIDDLE))
    yield from chain.from_iterable(pieces(one) for one in phrase.gestures)


def pieces(gesture: Gesture) -> Iterator[Due]:
    """Yield a gesture's straight pieces, with slopes by the beat."""
    yield Due(0.0, Move(gesture.control, gesture.points[0][1]))
    for (begin, value), (end, goal) in pairwise(gesture.points):
        if end > begin:
            yield Due(begin, Move(gesture.control, value, (goal - value) / (end - begin)))
        yield Due(end, Move(gesture.control, goal))
