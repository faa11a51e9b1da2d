"""The frequency lens: how fast a cycle really runs, and how far its phase is ahead, with and without what moves it."""

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

import numpy as np

from inner_tone.core.analysis import wave
from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.analysis.running import Running, centred, has_cycle, movers, running
from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.analysis.sentences.running import is_steady, rate_of, running_clauses
from inner_tone.core.arrays import Floats
from inner_tone.core.lens.chart import Axis, Chart, Panel, Role, Trace, rounded
from inner_tone.core.lens.kinds.wave import cycles_of
from inner_tone.core.lens.lens import Lens, Options, switch
from inner_tone.core.lens.source import Against, Played, Source, excerpt
from inner_tone.core.lens.telling import seen_of, told
from inner_tone.core.lens.view import Cycles, Looking, OneTap
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.port import Port
from inner_tone.core.units import trimmed

NONE = "oscillators and harmonics have one."
PLAIN = Axis(label="", unit="", low=0.0, high=1.0)
ROOM = 0.08  # of the range, above and below
LEAST_RANGE = 0.01  # of the frequency
LEAST_TURN_RAD = 0.1
PHASE_SHARE = 0.6
REST = "at rest"


class FrequencyView(Looking):
    """How fast the cycle of an oscillator really runs, over some cycles of what moves it or (0) over the moment."""

    kind: Literal["frequency"] = "frequency"
    taps: OneTap
    cycles: Cycles = 3
    phase: bool = True


@dataclass(frozen=True)
class Run:
    """How the cycle of a tap's module runs at the moment, beside what is heard of it."""

    seen: Excerpt
    found: Running
    anew: bool

    @cached_property
    def part(self) -> Running:
        """It in the passage that says most."""
        window = slice(self.seen.window.first, self.seen.window.last)
        found = self.found
        return replace(found, frequencies_hz=found.frequencies_hz[window], ahead_rad=found.ahead_rad[window])

    @cached_property
    def moved(self) -> Excerpt:
        """By how many Hz it runs faster than at rest, in that passage: looked at as closely as what is heard."""
        return type(self.seen)(self.part.frequencies_hz - self.part.rest_hz, self.seen.rate)

    def held(self, count: int) -> wave.Wave:
        """Return some cycles of what moves it, or of what is heard if nothing does, held still."""
        if is_steady(self.part) or rate_of(self.moved) is None:
            return cycles_of(self.seen, count)
        found = cycles_of(self.moved, count)
        return replace(found, start_s=found.start_s + self.seen.window.first / self.seen.rate)


def movers_of(graph: Graph, tap: Port) -> list[Port]:
    """Return the connected inputs that move the cycle of a tap's module."""
    module = graph.modules.get(tap.module)
    if module is None or not has_cycle(module):
        return []
    return [port for name in movers(module) if graph.coming(port := Port.of(tap.module, name))]


def chart(view: FrequencyView, source: Source, against: Against | None) -> Chart:
    """Return the frequency lens's chart; an empty one for what has no cycle."""
    tap = view.taps[0]
    run = run_of(source, tap)
    if run is None:
        said = f"{source.words(tap)} has no cycle of its own: {NONE}"
        return Chart(kind="frequency", taps=[tap], x=PLAIN, panels=[], sentence=said, facts={"claims": ["none"]})
    other = run_of(against.source, tap) if against else None
    legend = against.legend if against else ""
    held = run.held(view.cycles) if view.cycles else None
    lines = [line(one, held, role, words) for one, role, words in drawn(run, other, source.words(tap), legend)]
    begin = 0.0 if held else run.seen.begin_s
    seconds = held.seconds if held else run.seen.seconds
    rest = [run.found.rest_hz] * 2
    lines.append(Trace(role="theory", legend=REST, xs=rounded(np.array([begin, begin + seconds]), 7), ys=[*rest]))
    panels = [Panel(title="", y=axis("Frequency", "Hz", lines, LEAST_RANGE * abs(rest[0])), traces=lines)]
    if view.phase:
        turns = [phase(one, held, role, words) for one, role, words in drawn(run, other, source.words(tap), legend)]
        upright = axis("Phase ahead", "rad", turns, LEAST_TURN_RAD)
        panels.append(Panel(title="Phase ahead of rest", y=upright, traces=turns, share=PHASE_SHARE))

    def clauses(_: str) -> list[Clause]:
        return running_clauses(run.part, run.moved, anew=run.anew)

    said, facts = told(source, view.taps, clauses)
    return Chart(
        kind="frequency",
        taps=list(view.taps),
        x=Axis(label="Time", unit="s", low=begin, high=begin + seconds),
        panels=panels,
        sentence=said,
        difference=difference(run, other, legend) if other else "",
        facts=facts,
        seen=seen_of(source, tap, run.seen if held else None),
    )


