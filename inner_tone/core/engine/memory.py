"""The memory of what plays: the states of units, which outlive the program that they run in."""

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.program import Program
from inner_tone.core.engine.wiring import UnitKey

ROOM = 1.5  # when the memory has to grow, it grows by this much more than it needs


class Memory:
    """One array with the states of all units, each in a stretch of its own."""

    def __init__(self) -> None:
        self.states: Floats = np.zeros(0)
        self.used = 0
        self.stretches: dict[UnitKey, tuple[int, int]] = {}

    def lend(self, program: Program) -> None:
        """Give each unit of a program its state: what it had, or a new one of zeros; forget all others."""
        wanted = {unit.key: size for unit, size in zip(program.units, program.state_sizes, strict=True)}
        kept = {key: stretch for key, stretch in self.stretches.items() if stretch[1] == wanted.get(key)}
        needed = sum(size for key, size in wanted.items() if key not in kept)
        if self.used + needed > len(self.states):
            kept = self.grow(kept, needed)
        for key, size in wanted.items():
            if key not in kept:
                kept[key] = self.used, size
                self.states[self.used : self.used + size] = 0.0
                self.used += size
        self.stretches = kept
        for place, unit in enumerate(program.units):
            begin, size = kept[unit.key]
            program.arrays.st_start[place], program.arrays.st_end[place] = begin, begin + size

    def grow(self, kept: dict[UnitKey, tuple[int, int]], needed: int) -> dict[UnitKey, tuple[int, int]]:
        """Move what is kept into a new array with room for more, without gaps; return where it lies now."""
        size = sum(size for _, size in kept.values())
        room = size + needed if not self.used else int(ROOM * (size + needed))
        states = np.zeros(room)
        moved: dict[UnitKey, tuple[int, int]] = {}
        self.used = 0
        for key, (begin, length) in kept.items():
            states[self.used : self.used + length] = self.states[begin : begin + length]
            moved[key] = self.used, length
            self.used += length
        self.states = states
        return moved

    def state_of(self, key: UnitKey) -> Floats:
        """Return the state of a unit, to be read and written."""
        begin, size = self.stretches[key]
        return self.states[begin : begin + size]
