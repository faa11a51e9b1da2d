"""How a module type is declared: its ports, its settings, and the units in which they are read.

One declaration serves everything else: validation, schemas, the rulers, the palette, the instructions'
wording and the engine's tables are all derived from it.
"""

import re
from collections import namedtuple
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import IntEnum
from functools import cached_property
from keyword import iskeyword
from typing import Any, Literal

from inner_tone.core.modules.stock import key_of, name_of
from inner_tone.core.modules.theory import HIGHEST_CUTOFF_HZ, LOWEST_CUTOFF_HZ, Theory

SignalKind = Literal["audio", "control", "pitch", "gate"]
Way = Literal["through", "side", "steer", "pitch", "gate"]
Effect = Literal["adds", "multiplies"]
Ear = Literal["", "left", "right"]
Travel = Literal["linear", "log"]
Family = Literal["play", "source", "shape", "steer", "out"]
Span = Literal["cycles", "phrase"]
Trait = Literal["source", "own-time", "random", "sings", "recorded", "numbers", "single"]
UsualPlace = Literal["beside", "path", "pitch", "gates", "plays", "steers", "player", "output"]
Shut = Literal["", "level", "channel", "cutoff", "position"]
PictureKind = Literal["", "course", "response", "cycle", "movement", "curve"]
Rest = Literal["", "meant", "with-input"]
Role = Literal[
    "",
    "attack",
    "bend",
    "advance",
    "cutoff",
    "decay",
    "division",
    "drive",
    "fine",
    "gates",
    "hertz",
    "level",
    "lock",
    "mix",
    "mode",
    "mute",
    "octave",
    "offset",
    "open",
    "operation",
    "phase",
    "position",
    "range",
    "rate",
    "ratio",
    "release",
    "ring",
    "seed",
    "slope",
    "solo",
    "sustain",
    "wave",
    "width",
]

WAYS: dict[SignalKind, Way] = {"audio": "side", "control": "steer", "pitch": "pitch", "gate": "gate"}
OPENS = "opens and closes it"  # what a gate does that begins and ends something
OFTEN = ("level", "cutoff", "width", "position", "drive", "pitch", "rate")


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

    @property
    def whole(self) -> bool:
        """Whether it counts things: then there is nothing between its numbers."""
        return self.step == 1 and not self.unit


def spoken(name: str) -> str:
    """Return a name of the program's as people write it: gate_length is “gate length”, row1 “row 1”."""
    return re.sub(r"(?<=[a-z])(?=\d)", " ", name.replace("_", " "))


@dataclass(frozen=True)
class Input:
    """A place where signals come in. With a ruler it has a base value, the setting of the same name.

    How a signal `enters` says what becomes of it: what goes `through` comes out again, changed; a `side` input takes
    sound that moves something at its own speed; the others are steered, follow a pitch, or wait for a gate. What enters
    adds to the module's work, or multiplies it. Inputs of one `channel` belong together, and can change places.
    The `role` that it plays is what others ask for that have to do with it, as of all settings: no one else knows its
    name.

    Whatever is connected, the value stays within `bounds`, so that no patch can bring forth NaN or Inf. `usual` is
    the depth that a new connection has where half of the ruler would be too much. Moved by sound, an input that
    `bends` brings forth new partials. `heard_at` is the module's position at which a way in is the one that is heard;
    `ear` the side on which it is heard. `does` says what a gate does there.
    """

    name: str
    kind: SignalKind
    help: str
    ruler: Ruler | None = None
    law: Law = Law.LINEAR
    bounds: tuple[float, float] = (-1e6, 1e6)
    usual: float | None = None
    enters: Way | None = None
    effect: Effect = "adds"
    channel: str = ""
    bends: bool = False
    heard_at: float | None = None
    ear: Ear = ""
    does: str = ""
    rare: bool = False
    steering: bool = False  # whether it matters, though rare, where the module moves others
    works_with: tuple[str, str] | None = None  # a choice and its option, without which it does nothing
    tuned: bool = False  # whether a time, as long as a cycle, makes a note
    anew: bool = False  # whether a rise begins all anew, so that nothing of what was before counts
    alone: bool = False  # whether its setting counts only while nothing is connected to it
    called: str = ""  # what people call it, where its name alone does not say it
    role: Role = ""

    @property
    def words(self) -> str:
        """What people call it."""
        return self.called or spoken(self.name)

    @property
    def part(self) -> Way:
        """What becomes of what enters: as is declared, or as is natural for its kind of signal."""
        return self.enters or WAYS[self.kind]

    @property
    def unnamed(self) -> bool:
        """Whether its module alone says where something goes."""
        return self.name == "in"

    @property
    def goes_through(self) -> bool:
        """Whether what enters comes out again, changed."""
        return self.part == "through"

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


