"""What to turn so that a sound comes nearer to another: found by trying, never looked up.

Each setting that counts is moved a little and heard once. The difference that this makes is held against the
difference that there is: the share of it that a setting could explain, as in one step of the method of Gauss and
Newton [1]_. Those that could explain most are then turned for real, farther and farther while it gets nearer, and stand
in the order in which they have come near. What is said is the way and about how far, not the answer.

.. [1] Å. Björck, "Numerical Methods for Least Squares Problems", SIAM 1996, ch. 9.
"""

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from inner_tone.core.analysis.compare import fitted, levelled, loud_offset
from inner_tone.core.analysis.portrait import FLOOR_DB, Portrait, heard, portrait
from inner_tone.core.arrays import Floats
from inner_tone.core.engine.render import Watch, unwatched
from inner_tone.core.message import Argument, Message, Name, say
from inner_tone.core.modules.declaration import Ruler, Value
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.instructions import called, output_name
from inner_tone.core.patch.model import Connection, Module, Patch
from inner_tone.core.patch.moves import ChangeLine, Edit, Ends, SetValue
from inner_tone.core.patch.plain import plain
from inner_tone.core.units import CENTS_IN, interval_text

MOST_TRIED = 70
TURNED = 8
MOST_TURNS = 6
MOST_SAID = 3
LEAST_GAIN = 0.08  # of the difference: what explains less is not said
WORTH_SAYING = 0.35  # of what the best advice explains
TUNED_CENTS = 50.0  # so near a tuning can be brought to where it should be
A_LITTLE, CLEARLY = 0.12, 0.35  # of a ruler
CENTS = (-15.0, 15.0, -40.0, 40.0)
STEP_OCTAVES, STEP_TIMES, STEP_PART = 2.0 / 12.0, 0.5, 0.08

Hear = Callable[[Patch], Portrait]


@dataclass(frozen=True)
class Advice:
    """What to turn: the module, the setting, or the input that a line steers; how it is said; what it would gain.

    `gain` is the share of the difference, 0 to 1, that was gone when it was tried; `edits` are what was tried.
    """

    module: str
    setting: str
    said: Message
    gain: float
    edits: tuple[Edit, ...] = ()

    @property
    def text(self) -> str:
        """What to turn, in words."""
        return str(self.said)


@dataclass(frozen=True)
class Turn:
    """One thing that can be turned: its place, its value, its ruler, and how it is turned by an amount."""

    module: Module
    setting: str
    value: Value
    ruler: Ruler | None = None
    line: Connection | None = None
    options: tuple[Value, ...] = ()

    @property
    def is_ratio(self) -> bool:
        """Whether the same way means the same ratio."""
        return self.ruler is not None and self.ruler.travel == "log" and float(self.value) > 0.0  # type: ignore[arg-type]

    @property
    def tunes(self) -> bool:
        """Whether it is a setting by which its module is tuned."""
        return self.line is None and self.setting in self.module.declaration.tunings

    @property
    def coarseness(self) -> int:
        """Which of several ways to tune it is, the coarsest first."""
        return list(self.module.declaration.tunings).index(self.setting) if self.tunes else 0

    @property
    def for_a_cent(self) -> float:
        """How far it is turned for a hundredth of a semitone, if it tunes without steps; else 0."""
        declared = self.module.declaration
        stepless = self.setting == declared.named("fine") or self.setting in declared.inputs_by_name
        return 0.01 / declared.tunings[self.setting] if self.tunes and stepless else 0.0

    def step(self) -> float:
        """Return the amount of a first try: octaves for what moves by ratios, else in its own unit."""
        assert self.ruler is not None
        if self.is_ratio:
            return STEP_TIMES if self.ruler.unit == "s" else STEP_OCTAVES
        if self.line is not None:
            return max(0.15 * abs(float(self.value)), 0.02)  # type: ignore[arg-type]
        return max(STEP_PART * (self.ruler.high - self.ruler.low), self.ruler.step) if self.ruler.unit != "oct" else 1.0

    def at(self, amount: float) -> Value:
        """Return the value that it has when it is turned by an amount."""
        assert self.ruler is not None
        value = float(self.value)  # type: ignore[arg-type]
        new = value * 2.0**amount if self.is_ratio else value + amount
        if self.ruler.step >= 1.0 and not self.is_ratio:
            new = round(new / self.ruler.step) * self.ruler.step
        return new if self.line is not None else min(self.ruler.high, max(self.ruler.low, new))

    def tuned(self, cents: float) -> Value | None:
        """Return the value of a tuning that makes a tone so much higher; None where its steps or its ends forbid it."""
        assert self.ruler is not None
        amount = cents / CENTS_IN.get(self.ruler.unit, CENTS_IN["oct"])  # a ratio is turned by octaves
        value = self.at(amount)
        turned = self.ratio_to(value) if self.is_ratio else float(value) - float(self.value)  # type: ignore[arg-type]
        left = abs(turned - amount) * (cents / amount)
        return value if left < min(TUNED_CENTS, 0.5 * abs(cents)) and value != self.value else None

    def ratio_to(self, value: Value) -> float:
        """Return how many octaves a value lies above the one that it has."""
        return math.log2(float(value) / float(self.value))  # type: ignore[arg-type]

    def edits(self, value: Value) -> tuple[Edit, ...]:
        """Return what gives it a value."""
        if self.line is not None:
            return (ChangeLine(line=Ends.of(self.line), depth=float(value)),)  # type: ignore[arg-type]
        return (SetValue(module=self.module.id, setting=self.setting, value=value),)


