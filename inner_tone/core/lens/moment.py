"""The moment: the note, the stretch or the whole of a phrase that all lenses look at."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field, model_validator

from inner_tone.core.analysis.sentences.words import listed
from inner_tone.core.documents import Document
from inner_tone.core.errors import InnerToneError
from inner_tone.core.phrase import Note, Phrase
from inner_tone.core.units import note_name

Seconds = Annotated[float, Field(ge=0.0, le=600.0)]
TOGETHER_S = 0.001
MOST_NAMED = 4
ABOUT = 1.001


class NoteMoment(Document):
    """One note of the phrase, counted from 1 by when notes begin; those that begin together are one."""

    kind: Literal["note"] = "note"
    note: Annotated[int, Field(ge=1, le=4096)]


class StretchMoment(Document):
    """A stretch from one time to another, in s from the beginning of the render."""

    kind: Literal["stretch"] = "stretch"
    begin_s: Seconds
    end_s: Seconds

    @model_validator(mode="after")
    def forwards(self) -> "StretchMoment":
        """Refuse a stretch that ends before it begins."""
        if self.end_s <= self.begin_s:
            raise ValueError("The stretch ends before it begins: end_s must be greater than begin_s.")
        return self


class WholeMoment(Document):
    """The whole of the phrase, and what sounds after it."""

    kind: Literal["whole"] = "whole"


Moment = Annotated[NoteMoment | StretchMoment | WholeMoment, Field(discriminator="kind")]


class MomentError(InnerToneError):
    """A moment that the phrase does not have."""


@dataclass(frozen=True)
class Span:
    """A moment as it is found in a phrase: from when to when in s, what it is called, and why it was taken.

    `note` is its number, of `notes` in all; 0 where it is no note.
    """

    begin_s: float
    end_s: float | None
    words: str
    why: str = ""
    note: int = 0
    notes: int = 0


WHOLE = Span(0.0, None, "the whole phrase")


@dataclass(frozen=True)
class Strike:
    """Notes that begin together: when, until when they are held at most, and they themselves, from the lowest on."""

    begin_s: float
    end_s: float
    notes: tuple[Note, ...]

    @property
    def words(self) -> str:
        """What it is called."""
        names = [note_name(one.pitch) for one in self.notes]
        return listed(names) if len(names) <= MOST_NAMED else f"{len(names)} keys"

    @property
    def velocity(self) -> float:
        """How strongly it is struck."""
        return max(one.velocity for one in self.notes)


def strikes_of(phrase: Phrase) -> list[Strike]:
    """Return the notes of a phrase in the order in which they begin, those that begin together as one."""
    beat_s = 60.0 / phrase.tempo
    groups: list[list[Note]] = []
    for note in sorted(phrase.notes, key=lambda one: (one.start, one.pitch)):
        if groups and (note.start - groups[-1][0].start) * beat_s < TOGETHER_S:
            groups[-1].append(note)
        else:
            groups.append([note])
    return [
        Strike(group[0].start * beat_s, max(one.start + one.length for one in group) * beat_s, tuple(group))
        for group in groups
    ]


def span_of(moment: Moment | None, phrase: Phrase) -> Span:
    """Return where a moment lies in a phrase; without one, and for a note that is not there, that which says most."""
    if isinstance(moment, StretchMoment):
        return Span(moment.begin_s, moment.end_s, "a stretch")
    strikes = strikes_of(phrase)
    if isinstance(moment, WholeMoment) or not strikes:
        why = "" if moment else "The phrase has no notes: so it is looked at as a whole."
        return Span(0.0, None, WHOLE.words, why, 0, len(strikes))
    if isinstance(moment, NoteMoment) and moment.note <= len(strikes):
        return note_span(strikes, moment.note - 1)
    place, why = telling(strikes)
    lost = f"There is no note {moment.note} any more. " if isinstance(moment, NoteMoment) else ""
    return note_span(strikes, place, lost + why)


def checked_moment(moment: NoteMoment, phrase: Phrase) -> NoteMoment:
    """Return a note if a phrase has it; raises MomentError."""
    notes = len(strikes_of(phrase))
    if moment.note > notes:
        raise MomentError(f"There is no note {moment.note}: the phrase has {counted(notes)}.")
    return moment


def counted(number: int) -> str:
    """Return how many notes there are."""
    return f"{number} note{'' if number == 1 else 's'}"


def note_span(strikes: Sequence[Strike], place: int, why: str = "") -> Span:
    """Return the span of a note: until the next one begins, or to the end."""
    one = strikes[place]
    end = strikes[place + 1].begin_s if place + 1 < len(strikes) else None
    many = f" of {len(strikes)}" if len(strikes) > 1 else ""
    return Span(one.begin_s, end, f"note {place + 1}{many}, {one.words}", why, place + 1, len(strikes))


def telling(strikes: Sequence[Strike]) -> tuple[int, str]:
    """Return the note that says most, and why: the longest, of those the strongest struck, of those the first."""
    if len(strikes) == 1:
        return 0, "It is the only note."
    nexts = [*(one.begin_s for one in strikes[1:]), float("inf")]
    held = [min(one.end_s, after) - one.begin_s for one, after in zip(strikes, nexts, strict=True)]
    longest = [n for n, seconds in enumerate(held) if seconds * ABOUT > max(held)]
    strongest = max(strikes[n].velocity for n in longest)
    struck = [n for n in longest if strikes[n].velocity == strongest]
    if len(longest) == 1:
        return longest[0], "It is held longest, so it says most."
    if len(struck) == 1:
        return struck[0], "Of the notes that are held longest it is struck most strongly, so it says most."
    if len(struck) == len(strikes):
        return struck[0], "All notes are held equally long and struck equally strongly: so it is the first."
    return struck[0], "Of the notes that are held longest and struck most strongly it is the first."
