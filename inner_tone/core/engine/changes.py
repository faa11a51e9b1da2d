"""What is on its way while a patch plays: settings, base values and depths, each by a straight line: nothing clicks."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from inner_tone.core.engine.program import Program, numbers_of
from inner_tone.core.engine.run import Glides
from inner_tone.core.engine.wiring import Line, UnitKey
from inner_tone.core.modules.declaration import Value
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.patch.model import Module

What = Literal["base", "setting", "depth"]


@dataclass
class Goal:
    """Where a number of the program is to go, and how many samples are left to it."""

    what: What
    key: UnitKey
    name: str
    offset: int  # of one of the numbers of a row
    place: int
    value: float
    unit: int = 0
    origin: float = 0.0
    slope: float = 0.0  # per sample
    gone: int = 0  # samples since it set out
    left: int = 0

    @property
    def now(self) -> float:
        """Where it has come to."""
        return self.origin + self.slope * self.gone


class Changes:
    """The numbers of a program that are on their way."""

    def __init__(self, program: Program, duration: int) -> None:
        self.program = program
        self.duration = duration
        self.goals: dict[tuple[What, int], Goal] = {}
        self.glides = Glides(*(np.zeros(0, dtype=kind) for kind in (int, int, int, float, float, float, int)))

    def change(self, module: Module, setting: str, value: Value) -> None:
        """Let a setting go to a new value in every voice; what is no number to be turned is there at once."""
        declared = module.declaration
        ruler = declared.rulers.get(setting)
        for key in self.program.voices_of(module):
            goals = list(self.goals_of(key, module, setting, value))
            if ruler is not None and not ruler.whole:
                self.begin(goals)
            else:
                for goal in goals:
                    self.goals.pop((goal.what, goal.place), None)
                    self.arrive(goal)
        self.renew()

    def goals_of(self, key: UnitKey, module: Module, setting: str, value: Value) -> Iterator[Goal]:
        """Yield what a setting sets in one voice."""
        declared = module.declaration
        if setting in declared.inputs_by_name:
            assert isinstance(value, int | float)
            yield Goal("base", key, setting, 0, self.program.input_row(key, setting), float(value))
            return
        item = next(one for one in declared.settings if one.name == setting)
        unit, first = self.program.places[key], self.program.setting_place(key, setting)
        for offset, number in enumerate(numbers_of(item, value, key.voice)):
            yield Goal("setting", key, setting, offset, first + offset, number, unit)

    def fade(self, lines: Iterable[tuple[int, Line]]) -> None:
        """Let the depths of some lines go from what they were to what they are to be."""
        self.begin(Goal("depth", line.source.unit, "", 0, place, line.depth) for place, line in lines)
        self.renew()

    def follow(self, program: Program) -> None:
        """Go on in another program with the settings and base values that are on their way; depths are there."""
        goals = [goal for goal in self.goals.values() if goal.what != "depth" and goal.key in program.places]
        self.program = program
        self.goals = {}
        for goal in goals:
            goal.unit = program.places[goal.key]
            is_base = goal.what == "base"
            goal.place = goal.offset + (program.input_row if is_base else program.setting_place)(goal.key, goal.name)
            self.goals[goal.what, goal.place] = goal
        self.renew()

    def begin(self, goals: Iterable[Goal]) -> None:
        """Set out for some goals."""
        for goal in goals:
            goal.origin = self.now(goal)
            goal.slope = (goal.value - goal.origin) / self.duration
            goal.gone, goal.left = 0, self.duration
            self.goals[goal.what, goal.place] = goal

    def now(self, goal: Goal) -> float:
        """Return the value that is to go somewhere."""
        arrays = self.program.arrays
        known = self.goals.get((goal.what, goal.place))
        if known:
            return known.now
        values = {"base": arrays.base, "setting": arrays.p, "depth": arrays.depth}[goal.what]
        return float(values[goal.place])

    def depths(self) -> Floats:
        """Return the depths of all lines as they are at the moment."""
        found = self.program.arrays.depth.copy()
        for goal in self.goals.values():
            if goal.what == "depth":
                found[goal.place] = goal.now
        return found

    def renew(self) -> None:
        """Tell the program what is on its way."""
        arrays = self.program.arrays
        for slopes in (arrays.base_slope, arrays.depth_slope, arrays.moving):
            slopes[:] = 0
        by_kind: dict[What, list[Goal]] = {"base": [], "setting": [], "depth": []}
        for goal in self.goals.values():
            by_kind[goal.what].append(goal)
        for goal in by_kind["base"]:
            arrays.base[goal.place], arrays.base_slope[goal.place] = goal.origin, goal.slope
            arrays.base_gone[goal.place] = goal.gone
        for goal in by_kind["depth"]:
            arrays.depth[goal.place], arrays.depth_slope[goal.place] = goal.origin, goal.slope
            arrays.depth_gone[goal.place] = goal.gone
        settings = by_kind["setting"]
        for goal in settings:
            arrays.moving[goal.unit] = 1
        self.glides = Glides(
            base=np.array([goal.place for goal in by_kind["base"]], dtype=np.int64),
            place=np.array([goal.place for goal in settings], dtype=np.int64),
            unit=np.array([goal.unit for goal in settings], dtype=np.int64),
            value=np.array([goal.origin for goal in settings], dtype=np.float64),
            slope=np.array([goal.slope for goal in settings], dtype=np.float64),
            gone=np.array([goal.gone for goal in settings], dtype=np.float64),
            line=np.array([goal.place for goal in by_kind["depth"]], dtype=np.int64),
        )

    @property
    def fading(self) -> bool:
        """Whether lines are on their way to another depth."""
        return any(goal.what == "depth" for goal in self.goals.values())

    def nearest(self) -> int | None:
        """Return the number of samples after which something arrives, if anything is on its way."""
        return min((goal.left for goal in self.goals.values()), default=None)

    def passed(self, count: int) -> None:
        """Note that so many samples have passed; what has arrived stands exactly where it was going."""
        if not self.goals:
            return
        arrived = []
        for place, goal in self.goals.items():
            goal.left -= count
            goal.gone += count
            if goal.left == 0:
                arrived.append(place)
        for place in arrived:
            self.arrive(self.goals.pop(place))
        if arrived:
            self.renew()

    def arrive(self, goal: Goal) -> None:
        """Set a number of the program."""
        arrays = self.program.arrays
        if goal.what == "base":
            arrays.base[goal.place] = goal.value
            self.program.signals[goal.place, :] = goal.value
        else:
            (arrays.p if goal.what == "setting" else arrays.depth)[goal.place] = goal.value