def time_input(name: str, default: float, help: str, role: Role = "") -> Input:
    """Return the declaration of an input that is a time in seconds, moved in octaves."""
    ruler = Ruler(0.0, 20.0, default, "s", 0.001, "log")
    return Input(name, "control", help, ruler, Law.OCTAVES, bounds=(0.0, 60.0), role=role)


def cutoff_inputs(help: str) -> tuple[Input, Input]:
    """Return the inputs by which a cutoff is moved: in semitones, and evenly in hertz."""
    return (
        Input(
            "cutoff",
            "control",
            f"{help} Other modules move it in semitones.",
            Ruler(20, 20_000, 1000, "Hz", 1, "log"),
            Law.SEMITONES,
            bounds=(LOWEST_CUTOFF_HZ, HIGHEST_CUTOFF_HZ),
            bends=True,
            role="cutoff",
        ),
        Input(
            "linear",
            "control",
            "Moves the cutoff in hertz: as much in the lows as in the highs, so that a rise is heard to slow down.",
            Ruler(-20_000, 20_000, 0, "Hz", 1),
            bounds=(-HIGHEST_CUTOFF_HZ, HIGHEST_CUTOFF_HZ),
            usual=2000.0,
            bends=True,
            rare=True,
            called="cutoff in hertz",
            role="hertz",
        ),
    )


def tone_inputs() -> tuple[Input, Input, Input]:
    """Return the inputs by which everything is moved that repeats a cycle: in semitones, in hertz, in radians."""
    return (
        Input(
            "pitch",
            "pitch",
            "Semitones from middle C. Connect the player's pitch with a depth of 1 to play notes.",
            Ruler(-60, 60, 0, "st", 1),
            bounds=(-240.0, 240.0),
            bends=True,
            rare=True,
            steering=True,
        ),
        Input(
            "linear",
            "audio",
            "Moves the frequency in hertz, through zero and backwards too.",
            Ruler(-5000, 5000, 0, "Hz", 1),
            bounds=(-1e5, 1e5),
            usual=200.0,
            bends=True,
            rare=True,
            called="frequency in hertz",
            role="hertz",
        ),
        Input(
            "phase",
            "audio",
            "Moves the place within the cycle, in radians.",
            Ruler(-12, 12, 0, "rad", 0.01),
            bounds=(-1e3, 1e3),
            usual=2.0,
            bends=True,
            rare=True,
            role="phase",
        ),
    )


def reset_input(help: str = "Where this rises from zero, the cycle begins anew.") -> Input:
    """Return the input by which everything is begun anew that repeats a cycle."""
    return Input("reset", "gate", help, bends=True, does="starts its cycle anew", anew=True)


@dataclass(frozen=True)
class Output:
    """A place where a signal leaves.

    An on-demand output is computed only where something listens to it. An output `for_all` says the same in
    every voice, so what it steers need not exist once per voice. The `main` one stands for its module; without a
    mark it is the first. One that may `rest` is meant to stay at one value for long, or stays while its input does.
    """

    name: str
    kind: SignalKind
    help: str
    on_demand: bool = False
    for_all: bool = False
    main: bool = False
    ear: Ear = ""
    rest: Rest = ""

    @property
    def unnamed(self) -> bool:
        """Whether its module alone says where something comes from."""
        return self.name == "out"