def turns_of(patch: Patch) -> Iterator[Turn]:
    """Yield what can be turned in a patch and is heard: settings that count, choices, and the depths of what steers."""
    graph = Graph(patch.live)
    needed = plain(patch, as_built=True).reaching()
    for module in patch.modules:
        declared = module.declaration
        if module.id not in needed or declared.family in ("play", "out"):
            continue
        settings = graph.counting(module, module.all_settings)
        idle = {port.name for port in declared.inputs if not declared.works(port, settings) or port.alone}
        written = declared.written(settings) if declared.written else settings
        rare = {one.name for one in declared.inputs if one.rare} | {one.name for one in declared.numbers if one.rare}
        for name, ruler in declared.rulers.items():
            silent = (
                name in idle
                or name == declared.named("seed")
                or (name in rare and module.all_settings[name] == ruler.default)
            )
            unused = written.get(name) != settings[name] and name not in declared.tunings
            if not silent and not unused and not goes_nowhere(graph, module, name):
                yield Turn(module, name, module.all_settings[name], ruler)
        for name, choice in declared.choices.items():
            if not choice.behind and len(choice.options) <= 7:
                options = tuple(one for one in choice.options if one != module.all_settings[name])
                yield Turn(module, name, module.all_settings[name], None, None, options)
    for line in graph.patch.connections:
        port, steered = graph.input(line.target), graph.module(line.target)
        turns = port.kind in ("control", "audio") and (port.ruler is not None or port.goes_through)
        if turns and steered.id in needed and steered.declaration.family != "out":
            unit = port.depth_unit or (port.ruler.unit if port.ruler else "")
            yield Turn(steered, line.target.name, line.depth, Ruler(-1e5, 1e5, 1.0, unit), line)


def goes_nowhere(graph: Graph, module: Module, name: str) -> bool:
    """Tell whether a setting belongs to a channel into which nothing comes."""
    port = module.declaration.inputs_by_name.get(name)
    if port is None or not port.channel or port.goes_through:
        return False
    ways = [one for one in module.declaration.ways if one.channel == port.channel]
    return not any(line.target.name == way.name for way in ways for line in graph.into(module.id))


