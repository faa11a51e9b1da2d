"""What the checkup looks at: a patch, the phrase that it has played, and what was measured meanwhile."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from inner_tone.core.engine.render import Measure, Render
from inner_tone.core.modules.declaration import Value
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.patch.model import Connection, Module, Patch, split_port
from inner_tone.core.patch.ports import THROUGH, input_of, main_output, of_type, through_inputs
from inner_tone.core.phrase import Phrase

SILENT = 1e-4  # −80 dB: nothing that anybody hears
STILL = 1e-6
PITCHED = ("oscillator", "harmonics", "sampler")


@dataclass(frozen=True)
class Jump:
    """Where a signal went farthest from one sample to the next: the sample, and how far."""

    sample: int
    height: float


@dataclass(frozen=True)
class Scene:
    """A patch that has played a phrase. Connections that are switched off are no part of it."""

    patch: Patch
    phrase: Phrase
    render: Render
    jumps: Mapping[str, Jump]

    @cached_property
    def modules(self) -> dict[str, Module]:
        """The modules by id."""
        return self.patch.by_id

    @cached_property
    def settings(self) -> dict[str, dict[str, Value]]:
        """Every module's settings, defaults included, by its id."""
        return {module.id: module.all_settings for module in self.patch.modules}

    @cached_property
    def player(self) -> Module | None:
        """The player."""
        return of_type(self.patch, "player")

    @cached_property
    def output(self) -> Module | None:
        """The output."""
        return of_type(self.patch, "output")

    @cached_property
    def coming(self) -> dict[str, list[Connection]]:
        """The connections that enter each input, by `module.port`."""
        found: dict[str, list[Connection]] = {}
        for line in self.patch.connections:
            found.setdefault(line.target, []).append(line)
        return found

    @cached_property
    def going(self) -> dict[str, list[Connection]]:
        """The connections that leave each module, or that it scales."""
        found: dict[str, list[Connection]] = {}
        for line in self.patch.connections:
            for port in dict.fromkeys((line.source, line.scaled_by)):
                if port is not None:
                    found.setdefault(split_port(port)[0], []).append(line)
        return found

    def title(self, port: str) -> str:
        """Return the name of the module that a port belongs to."""
        return self.modules[split_port(port)[0]].title

    def measure(self, port: str) -> Measure | None:
        """Return what was measured at a port, if it was."""
        return self.render.measures.get(port)

    def peak(self, port: str) -> float:
        """Return the greatest distance from zero at a port; 0 if it was not computed."""
        found = self.measure(port)
        return found.peak if found else 0.0

    def sounds(self, port: str) -> bool:
        """Tell whether a port gives sound for longer than a moment."""
        found = self.measure(port)
        return found is not None and found.rms > SILENT

    def moves(self, port: str) -> bool:
        """Tell whether a port's signal has changed at all."""
        found = self.measure(port)
        return found is not None and found.greatest - found.least > STILL

    def base(self, module: Module, name: str) -> float:
        """Return the value of a setting that is a number."""
        value = self.settings[module.id][name]
        assert isinstance(value, int | float)
        return float(value)

    def sound_into(self, module: Module) -> list[Connection]:
        """Return the connections by which sound enters a module to go through it."""
        ways = through_inputs(module.declaration) or [
            port.name for port in module.declaration.inputs if THROUGH.match(port.name)
        ]
        return [line for way in ways for line in self.coming.get(f"{module.id}.{way}", [])]

    @cached_property
    def sounding_path(self) -> frozenset[str]:
        """The modules from which sound goes to the output, through whatever changes it."""
        found: set[str] = set()
        waiting = [self.output] if self.output else []
        while waiting:
            module = waiting.pop()
            if module.id not in found:
                found.add(module.id)
                waiting += [self.modules[split_port(line.source)[0]] for line in self.sound_into(module)]
        return frozenset(found)

    def path_modules(self, *types: str) -> Iterator[Module]:
        """Yield the modules of some types from which sound goes to the output."""
        for module in self.patch.modules:
            if module.type in types and module.id in self.sounding_path:
                yield module

    def upstream(self, port: str) -> frozenset[str]:
        """Return the outputs that a port depends on by connections, directly or through other modules."""
        found: set[str] = set()
        waiting = [*self.coming.get(port, [])]
        while waiting:
            line = waiting.pop()
            for source in (line.source, line.scaled_by):
                if source is not None and source not in found:
                    found.add(source)
                    module = self.modules[split_port(source)[0]]
                    waiting += [
                        one
                        for inner in module.declaration.inputs
                        for one in self.coming.get(f"{module.id}.{inner.name}", [])
                    ]
        return frozenset(found)

    def main(self, module: Module) -> str:
        """Return the port that stands for a module."""
        return f"{module.id}.{main_output(module.declaration)}"

    def steers(self, line: Connection) -> bool:
        """Tell whether a connection steers something, rather than carrying sound through."""
        port = input_of(self.patch, line.target)
        return port.kind in ("control", "pitch") and not THROUGH.match(port.name)

    def sound(self, begin: int, end: int | None = None) -> Floats:
        """Return the middle of what is heard between two samples, as 64-bit floats."""
        sides = (self.render.left[begin:end], self.render.right[begin:end])
        return 0.5 * (sides[0].astype(np.float64) + sides[1])

    @cached_property
    def pitches(self) -> list[float]:
        """The different pitches of the phrase's notes, in semitones from middle C, from the lowest."""
        return sorted({note.pitch - 60.0 for note in self.phrase.notes})

    def is_played(self) -> bool:
        """Tell whether the phrase has notes and something in the patch listens to them."""
        if not self.phrase.notes or self.player is None:
            return False
        return any(line.source.startswith(f"{self.player.id}.") for line in self.patch.connections)