@dataclass(frozen=True)
class Scaled:
    """A ruler that depends on other settings of its module, which are named here."""

    low: str
    high: str
    step: str
    travel: str


@dataclass(frozen=True)
class Number:
    """A setting that is a number and cannot be steered by other modules. Its ruler may depend on other settings.

    On its way to another value it may stand still for `grain` samples: for one where it weighs the sound itself, for
    more where it only moves the speed of a phase, which stays whole. It `tunes` by so many semitones for each
    of its unit.
    """

    name: str
    ruler: Ruler
    help: str
    scaled: Scaled | None = None
    rare: bool = False
    works_with: tuple[str, str] | None = None  # a choice and its option, without which it does nothing
    steering: bool = False
    grain: int = 1
    tunes: float = 0.0
    role: Role = ""

    def ruler_with(self, settings: Mapping[str, Any]) -> Ruler:
        """Return the ruler that it has beside the module's other settings, all of which are given."""
        if self.scaled is None:
            return self.ruler
        ends = sorted(float(settings[name]) for name in (self.scaled.low, self.scaled.high))
        travel: Travel = "log" if settings[self.scaled.travel] == "log" and ends[0] > 0.0 else "linear"
        step = float(settings[self.scaled.step]) or self.ruler.step
        usual = min(ends[1], max(ends[0], self.ruler.default))
        return replace(self.ruler, low=ends[0], high=ends[1], default=usual, step=step, travel=travel)


@dataclass(frozen=True)
class Choice:
    """A setting that is one of several words; one of a `channel` is of use where that channel is.

    With `own` it may also be a sound of somebody's own: its key and its name; see `stock`.
    """

    name: str
    options: tuple[str | int, ...]
    default: str | int
    help: str
    unit: str = ""
    words: tuple[str, ...] = ()
    behind: bool = False  # whether it stands behind the rulers
    channel: str = ""
    works_with: tuple[str, str] | None = None  # another choice and its option, without which it does nothing
    own: bool = False
    by_chance: tuple[str, ...] = ()  # the options with which its module goes where chance takes it
    role: Role = ""

    def allows(self, value: object) -> bool:
        """Tell whether it can be set to something."""
        return value in self.options or (self.own and isinstance(value, str) and bool(key_of(value)))

    def shown(self, value: str | float) -> str:
        """Return an option as people read it, with its unit; an own sound by its name."""
        if self.own and value not in self.options:
            return f"“{name_of(str(value))}”"
        place = self.options.index(value)
        word = self.words[place] if self.words else self.options[place]
        return f"{word} {self.unit}".rstrip()


@dataclass(frozen=True)
class Row:
    """A setting that is a row of up to `length` numbers on one ruler; what is not given is the ruler's default.

    `counted_by` is the setting that says how many of them are in use.
    """

    name: str
    length: int
    ruler: Ruler
    help: str
    counted_by: str = ""
    rare: bool = False
    role: Role = ""

    def padded(self, values: Sequence[float]) -> list[float]:
        """Return the row at its full length."""
        return [*values, *[self.ruler.default] * (self.length - len(values))]


Setting = Number | Choice | Row
Value = float | str | int | tuple[float, ...]
Settings = Mapping[str, Any]
Sums = dict[str, tuple[dict[str, float], float]]


def without(*names: str) -> Callable[[Settings], dict[str, Value]]:
    """Return the `written` of what sounds alike whatever some of its numbers are."""
    return lambda settings: {**settings, **dict.fromkeys(names, 0.0)}


def dry_sums(outputs: Sequence[str], amount: str = "mix") -> Callable[[Settings, frozenset[str]], Sums | None]:
    """Return the `sums` of what lets everything through unchanged while an amount is 0 and stays there."""

    def sums(settings: Settings, connected: frozenset[str]) -> Sums | None:
        dry = settings[amount] == 0 and amount not in connected
        return {name: ({"in": 1.0}, 0.0) for name in outputs} if dry else None

    return sums


