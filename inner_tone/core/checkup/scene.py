"""What the checkup looks at: a patch, the phrase that it has played, and what was measured meanwhile."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.render import Measure, Render
from inner_tone.core.message import Argument, Name, say
from inner_tone.core.modules.declaration import ModuleType
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Connection, Module, Patch
from inner_tone.core.patch.port import Port
from inner_tone.core.phrase import Phrase

SILENT = 1e-4  # −80 dB: nothing that anybody hears
STILL = 1e-6


@dataclass(frozen=True)
class Jump:
    """Where a signal went farthest from one sample to the next: the sample, and how far."""

    sample: int
    height: float


@dataclass(frozen=True)
class Scene:
    """A patch that has played a phrase. Connections that are switched off are no part of it."""

    graph: Graph
    phrase: Phrase
    render: Render
    jumps: Mapping[str, Jump]

    @property
    def patch(self) -> Patch:
        return self.graph.patch

    @property
    def player(self) -> Module | None:
        return self.graph.player

    @property
    def output(self) -> Module | None:
        return self.graph.output

    @cached_property
    def heard(self) -> frozenset[str]:
        """The modules that what is heard depends on."""
        return frozenset(port.module for ear in self.graph.ears for port in self.graph.upstream(ear))

    def title(self, port: Port) -> Name:
        """Return the name of the module that a port belongs to."""
        return Name(self.graph.module(port).title)

    def port_title(self, port: Port) -> Argument:
        """Return what people call a port: its module, or one of several outputs of it."""
        return self.title(port) if self.graph.is_main(port) else say("do.port", port=port.name, module=self.title(port))

    def measure(self, port: Port) -> Measure | None:
        """Return what was measured at a port, if it was."""
        return self.render.measures.get(port)

    def measure_of(self, module: Module, name: str) -> Measure | None:
        """Return what was measured at a port of a module, if it was."""
        return self.measure(Port.of(module.id, name))

    def peak(self, port: Port) -> float:
        """Return the greatest distance from zero at a port; 0 if it was not computed."""
        found = self.measure(port)
        return found.peak if found else 0.0

    def loudest_ear(self, size: Callable[[Measure], float]) -> Measure | None:
        """Return what was measured of that side of the output which has more of something."""
        found = [self.measure(ear) for ear in self.graph.ears]
        return max((one for one in found if one), key=size, default=None)

    def sounds(self, port: Port) -> bool:
        """Tell whether a port gives sound for longer than a moment."""
        found = self.measure(port)
        return found is not None and found.rms > SILENT

    def moves(self, port: Port) -> bool:
        """Tell whether a port's signal has changed at all."""
        found = self.measure(port)
        return found is not None and found.greatest - found.least > STILL

    def coming(self, module: Module, name: str) -> list[Connection]:
        """Return the connections that enter an input of a module."""
        return self.graph.coming(Port.of(module.id, name))

    def sound_into(self, module: Module) -> list[Connection]:
        """Return the connections by which sound enters a module to go through it, way by way.

        Where nothing that enters is sound by its kind, it is whatever goes through: a ramp may be made audible.
        """
        lines = [line for way in self.graph.ways(module.id) for line in self.graph.coming(way)]
        return [line for line in lines if self.graph.carries_sound(line)] or lines

    @cached_property
    def sounding_path(self) -> frozenset[str]:
        """The modules from which sound goes to the output, through whatever changes it."""
        found: set[str] = set()
        waiting = [self.output] if self.output else []
        while waiting:
            module = waiting.pop()
            if module.id not in found:
                found.add(module.id)
                waiting += [self.graph.module(line.source) for line in self.sound_into(module)]
        return frozenset(found)

    def sound_lines(self) -> list[Connection]:
        """Return the connections by which sound goes to the output."""
        return [line for module in self.on_path(bool) for line in self.sound_into(module)]

    def on_path(self, which: Callable[[ModuleType], object]) -> Iterator[Module]:
        """Yield the modules from which sound goes to the output, of those types that are asked for."""
        for module in self.patch.modules:
            if module.id in self.sounding_path and which(module.declaration):
                yield module

    def pitched(self) -> Iterator[Module]:
        """Yield the sources with a pitch from which sound goes to the output."""
        return self.on_path(lambda declared: declared.pitched)

    def main(self, module: Module) -> Port:
        """Return the port that stands for a module."""
        return self.graph.main(module.id)

    def steers(self, line: Connection) -> bool:
        """Tell whether a connection steers something, rather than carrying sound through."""
        return self.graph.input(line.target).part in ("steer", "pitch")

    def sound(self, begin: int, end: int | None = None) -> Floats:
        """Return the middle of what is heard between two samples, as 64-bit floats."""
        sides = (self.render.left[begin:end], self.render.right[begin:end])
        return 0.5 * (sides[0].astype(np.float64) + sides[1])

    @cached_property
    def pitches(self) -> list[float]:
        """The different pitches of the phrase's notes, in semitones from middle C, from the lowest."""
        return sorted({note.pitch - 60.0 for note in self.phrase.notes})
