"""Settings that somebody changes while the patch plays: numbers glide to their new value, so that nothing clicks."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from inner_tone.core.engine.build import Built, numbers_of
from inner_tone.core.engine.events import Change
from inner_tone.core.engine.run import Glides
from inner_tone.core.modules.declaration import Value
from inner_tone.core.patch.model import Module, Patch

GLIDE_SECONDS = 0.01


@dataclass
class Goal:
    """Where a number of the program is to go: a base value, with the row of its input, or a parameter (row -1)."""

    place: int
    row: int
    value: float
    slope: float = 0.0  # per sample
    left: int = 0  # samples


class Changes:
    """The changes of an engine's program that are on their way."""

    def __init__(self, patch: Patch, built: Built, rate: float) -> None:
        self.patch = patch
        self.built = built
        self.duration = max(1, round(GLIDE_SECONDS * rate))
        self.goals: dict[tuple[int, bool], Goal] = {}

    def begin(self, change: Change) -> None:
        """Set out for a new value; what is not a number on a ruler is there at once."""
        module = self.patch.by_id[change.module]
        for goal in self.goals_of(module, change.setting, change.value):
            if change.setting in module.declaration.rulers:
                goal.slope = (goal.value - self.now(goal)) / self.duration
                goal.left = self.duration
                self.goals[goal.place, goal.row >= 0] = goal
            else:
                self.set(goal)

    def goals_of(self, module: Module, setting: str, value: Value) -> Iterator[Goal]:
        """Yield what a setting sets, in every voice."""
        name = f"{module.id}.{setting}"
        if name in self.built.input_rows:
            assert isinstance(value, int | float)
            for row in self.built.input_rows[name]:
                yield Goal(row, row, float(value))
            return
        for voice, start in enumerate(self.built.parameter_starts[module.id]):
            place = start
            for item in module.declaration.settings:
                numbers = numbers_of(item, value if item.name == setting else module.all_settings[item.name], voice)
                if item.name == setting:
                    for offset, number in enumerate(numbers):
                        yield Goal(place + offset, -1, number)
                place += len(numbers)

    def glides(self) -> Glides:
        """Return the movements that are under way."""
        goals = list(self.goals.values())
        return Glides(
            np.array([goal.place for goal in goals], dtype=np.int64),
            np.array([goal.row for goal in goals], dtype=np.int64),
            np.array([goal.slope for goal in goals], dtype=np.float64),
        )

    def nearest(self) -> int:
        """Return the number of samples after which something arrives."""
        return min(goal.left for goal in self.goals.values())

    def passed(self, count: int) -> None:
        """Note that so many samples have passed; what has arrived stands exactly where it was going."""
        for key, goal in list(self.goals.items()):
            goal.left -= count
            if goal.left == 0:
                self.set(goal)
                del self.goals[key]

    def now(self, goal: Goal) -> float:
        """Return the value that is on its way."""
        program = self.built.program
        return float(program.base[goal.place] if goal.row >= 0 else program.p[goal.place])

    def set(self, goal: Goal) -> None:
        """Set a number of the program."""
        if goal.row >= 0:
            self.built.program.base[goal.place] = goal.value
            self.built.signals[goal.row, :] = goal.value
        else:
            self.built.program.p[goal.place] = goal.value