class Search:
    """The search for what brings a sound nearer.

    Parameters
    ----------
    wanted
        The portrait of what is to be come near to.
    patch
        What is turned.
    hear
        Returns the portrait of a patch on the same grid.
    watch
        Is told again and again how much of the search is done, 0 to 1. Where it raises, the search ends.
    way_back
        Whether the patch is the goal, and what is wanted what somebody has played: then it is said how to come back.
    sharp
        By how many cents the patch, or one of its tones, seems to be too high, if it is known.
    """

    def __init__(
        self,
        wanted: Portrait,
        patch: Patch,
        hear: Hear,
        watch: Watch = unwatched,
        *,
        way_back: bool = False,
        sharp: Sequence[float] = (),
    ) -> None:
        self.way_back, self.sharp = way_back, sharp
        self.wanted, self.patch, self.hear, self.watch = wanted, patch, hear, watch
        self.here = hear(patch)
        self.weights = self.weights_of(self.here)
        self.apart = self.difference(self.here)
        self.size = float(np.sum(self.weights * self.apart**2))

    def weights_of(self, here: Portrait) -> Floats:
        """Return how much each place of the portraits weighs: half of all the bands, half the course of level."""
        bands = np.maximum(self.wanted.bands, here.bands - loud_offset(self.wanted.bands, here.bands))
        course = np.maximum(self.wanted.course, here.course - loud_offset(self.wanted.course, here.course))
        moving = np.maximum(np.abs(np.gradient(self.wanted.course)), np.abs(np.gradient(here.course)))
        found = [
            heard(bands - np.max(bands)).ravel(),
            heard(course - np.max(course)) * (0.15 + np.minimum(moving, 6.0)),
        ]
        return np.concatenate([one / max(float(np.sum(one)), 1e-12) for one in found])

    def vector(self, here: Portrait) -> Floats:
        """Return a portrait as one row of numbers on the scale of what is wanted."""
        bands = levelled(self.wanted.bands, here.bands, loud_offset(self.wanted.bands, here.bands))[1]
        course = levelled(self.wanted.course, here.course, loud_offset(self.wanted.course, here.course))[1]
        return np.concatenate([bands.ravel(), course])

    def difference(self, here: Portrait) -> Floats:
        """Return how far what is wanted lies from a portrait, in dB."""
        goal = np.concatenate(
            [
                np.maximum(self.wanted.bands, float(np.max(self.wanted.bands)) - FLOOR_DB).ravel(),
                np.maximum(self.wanted.course, float(np.max(self.wanted.course)) - FLOOR_DB),
            ]
        )
        return np.asarray(goal - self.vector(here))

    def left(self, here: Portrait) -> float:
        """Return how much of the difference is left with a portrait, 1 for all of it."""
        return float(np.sum(self.weights * self.difference(here) ** 2)) / max(self.size, 1e-12)

    def tried(self, turn: Turn, value: Value) -> Portrait:
        """Return how the patch sounds with one thing turned."""
        return self.hear(made(self.patch, turn.edits(value)).patch)

    def found(self) -> list[Advice]:
        """Return what to turn, the best first."""
        if self.size < 1e-6:
            return []
        turns = list(turns_of(self.patch))[:MOST_TRIED]
        total = len(turns) + TURNED * 4
        shares: list[tuple[float, Turn, float]] = []
        finished: list[tuple[float, Turn, Value]] = []
        for done, turn in enumerate(turns):
            self.watch(done / total)
            if self.sharp and turn.tunes:
                finished += self.retuned(turn)
            elif turn.options:
                finished += [(self.left(self.tried(turn, option)), turn, option) for option in turn.options]
            elif turn.for_a_cent:
                amounts = [turn.for_a_cent * cents for cents in CENTS]
                best, amount = min((self.left(self.tried(turn, turn.at(one))), one) for one in amounts)
                shares.append((1.0 - best, turn, amount))
            else:
                share, amount = self.explained(turn)
                shares.append((share, turn, amount))
        shares.sort(key=lambda one: -one[0])
        for done, (_, turn, amount) in enumerate(shares[:TURNED]):
            self.watch((len(turns) + 4 * done) / total)
            finished.append(self.turned(turn, amount))
        finished.sort(key=lambda one: (round(one[0], 6), one[1].coarseness))
        return self.said(finished)

    def retuned(self, turn: Turn) -> Iterator[tuple[float, Turn, Value]]:
        """Yield how much is left when a tuning is turned by what the pitch is off, where it can be; and its value."""
        for cents in self.sharp:
            value = turn.tuned(-cents)
            if value is not None:
                yield self.left(self.tried(turn, value)), turn, value

    def explained(self, turn: Turn) -> tuple[float, float]:
        """Return which share of the difference a setting could explain, and the amount of a first try that way."""
        step = turn.step()
        value = turn.at(step)
        if value == turn.value:
            step = -step
            value = turn.at(step)
        if value == turn.value:
            return 0.0, 0.0
        moved = self.vector(self.tried(turn, value)) - self.vector(self.here)
        along = float(np.sum(self.weights * moved * self.apart))
        length = float(np.sum(self.weights * moved**2))
        if length < 1e-9:
            return 0.0, 0.0
        return along**2 / length / self.size, math.copysign(step, along * step)

    def turned(self, turn: Turn, amount: float) -> tuple[float, Turn, Value]:
        """Return how much is left when something is turned as far as it brings nearer, and its value there."""
        tries: dict[float, float] = {0.0: 1.0}

        def left(at: float) -> float:
            if at not in tries:
                tries[at] = self.left(self.tried(turn, turn.at(at)))
            return tries[at]

        best, at = 1.0, amount
        if amount == 0.0:
            return 1.0, turn, turn.value
        while len(tries) < MOST_TURNS and left(at) < best:
            best = left(at)
            at *= 2.0
        ends = sorted(tries, key=tries.__getitem__)[:3]
        while len(tries) < MOST_TURNS + 3 and len(ends) == 3:
            middle = lowest(sorted((one, tries[one]) for one in ends))
            if middle is None or any(abs(middle - one) < 0.05 * abs(amount) for one in tries):
                break
            left(middle)
            ends = sorted(tries, key=tries.__getitem__)[:3]
        at = min(tries, key=tries.__getitem__)
        return tries[at], turn, turn.at(at)

    def said(self, finished: Sequence[tuple[float, Turn, Value]]) -> list[Advice]:
        """Return what helps as advice, each place once."""
        found: list[Advice] = []
        places: set[tuple[str, str]] = set()
        for left, turn, value in finished:
            place = turn.module.id, "tuning" if turn.tunes else turn.setting
            least = max(LEAST_GAIN, WORTH_SAYING * found[0].gain) if found else LEAST_GAIN
            if 1.0 - left < least or place in places or value == turn.value:
                continue
            places.add(place)
            said = (
                what_to_turn(self.patch, replace(turn, value=value), turn.value)
                if self.way_back
                else what_to_turn(self.patch, turn, value)
            )
            found.append(Advice(turn.module.id, turn.setting, said, round(1.0 - left, 3), turn.edits(value)))
            if len(found) == MOST_SAID:
                break
        return found


