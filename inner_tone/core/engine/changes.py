"""What is on its way while a patch plays: settings, base values and depths, each by a straight line: nothing clicks."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.engine.program import Program, numbers_of
from inner_tone.core.engine.run import Glides
from inner_tone.core.modules.declaration import Row, Value
from inner_tone.core.patch.model import Module

What = Literal["base", "setting", "depth"]
Name = tuple[What, str, str, str]  # what it is, the module's id and type, the setting


@dataclass
class Goal:
    """Where numbers of the program are to go together, in all voices: shape (numbers,) each, or one for all."""

    places: Ints
    units: Ints
    value: Floats
    origin: Floats
    slope: Floats  # per sample
    left: int  # samples
    grain: int = 1
    gone: int = 0

    @property
    def now(self) -> Floats:
        """Where they have come to."""
        return self.origin + self.slope * self.gone


class Changes:
    """The numbers of a program that are on their way."""

    def __init__(self, program: Program, duration: int) -> None:
        self.program = program
        self.duration = duration
        self.goals: dict[Name, Goal] = {}
        self.renew()

    def change(self, module: Module, setting: str, value: Value) -> None:
        """Let a setting go to a new value in every voice; what is no number to be turned is there at once."""
        ruler = module.declaration.rulers.get(setting)
        if ruler is None or ruler.whole:
            self.goals.pop(self.name_of(module, setting), None)
            self.put(module, setting, value)
        else:
            assert isinstance(value, int | float)
            grain = next((one.grain for one in module.declaration.numbers if one.name == setting), 1)
            goal = np.array([float(value)])
            self.begin(self.name_of(module, setting), *self.places_of(module, setting), goal, grain)
        self.renew()

    def put(self, module: Module, setting: str, value: Value) -> None:
        """Let a setting stand at a value at once, unless it is on its way."""
        name = self.name_of(module, setting)
        if name in self.goals:
            return
        places, _ = self.places_of(module, setting)
        if name[0] == "base":
            assert isinstance(value, int | float)
            self.arrive(name, places, np.array([float(value)]))
            return
        item = next(one for one in module.declaration.settings if one.name == setting)
        for key, place in zip(self.program.voices_of(module), places, strict=True):
            numbers = numbers_of(item, value, key.voice)
            self.arrive(name, np.arange(place, place + len(numbers)), np.array(numbers))

    def name_of(self, module: Module, setting: str) -> Name:
        """Return by what a setting is known that is on its way."""
        what: What = "base" if setting in module.declaration.inputs_by_name else "setting"
        return what, module.id, module.type, setting

    def places_of(self, module: Module, setting: str) -> tuple[Ints, Ints]:
        """Return where a setting stands in each voice, a row by its first number, and the units that it belongs to."""
        declared, arrays = module.declaration, self.program.arrays
        units = np.array([self.program.places[key] for key in self.program.voices_of(module)], dtype=np.int64)
        if setting in declared.inputs_by_name:
            return arrays.ins_start[units] + list(declared.inputs_by_name).index(setting), units
        names = [item.name for item in declared.settings]
        before = declared.settings[: names.index(setting)]
        return arrays.p_start[units] + sum(one.length if isinstance(one, Row) else 1 for one in before), units

    def fade(self, places: Ints, depths: Floats) -> None:
        """Let the depths of some lines go to others."""
        if len(places):
            self.begin(("depth", "", "", ""), places, np.zeros(0, dtype=np.int64), depths)
            self.renew()

    def begin(self, name: Name, places: Ints, units: Ints, value: Floats, grain: int = 1) -> None:
        """Let numbers set out from where they are."""
        known = self.goals.get(name)
        origin = known.now if known else self.values(name)[places]
        self.goals[name] = Goal(places, units, value, origin, (value - origin) / self.duration, self.duration, grain)

    def values(self, name: Name) -> Floats:
        """Return the array of the program in which something stands."""
        arrays = self.program.arrays
        return {"base": arrays.base, "setting": arrays.p, "depth": arrays.depth}[name[0]]

    def follow(self, program: Program, modules: dict[str, Module]) -> None:
        """Go on in another program with the settings and base values that are on their way; depths are there."""
        goals, self.goals, self.program = self.goals, {}, program
        for name, goal in goals.items():
            module = modules.get(name[1])
            if name[0] != "depth" and module and module.type == name[2]:
                goal.places, goal.units = self.places_of(module, name[3])
                goal.origin, goal.slope = goal.origin[:1], goal.slope[:1]
                self.goals[name] = goal
        self.renew()

    def depths(self) -> Floats:
        """Return the depths of all lines as they are at the moment."""
        found = self.program.arrays.depth.copy()
        for name, goal in self.goals.items():
            if name[0] == "depth":
                found[goal.places] = goal.now
        return found

    def renew(self) -> None:
        """Tell the program what is on its way."""
        arrays = self.program.arrays
        for slopes in (arrays.base_slope, arrays.depth_slope, arrays.moving):
            slopes[:] = 0
        by_kind: dict[What, list[Goal]] = {"base": [], "setting": [], "depth": []}
        for name, goal in self.goals.items():
            by_kind[name[0]].append(goal)
        for goal in by_kind["base"]:
            arrays.base[goal.places] = goal.origin
            arrays.base_slope[goal.places], arrays.base_gone[goal.places] = goal.slope, goal.gone
        for goal in by_kind["depth"]:
            arrays.depth[goal.places] = goal.origin
            arrays.depth_slope[goal.places], arrays.depth_gone[goal.places] = goal.slope, goal.gone
        for goal in by_kind["setting"]:
            arrays.moving[goal.units] = 1
        self.glides = glides_of(**by_kind)

    @property
    def fading(self) -> bool:
        """Whether lines are on their way to another depth."""
        return any(name[0] == "depth" for name in self.goals)

    def nearest(self) -> int | None:
        """Return the number of samples after which something arrives, if anything is on its way."""
        return min((goal.left for goal in self.goals.values()), default=None)

    def passed(self, count: int) -> None:
        """Note that so many samples have passed; what has arrived stands exactly where it was going."""
        arrived = []
        for name, goal in self.goals.items():
            goal.left -= count
            goal.gone += count
            if goal.left == 0:
                arrived.append(name)
        for name in arrived:
            goal = self.goals.pop(name)
            self.arrive(name, goal.places, goal.value)
        if arrived:
            self.renew()

    def arrive(self, name: Name, places: Ints, value: Floats) -> None:
        """Set numbers of the program."""
        self.values(name)[places] = value
        if name[0] == "base":
            self.program.signals[places] = value[:, np.newaxis]


NOWHERE: Ints = np.zeros(0, dtype=np.int64)
NOTHING: Floats = np.zeros(0)


def glides_of(base: list[Goal], setting: list[Goal], depth: list[Goal]) -> Glides:
    """Return what the compiled loop has to move."""
    return Glides(
        base=np.concatenate([NOWHERE, *(goal.places for goal in base)]),
        place=np.concatenate([NOWHERE, *(goal.places for goal in setting)]),
        unit=np.concatenate([NOWHERE, *(goal.units for goal in setting)]),
        value=np.concatenate([NOTHING, *(goal.origin + 0.0 * goal.places for goal in setting)]),
        slope=np.concatenate([NOTHING, *(goal.slope + 0.0 * goal.places for goal in setting)]),
        gone=np.concatenate([NOTHING, *(goal.gone + 0.0 * goal.places for goal in setting)]),
        grain=np.concatenate([NOWHERE, *(goal.grain + 0 * goal.places for goal in setting)]),
        line=np.concatenate([NOWHERE, *(goal.places for goal in depth)]),
    )