@dataclass(frozen=True)
class ModuleType:
    """The declaration of one type of module.

    What it is: a shared type exists once for all voices, and so does whatever follows it. Its traits are what else
    others need to know: it is a source of sound (`source`), plays what was recorded (`recorded`), moves in a time of
    its own (`own-time`), by chance (`random`), may sing by itself (`sings`), puts out numbers in the unit of what they
    go to (`numbers`), or is there once in a patch and outside of all sections (`single`).

    How it is used: `usually` is where a new one goes, `often` which inputs it steers most, `on_pitch` the depth in
    semitones at which it steers a pitch. `opens` is the input that lets sound through or not, and `shut_by` what keeps
    sound from coming out of it.

    Where a choice begins with what was there before, `begins` says of all settings, the choice and its option what else
    is set then. Where rows do not sound as they are written, `sounding` says of all settings what they sound as.
    Where it only adds up what comes in, `sums` says of all settings and the inputs that are connected how much of which
    input each output gives, and what is added; None where it does more. `written` writes settings one way, so that
    what sounds the same is the same. Inputs of the same `swaps` can change places, each with its settings.

    What it takes: so many `nanoseconds` for each sample, beside a patch without it (`benchmarks costs`).

    How it is seen and said: `seen_over` says where its work is seen at first, within a few cycles of the wave or over
    the whole phrase; `picture` what is drawn of it, `theory` what the textbook says. `one` is what people call one of
    them, where it is not the title with its article. By its `words` it is found by those who do not know its name.
    """

    name: str
    family: Family
    title: str
    summary: str
    words: tuple[str, ...]
    explanation: str
    nanoseconds: int
    inputs: tuple[Input, ...] = ()
    outputs: tuple[Output, ...] = ()
    settings: tuple[Setting, ...] = ()
    traits: frozenset[Trait] = frozenset()
    usually: UsualPlace = "steers"
    often: tuple[str, ...] = OFTEN
    on_pitch: float = 0.5
    opens: str = ""
    shut_by: Shut = ""
    seen_over: Span = "phrase"
    picture: PictureKind = ""
    theory: Theory | None = None
    shared: bool = False
    one: str = ""
    begins: Callable[[Mapping[str, Any], str, Value], dict[str, Value]] | None = None
    sounding: Callable[[Mapping[str, Any]], dict[str, tuple[float, ...]]] | None = None
    sums: Callable[[Settings, frozenset[str]], Sums | None] | None = None
    written: Callable[[Settings], dict[str, Value]] | None = None
    swaps: Callable[[Settings], tuple[tuple[str, ...], ...]] | None = None
    state_size: Callable[[float], int] = field(default=lambda rate: 8, repr=False)

    @property
    def noun(self) -> str:
        """What people call one of them, with its article if it takes one: a filter, an LFO, noise."""
        word = self.title.lower()
        return self.one or f"{'an' if word[0] in 'aeiou' else 'a'} {word}"

    def input(self, name: str) -> Input:
        """Return the input called `name`; raises KeyError."""
        return self.inputs_by_name[name]

    def named(self, role: Role, channel: str = "") -> str:
        """Return what an input or a setting that plays a role is called here, of a channel if each has one; else ""."""
        return self.names_by_role.get((role, channel), "")

    @cached_property
    def names_by_role(self) -> dict[tuple[Role, str], str]:
        """What plays a role, by that and by its channel."""
        return {
            (item.role, getattr(item, "channel", "")): item.name for item in (*self.inputs, *self.settings) if item.role
        }

    @cached_property
    def tunings(self) -> dict[str, float]:
        """By what its pitch is set, and by how many semitones for each of its unit; a factor of the frequency is 0."""
        numbers = {item.name: item.tunes for item in self.numbers if item.tunes or item.role == "ratio"}
        return numbers | {port.name: 1.0 for port in self.inputs if port.part == "pitch" and port.ruler}

    def works(self, port: Input, settings: Mapping[str, Any]) -> bool:
        """Tell whether an input does anything beside the module's settings, all of which are given."""
        return port.works_with is None or settings[port.works_with[0]] == port.works_with[1]

    def output(self, name: str) -> Output:
        """Return the output called `name`; raises KeyError."""
        return self.outputs_by_name[name]

    @cached_property
    def inputs_by_name(self) -> dict[str, Input]:
        return {port.name: port for port in self.inputs}

    @cached_property
    def outputs_by_name(self) -> dict[str, Output]:
        return {port.name: port for port in self.outputs}

    @cached_property
    def ways(self) -> tuple[Input, ...]:
        """The inputs whose signal comes out again, changed: none for what makes its own."""
        return tuple(port for port in self.inputs if port.goes_through)

    @cached_property
    def main(self) -> Output | None:
        """The output that stands for the module, if it has any."""
        return next((port for port in self.outputs if port.main), self.outputs[0] if self.outputs else None)

    def towards(self, ear: Ear) -> Output | None:
        """Return the output that stands for the module on the way to an ear: the one for that ear, if it has one."""
        return next((port for port in self.outputs if ear and port.ear == ear), self.main)

    @cached_property
    def sounds(self) -> bool:
        """Whether what stands for it is sound, rather than what steers."""
        return self.main is not None and self.main.kind == "audio"

    @cached_property
    def passes(self) -> bool:
        """Whether sound goes through it."""
        return self.sounds and bool(self.ways)

    @cached_property
    def pitched(self) -> bool:
        """Whether it is a source of sound that has a pitch."""
        return "source" in self.traits and any(port.part == "pitch" for port in self.inputs)

    @cached_property
    def rulers(self) -> dict[str, Ruler]:
        """Every number that can be set, by name: base values of inputs first, then other settings."""
        bases = {port.name: port.ruler for port in self.inputs if port.ruler}
        return bases | {item.name: item.ruler for item in self.numbers}

    @cached_property
    def numbers(self) -> tuple[Number, ...]:
        """The settings that are numbers, without the inputs' base values."""
        return tuple(item for item in self.settings if isinstance(item, Number))

    @cached_property
    def choices(self) -> dict[str, Choice]:
        """Every choice that can be set, by name."""
        return {item.name: item for item in self.settings if isinstance(item, Choice)}

    @cached_property
    def sounds_played(self) -> tuple[str, ...]:
        """The choices by which a recorded sound is chosen."""
        return tuple(name for name, choice in self.choices.items() if choice.own)

    @cached_property
    def rows(self) -> dict[str, Row]:
        """Every row of numbers that can be set, by name."""
        return {item.name: item for item in self.settings if isinstance(item, Row)}

    @cached_property
    def defaults(self) -> dict[str, Value]:
        """The value of every setting in a module that is newly put into a patch."""
        numbers: dict[str, Value] = {name: ruler.default for name, ruler in self.rulers.items()}
        choices = {name: choice.default for name, choice in self.choices.items()}
        return numbers | choices | {name: () for name in self.rows}


