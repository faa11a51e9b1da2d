"""What a lens looks at: the taps of a patch that has played a phrase, or a recording; and what stands behind it.

Whatever it is, a lens asks it for the sound of a tap, for what people call it and for the kind of its signal: so a
recording can stand behind a render, or be looked at by itself.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.analysis.sound import Gates, Sound
from inner_tone.core.arrays import Floats
from inner_tone.core.engine.wiring import voiced_modules
from inner_tone.core.lens.informed import course_of
from inner_tone.core.lens.moment import WHOLE, Span
from inner_tone.core.modules.declaration import OPENS, SignalKind
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Module
from inner_tone.core.patch.port import Port

OPEN = 0.5


def gate_of(graph: Graph, tap: Port) -> Port | None:
    """Return the output that opens and closes what comes out of a tap: of the nearest module that waits for a gate."""
    waiting, seen = [tap.module], {tap.module}
    while waiting:
        lines = graph.into(waiting.pop(0))
        for line in lines:
            if graph.input(line.target).does == OPENS:
                return line.source
        for module in (port.module for line in lines for port in line.read):
            if module not in seen:
                seen.add(module)
                waiting.append(module)
    return None


def gates_in(signal: Sound) -> Gates:
    """Return from when to when a gate is open, in s."""
    here = np.concatenate([[0], (signal.signal > OPEN).astype(int), [0]])
    edges = np.flatnonzero(np.diff(here)) / signal.rate
    return tuple((float(opens), float(closes)) for opens, closes in edges.reshape(-1, 2))


@dataclass(frozen=True)
class Played:
    """A patch that has played a phrase, the sounds of some of its taps, by port, and the moment that is looked at."""

    graph: Graph
    sounds: Mapping[str, Sound] = field(default_factory=dict)
    span: Span = WHOLE

    def sound(self, tap: str) -> Sound | None:
        """Return the sound of a tap, if it is there."""
        return self.sounds.get(tap)

    def module(self, tap: str) -> Module | None:
        """Return the module whose port a tap is; nothing where it is none."""
        return self.graph.modules.get(Port(tap).module)

    def kind(self, tap: str) -> SignalKind:
        """Return the kind of signal at a tap."""
        port = Port(tap)
        declared = self.graph.declared(port.module)
        output = declared.outputs_by_name.get(port.name)
        return output.kind if output else declared.input(port.name).kind

    def words(self, tap: str) -> str:
        """Return how people call a tap: the module, and the port where it is not the main one."""
        port = Port(tap)
        title = self.graph.module(port).title
        output = self.graph.declared(port.module).outputs_by_name.get(port.name)
        return title if output and output.unnamed else f"{title}: {port.name}"

    def gate(self, tap: str) -> Sound | None:
        """Return the signal that opens and closes what comes out of a tap, if it is there."""
        port = gate_of(self.graph, Port(tap))
        return self.sounds.get(port) if port else None

    @cached_property
    def _gates(self) -> dict[str, Gates]:
        return {}

    def gates(self, tap: str) -> Gates:
        """Return from when to when that gate is open, in s."""
        if tap not in self._gates:
            signal = self.gate(tap)
            self._gates[tap] = gates_in(signal) if signal else ()
        return self._gates[tap]

    @cached_property
    def _courses(self) -> dict[str, Floats | None]:
        return {}

    def course_hz(self, tap: str) -> Floats | None:
        """Return how often a second the cycle at a tap comes back at each sample, if the patch tells that."""
        if tap not in self._courses:
            self._courses[tap] = course_of(self.graph, self.sounds, tap)
        return self._courses[tap]

    def voices(self, tap: str) -> int:
        """Return how many voices a tap could be of: 1 where there is only one, or where all are summed."""
        return self.graph.patch.voices if Port(tap).module in voiced_modules(self.graph) else 1


@dataclass(frozen=True)
class Recorded:
    """A recording under its name: one sound, whatever the tap is called."""

    name: str
    recording: Sound
    span: Span = WHOLE

    def sound(self, tap: str) -> Sound | None:
        return self.recording

    def module(self, tap: str) -> Module | None:
        """Return nothing: no module is known to have made it."""
        return None

    def kind(self, tap: str) -> SignalKind:
        """Return what it is: sound."""
        return "audio"

    def words(self, tap: str) -> str:
        """Return its name."""
        return self.name

    def gate(self, tap: str) -> Sound | None:
        """Return nothing: it is not known when its keys were down."""
        return None

    def gates(self, tap: str) -> Gates:
        """Return nothing."""
        return ()

    def course_hz(self, tap: str) -> Floats | None:
        """Return nothing: it is not known what made it."""
        return None

    def voices(self, tap: str) -> int:
        return 1


Source = Played | Recorded


def heard(source: Source, tap: str) -> Sound:
    """Return the sound of a tap that must be there; raises KeyError."""
    found = source.sound(tap)
    if found is None:
        raise KeyError(tap)
    return found


def excerpt(source: Source, tap: str) -> Excerpt:
    """Return what is looked at of a tap that must be there: its part at the moment; raises KeyError."""
    span = source.span
    return heard(source, tap).excerpt(span.begin_s, span.end_s, source.gates(tap), source.course_hz(tap))


@dataclass(frozen=True)
class Against:
    """What a source is compared with: another one, or another tap of its own in the place of the first."""

    legend: str
    source: Source
    tap: str | None = None

    @property
    def of_patch(self) -> bool:
        """Whether it is the same tap of another patch that has played."""
        return self.tap is None and isinstance(self.source, Played)

    def sound(self, tap: str, first: str) -> Sound | None:
        """Return what stands behind a tap, if there is such a tap; a recording stands behind the first one alone."""
        if isinstance(self.source, Recorded) and tap != first:
            return None
        return self.source.sound(self.tap_behind(tap, first))

    def tap_behind(self, tap: str, first: str) -> str:
        """Return which tap stands behind a tap."""
        return self.tap if self.tap is not None and tap == first else tap

    def excerpt(self, tap: str, first: str) -> Excerpt | None:
        """Return what is looked at of what stands behind a tap, at the same moment, if there is such a tap."""
        sound = self.sound(tap, first)
        if sound is None:
            return None
        span, behind = self.source.span, self.tap_behind(tap, first)
        return sound.excerpt(span.begin_s, span.end_s, self.source.gates(behind), self.source.course_hz(behind))