def lowest(points: Sequence[tuple[float, float]]) -> float | None:
    """Return where a parabola through three points is lowest, if it has such a place."""
    (x0, y0), (x1, y1), (x2, y2) = points
    if x1 in (x0, x2):
        return None
    slope01, slope12 = (y1 - y0) / (x1 - x0), (y2 - y1) / (x2 - x1)
    bend = (slope12 - slope01) / (x2 - x0)
    return None if bend <= 0.0 else 0.5 * (x0 + x1 - slope01 / bend)


def what_to_turn(patch: Patch, turn: Turn, value: Value) -> Message:
    """Return what to turn, the way and about how far."""
    name, what = Name(turn.module.title), called(turn.module, turn.setting)
    if turn.options:
        return say("hint.try-other" if what.endswith("s") else "hint.try-another", setting=what, module=name)
    new, old = float(value), float(turn.value)  # type: ignore[arg-type]
    if turn.line is None:
        return say("hint.turn", setting=what, module=name, amount=amount_of(turn, old, new))
    graph, more = Graph(patch), "more" if abs(new) > abs(old) else "less"
    who = output_name(graph, turn.line.source)
    if graph.input(turn.line.target).goes_through:
        return say(f"hint.let-{more}", source=who, target=name)
    steer: dict[str, Argument] = {"source": who, "input": what, "target": name}
    if old and new / old > 0.0:
        return say(f"hint.steer-{more}-by", **steer, times=times(abs(new / old)))
    return say(f"hint.steer-{more}", **steer)


def amount_of(turn: Turn, old: float, new: float) -> Message:
    """Return the way and about how far."""
    assert turn.ruler is not None
    way = "up" if new > old else "down"
    unit = turn.ruler.unit
    if turn.is_ratio and unit == "Hz" and old > 0.0 and new > 0.0:
        semitones = abs(12.0 * math.log2(new / old))
        return say(f"hint.way.{way}.by", much=semitones_about(semitones))
    if turn.is_ratio and old > 0.0 and new > 0.0:
        return say(f"hint.way.{way}.times", times=times(new / old))
    if unit in CENTS_IN:
        return say(f"hint.way.{way}.by", much=say("hint.about", much=interval_text(CENTS_IN[unit] * (new - old))))
    if unit == "dB":
        return say(f"hint.way.{way}.by", much=say("hint.decibels", much=roughly(abs(new - old))))
    part = abs(new - old) / (turn.ruler.high - turn.ruler.low)
    return say(f"hint.far.{way}.{'a-little' if part < A_LITTLE else 'clearly' if part < CLEARLY else 'a-lot'}")


def semitones_about(count: float) -> Message:
    """Return about how many semitones."""
    return say("hint.semitones", much=roughly(count)) if count >= 1.5 else say("hint.semitone")


def roughly(amount: float) -> str:
    """Return a number as somebody says it who does not want to give it away."""
    if amount < 10.0:
        return f"{max(1, round(amount))}"
    return f"{round(amount / 5.0) * 5}"


def times(ratio: float) -> Message:
    """Return a ratio as people say it."""
    bigger = max(ratio, 1.0 / ratio)
    if bigger < 1.25:
        return say("hint.times.a-little")
    if ratio > 1.0:
        return say(f"hint.times.{'half-again' if bigger < 1.7 else 'twice' if bigger < 2.6 else 'several-times'}")
    return say(f"hint.times.{'two-thirds' if bigger < 1.7 else 'half' if bigger < 2.6 else 'small-part'}")


def nearer(
    wanted: Floats,
    patch: Patch,
    sounding: Callable[[Patch], Floats],
    watch: Watch = unwatched,
    sharp: Sequence[float] = (),
) -> list[Advice]:
    """Return what to turn in a patch so that it sounds more like a signal at the common rate, shape (n,).

    `sounding` returns the signal of a patch that plays the same phrase, at the same rate; `sharp` is by how many cents
    the patch, or one of its tones, seems to be too high.
    """
    count = len(wanted)
    return Search(
        portrait(wanted), patch, lambda one: portrait(fitted(sounding(one), count)), watch, sharp=sharp
    ).found()
