"""Looks through a lens. A new lens is registered here, and nowhere else in the core."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from inner_tone.core.errors import InnerToneError
from inner_tone.core.lens import frequency, level, response, spectrum, sweep, wave
from inner_tone.core.lens.chart import Chart
from inner_tone.core.lens.source import Against, Source, gate_of
from inner_tone.core.lens.view import FrequencyView, LevelView, ResponseView, SpectrumView, SweepView, View, WaveView
from inner_tone.core.lens.way import steered_ports, way_of
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.port import Port


class ViewError(InnerToneError):
    """A lens is asked for what the patch does not have."""


@dataclass(frozen=True)
class Lens:
    """A lens: what it is set to, its title, and how a chart of it is made.

    It `listens` if it needs the sound of its taps; if it is for what is `heard`, it follows the output where what is
    followed is no sound.
    """

    view: type[Any]
    title: str
    chart: Callable[[Any, Source, Against | None], Chart]
    listens: bool = True
    heard: bool = False

    @property
    def most_taps(self) -> int:
        """How many taps it looks at, at most."""
        limits = [getattr(one, "max_length", None) for one in self.view.model_fields["taps"].metadata]
        return int(next(limit for limit in limits if limit is not None))


LENSES: dict[str, Lens] = {
    "wave": Lens(WaveView, "Wave", wave.chart),
    "spectrum": Lens(SpectrumView, "Spectrum", spectrum.chart, heard=True),
    "sweep": Lens(SweepView, "Sweep", sweep.chart, heard=True),
    "level": Lens(LevelView, "Level", level.chart),
    "response": Lens(ResponseView, "Response", response.chart, listens=False),
    "frequency": Lens(FrequencyView, "Frequency", frequency.chart),
}


def taps_of(view: View, graph: Graph) -> set[Port]:
    """Return the taps of a patch that a view needs; raises ViewError where it names a module that is not there."""
    named: tuple[Port, ...] = (*view.taps, *([view.held_by] if isinstance(view, WaveView) and view.held_by else []))
    for tap in named:
        if tap.module not in graph.modules:
            raise ViewError(f"The lens listens to {tap}, and the patch has no module “{tap.module}”.")
    if isinstance(view, ResponseView):
        ways = [way_of(graph, tap, view.source) for tap in view.taps]
        named = tuple(port for way in ways if way for port in steered_ports(graph, way))
        if not named:
            return set()
    if isinstance(view, FrequencyView):
        named = (*named, *frequency.movers_of(graph, view.taps[0]))
    gates = (gate_of(graph, tap) for tap in (view.taps[0], *named))
    return {*named, *(port for port in gates if port is not None)}


def look(view: View, source: Source, against: Against | None = None) -> Chart:
    """Return what a lens shows of a source, with what it is compared with behind it."""
    return LENSES[view.kind].chart(view, source, against)
