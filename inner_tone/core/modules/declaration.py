"""How a module type is declared: its ports, its settings, and the units in which they are read.

One declaration serves everything else: validation, schemas, the rulers, the palette, the instructions'
wording and the engine's tables are all derived from it.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from enum import IntEnum
from typing import Literal, TypeVar

Kind = Literal["audio", "control", "pitch", "gate"]
Travel = Literal["linear", "log"]
Family = Literal["play", "source", "shape", "steer", "out"]
Span = Literal["cycles", "phrase"]


class Law(IntEnum):
    """How connections move an input: by adding, in semitones, or in octaves (doublings)."""

    LINEAR = 0
    SEMITONES = 1
    OCTAVES = 2


@dataclass(frozen=True)
class Ruler:
    """The scale on which a number is set: range, unit, step, travel and default."""

    low: float
    high: float
    default: float
    unit: str = ""
    step: float = 0.01
    travel: Travel = "linear"


@dataclass(frozen=True)
class Input:
    """A place where signals come in. With a ruler it has a base value, the setting of the same name.

    Whatever is connected, the value stays within `bounds`, so that no patch can bring forth NaN or Inf. `usual` is
    the depth that a new connection has where half of the ruler would be too much.
    """

    name: str
    kind: Kind
    help: str
    ruler: Ruler | None = None
    law: Law = Law.LINEAR
    bounds: tuple[float, float] = (-1e6, 1e6)
    usual: float | None = None

    @property
    def depth_unit(self) -> str:
        """The unit in which connections move this input."""
        if self.law is Law.SEMITONES or self.kind == "pitch":
            return "st"
        if self.law is Law.OCTAVES:
            return "oct"
        return self.ruler.unit if self.ruler else ""

    @property
    def base(self) -> float:
        """The value that the input has with nothing connected and nothing set."""
        return self.ruler.default if self.ruler else 0.0


def time_input(name: str, default: float, help: str) -> Input:
    """Return the declaration of an input that is a time in seconds, moved in octaves."""
    ruler = Ruler(0.0, 20.0, default, "s", 0.001, "log")
    return Input(name, "control", help, ruler, Law.OCTAVES, bounds=(0.0, 60.0))


def tone_inputs() -> tuple[Input, Input, Input]:
    """Return the inputs by which everything is moved that repeats a cycle: in semitones, in hertz, in radians."""
    return (
        Input(
            "pitch",
            "pitch",
            "Semitones from middle C. Connect the player's pitch with a depth of 1 to play notes.",
            Ruler(-60, 60, 0, "st", 1),
            bounds=(-240.0, 240.0),
        ),
        Input(
            "linear",
            "audio",
            "Moves the frequency in hertz, through zero and backwards too.",
            Ruler(-5000, 5000, 0, "Hz", 1),
            bounds=(-1e5, 1e5),
            usual=200.0,
        ),
        Input(
            "phase",
            "audio",
            "Moves the place within the cycle, in radians.",
            Ruler(-12, 12, 0, "rad", 0.01),
            bounds=(-1e3, 1e3),
            usual=2.0,
        ),
    )


@dataclass(frozen=True)
class Output:
    """A place where a signal leaves.

    An on-demand output is computed only where something listens to it. An output `for_all` says the same in
    every voice, so what it steers need not exist once per voice.
    """

    name: str
    kind: Kind
    help: str
    on_demand: bool = False
    for_all: bool = False


Port = TypeVar("Port", Input, Output)


@dataclass(frozen=True)
class Number:
    """A setting that is a number and cannot be steered by other modules."""

    name: str
    ruler: Ruler
    help: str


@dataclass(frozen=True)
class Choice:
    """A setting that is one of several words."""

    name: str
    options: tuple[str | int, ...]
    default: str | int
    help: str
    unit: str = ""
    words: tuple[str, ...] = ()

    def shown(self, value: str | float) -> str:
        """Return an option as people read it, with its unit."""
        place = self.options.index(value)
        word = self.words[place] if self.words else self.options[place]
        return f"{word} {self.unit}".rstrip()


@dataclass(frozen=True)
class Row:
    """A setting that is a row of up to `length` numbers on one ruler; what is not given is the ruler's default."""

    name: str
    length: int
    ruler: Ruler
    help: str

    def padded(self, values: Sequence[float]) -> list[float]:
        """Return the row at its full length."""
        return [*values, *[self.ruler.default] * (self.length - len(values))]


Setting = Number | Choice | Row
Value = float | str | int | tuple[float, ...]


@dataclass(frozen=True)
class ModuleType:
    """The declaration of one type of module.

    `seen_over` says where its work is seen at first: within a few cycles of the wave, or over the whole phrase.
    A shared type exists once for all voices, and so does whatever follows it. `one` is what people call one of them,
    where it is not the title with its article. By its `words` a module is found by those who do not know its name.
    """

    name: str
    family: Family
    title: str
    summary: str
    words: tuple[str, ...]
    explanation: str
    inputs: tuple[Input, ...] = ()
    outputs: tuple[Output, ...] = ()
    settings: tuple[Setting, ...] = ()
    seen_over: Span = "phrase"
    shared: bool = False
    one: str = ""
    state_size: Callable[[float], int] = field(default=lambda rate: 8, repr=False)

    @property
    def noun(self) -> str:
        """What people call one of them, with its article if it takes one: a filter, an LFO, noise."""
        word = self.title.lower()
        return self.one or f"{'an' if word[0] in 'aeiou' else 'a'} {word}"

    def input(self, name: str) -> Input:
        """Return the input called `name`; raises KeyError."""
        return next_named(self.inputs, name)

    def output(self, name: str) -> Output:
        """Return the output called `name`; raises KeyError."""
        return next_named(self.outputs, name)

    @property
    def rulers(self) -> dict[str, Ruler]:
        """Every number that can be set, by name: base values of inputs first, then other settings."""
        bases = {port.name: port.ruler for port in self.inputs if port.ruler}
        return bases | {item.name: item.ruler for item in self.numbers}

    @property
    def numbers(self) -> tuple[Number, ...]:
        """The settings that are numbers, without the inputs' base values."""
        return tuple(item for item in self.settings if isinstance(item, Number))

    @property
    def choices(self) -> dict[str, Choice]:
        """Every choice that can be set, by name."""
        return {item.name: item for item in self.settings if isinstance(item, Choice)}

    @property
    def rows(self) -> dict[str, Row]:
        """Every row of numbers that can be set, by name."""
        return {item.name: item for item in self.settings if isinstance(item, Row)}

    @property
    def defaults(self) -> dict[str, Value]:
        """The value of every setting in a module that is newly put into a patch."""
        numbers: dict[str, Value] = {name: ruler.default for name, ruler in self.rulers.items()}
        choices = {name: choice.default for name, choice in self.choices.items()}
        return numbers | choices | {name: () for name in self.rows}


def next_named(ports: tuple[Port, ...], name: str) -> Port:
    """Return the port called `name`; raises KeyError."""
    for port in ports:
        if port.name == name:
            return port
    raise KeyError(name)