BEHIND = ("heard", "born", "tempo", "since", "beat", "runs")  # what stands behind a module's own settings


def numbered(module: ModuleType) -> tuple[Any, Any, Any]:
    """Return where a kernel finds its inputs, its outputs and its settings, by name, as tuples of whole numbers.

    A row of settings is found where its first number stands. Behind the settings stand, as `heard`, the outputs that
    something listens to, a bit for each; on which sample it was `born`; and the beat: the `tempo` in beats per minute,
    which `beat` falls on the sample `since`, and whether time `runs` (1) or stands still (0). `in` is called `in_`.
    """
    lengths = [item.length if isinstance(item, Row) else 1 for item in module.settings]
    settings = {item.name: sum(lengths[:n]) for n, item in enumerate(module.settings)}
    behind = {name: sum(lengths) + n for n, name in enumerate(BEHIND)}
    return (
        by_name("Inputs", {port.name: n for n, port in enumerate(module.inputs)}),
        by_name("Outputs", {port.name: n for n, port in enumerate(module.outputs)}),
        by_name("Settings", settings | behind),
    )


def by_name(kind: str, places: Mapping[str, int]) -> Any:
    """Return places as a named tuple."""
    fields = [f"{name}_" if iskeyword(name) else name for name in places]
    make: Callable[[str, list[str]], Any] = namedtuple
    return make(kind, fields)(*places.values())
