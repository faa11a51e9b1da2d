"""What is said: a message is a key with named arguments, and is put into words here and nowhere else.

The words of a language are a table of templates by key (`english/`), in which the arguments stand by their names in
braces: “Turn {module} down to {level}.” So whoever translates has whole sentences, in an order of their own, and what
is kept of somebody's wording holds whatever the order of a sentence is.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from string import Formatter
from typing import Literal

from inner_tone.core.english import TEMPLATES
from inner_tone.core.units import capital, midi_of, note_name, signed, trimmed, with_unit

LOWEST_NOTE_HZ = 16.0  # C0: below, there are no names
PartRole = Literal["plain", "name", "value"]


@dataclass(frozen=True)
class Part:
    """A stretch of a message in words: its text, whether it is a name or a value, and which fact it is, if one."""

    text: str
    role: PartRole = "plain"
    fact: str = ""


@dataclass(frozen=True)
class Name:
    """What somebody has called a module, a section, a lever."""

    text: str


@dataclass(frozen=True)
class Number:
    """A number with so many places that count."""

    value: float
    digits: int = 3


@dataclass(frozen=True)
class Quantity:
    """A number in a unit of `core/units.py`; as a movement, always with its sign."""

    value: float
    unit: str
    moves: bool = False


@dataclass(frozen=True)
class Pitch:
    """A frequency in Hz, with the note that it is nearest to, if there is a name for it."""

    hertz: float


@dataclass(frozen=True)
class Pitched:
    """A MIDI note with fractions: the nearest note, and how far from it."""

    midi: float


@dataclass(frozen=True)
class Worded:
    """Words that are one value, as a choice is, or a note with its beat."""

    words: "str | Message"


@dataclass(frozen=True)
class Fact:
    """An argument that is known by another name than that in its template, as each of several settings is."""

    name: str
    what: "Argument"


@dataclass(frozen=True)
class Listed:
    """Several things as a list is read out: a, b and c."""

    what: Sequence["Argument"]


@dataclass(frozen=True)
class Opening:
    """What a sentence begins with, and therefore with a capital."""

    what: "Argument"


@dataclass(frozen=True)
class Row:
    """Several things one behind the other."""

    what: Sequence["Argument"]


@dataclass(frozen=True)
class Message:
    """A key of the templates, with its arguments by name; or a template that somebody has written themselves."""

    key: str
    args: Mapping[str, "Argument"] = field(default_factory=dict)
    own: str = ""

    def __str__(self) -> str:
        """Return it in words."""
        return "".join(part.text for part in self.parts)

    @property
    def parts(self) -> tuple[Part, ...]:
        """It in words, piece by piece; pieces that are no facts are one as far as they go."""
        return tuple(joined(parts_of(self)))

    @property
    def facts(self) -> tuple[Part, ...]:
        """Its names and values, in their order."""
        return tuple(part for part in self.parts if part.role != "plain")


Argument = str | int | Name | Number | Quantity | Pitch | Pitched | Worded | Fact | Listed | Opening | Row | Message


def say(key: str, **args: Argument) -> Message:
    """Return a message."""
    return Message(key, args)


def counted(key: str, count: int, **args: Argument) -> Message:
    """Return a message that reads otherwise of one than of several."""
    return say(f"{key}.{'one' if count == 1 else 'many'}", count=count, **args)


def words(what: Argument) -> str:
    """Return an argument in words."""
    return "".join(part.text for part in pieces(what, ""))


def parts_of(said: Message, fact: str = "") -> Iterator[Part]:
    """Yield a message piece by piece; what stands within another one is the fact that it is there."""
    for text, name, _, _ in Formatter().parse(said.own or TEMPLATES[said.key]):
        if text:
            yield Part(text)
        if name is not None:
            yield from pieces(said.args[name], fact or name)


def pieces(what: Argument, fact: str) -> Iterator[Part]:
    """Yield an argument piece by piece."""
    match what:
        case Fact(name=name, what=inner):
            yield from pieces(inner, name)
        case Message():
            yield from parts_of(what, fact)
        case Opening(what=inner):
            first, *rest = pieces(inner, fact)
            yield replace(first, text=capital(first.text))
            yield from rest
        case Row(what=several):
            for one in several:
                yield from pieces(one, fact)
        case Listed(what=several):
            for place, one in enumerate(several):
                if place:
                    yield Part(TEMPLATES["list.last" if place == len(several) - 1 else "list.next"])
                yield from pieces(one, fact if place == 0 else f"{fact}_{place + 1}")
        case Name(text=text):
            yield Part(text, "name", fact)
        case str() | int():
            yield Part(str(what))
        case _:
            yield Part(value_words(what), "value", fact)


def value_words(what: Number | Quantity | Pitch | Pitched | Worded) -> str:
    """Return a value in words."""
    match what:
        case Number(value=value, digits=digits):
            return trimmed(value, digits)
        case Quantity(value=value, unit=unit, moves=moves):
            return signed(value, unit) if moves else with_unit(value, unit)
        case Pitch(hertz=hertz):
            named = f" ({note_words(midi_of(hertz))})" if hertz >= LOWEST_NOTE_HZ else ""
            return f"{with_unit(hertz, 'Hz')}{named}"
        case Pitched(midi=midi):
            return note_words(midi)
        case Worded(words=words):
            return str(words)


def note_words(midi: float) -> str:
    """Return the nearest note, and the distance from it in cents."""
    cents = round(100.0 * (midi - round(midi)))
    return note_name(midi) if cents == 0 else f"{note_name(midi)} {signed(cents, 'cent')}"


def joined(parts: Iterator[Part]) -> Iterator[Part]:
    """Yield pieces, those that are no facts joined to one as long as they follow each other."""
    plain = ""
    for part in parts:
        if part.role == "plain":
            plain += part.text
            continue
        if plain:
            yield Part(plain)
            plain = ""
        yield part
    if plain:
        yield Part(plain)