def run_of(source: Source, tap: str) -> Run | None:
    """Return how the cycle of a tap's module runs, if it has one, and the tap is there."""
    module, port = source.module(tap), Port(tap)
    if not isinstance(source, Played) or module is None or not has_cycle(module) or source.sound(tap) is None:
        return None
    seen = excerpt(source, tap)
    ports = movers_of(source.graph, port)
    if any(source.sound(one) is None for one in ports):
        return None
    signals = {one.name: excerpt(source, one).signal[: len(seen.signal)] for one in ports}
    found = running(module, signals, seen.rate, len(seen.signal))
    begun = [one.name for one in module.declaration.inputs if one.anew]
    return Run(seen, found, any(source.graph.coming(Port.of(port.module, name)) for name in begun))


def drawn(run: Run, other: Run | None, words: str, legend: str) -> list[tuple[Run, Role, str]]:
    """Return what is drawn, that behind first."""
    behind: list[tuple[Run, Role, str]] = [(other, "compared", legend)] if other else []
    return [*behind, (run, "this", words)]


def line(run: Run, held: wave.Wave | None, role: Role, legend: str) -> Trace:
    """Return the frequency over time."""
    return trace(run.found.frequencies_hz, run.seen, held, role, legend)


def phase(run: Run, held: wave.Wave | None, role: Role, legend: str) -> Trace:
    """Return how far the phase is ahead over time, around its middle."""
    first, last = 0, len(run.found.ahead_rad)
    if held:
        first = round(held.start_s * run.seen.rate)
        last = first + max(2, round(held.seconds * run.seen.rate)) + 2  # between the last samples too
    ahead = np.zeros(len(run.found.ahead_rad))
    ahead[first:last] = centred(run.found.ahead_rad[first:last])
    return trace(ahead, run.seen, held, role, legend)


def trace(signal: Floats, seen: Excerpt, held: wave.Wave | None, role: Role, legend: str) -> Trace:
    """Return a course as a line, over the cycles that are held or over all of the moment."""
    one = wave.stretch(signal, seen.rate, held) if held else wave.outline(signal, seen.rate)
    count = len(one.highs)
    start = 0.0 if held else seen.begin_s
    xs = start + one.seconds * np.arange(count) / max(1, count - 1)
    lows = None if np.array_equal(one.lows, one.highs) else rounded(one.lows, 4)
    return Trace(role=role, legend=legend, xs=rounded(xs, 7), ys=[*rounded(one.highs, 4)], lows=lows)


def axis(label: str, unit: Literal["Hz", "rad"], lines: list[Trace], least: float) -> Axis:
    """Return the y axis on which all of some lines have room."""
    values = [value for one in lines for value in (*one.ys, *(one.lows or ())) if value is not None]
    low, high = min(values, default=0.0), max(values, default=1.0)
    middle, half = 0.5 * (low + high), max(0.5 * (high - low), least)
    return Axis(label=label, unit=unit, low=middle - half * (1 + ROOM), high=middle + half * (1 + ROOM))


def difference(run: Run, other: Run, legend: str) -> str:
    """Return how far the frequency is moved, against what stands behind."""
    here, there = (float(np.ptp(one.part.frequencies_hz)) if len(one.seen.signal) else 0.0 for one in (run, other))
    return f"Against {legend}: moved over {trimmed(here, 3)} Hz instead of {trimmed(there, 3)} Hz."


LENS = Lens(
    place=6,
    title="Frequency",
    view=FrequencyView,
    chart=chart,
    needs=lambda view, graph: (*view.taps, *movers_of(graph, view.taps[0])),
    form=(
        Options("cycles", "shows", ((1, "1 cycle"), (3, "3"), (8, "8"), (0, "all of it"))),
        switch("phase", "phase"),
    ),
    of_patches=True,
)
