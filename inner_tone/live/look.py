"""What lenses show of what sounds now: the same lenses, over a stretch that ends at this moment."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from inner_tone.core.analysis.glance import Passing
from inner_tone.core.analysis.pitch import repetitions
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.arrays import Floats
from inner_tone.core.engine.render import Measure
from inner_tone.core.errors import InnerToneError
from inner_tone.core.lens.chart import Chart
from inner_tone.core.lens.look import LENSES, View, look, taps_of
from inner_tone.core.lens.moment import Span
from inner_tone.core.lens.source import Against, Played
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.port import Port

CLOSE_S, COURSE_S = 0.25, 3.0  # for what is seen within some cycles, and for what has a course
LEAST_S, MORE_CYCLES = 0.012, 1.5  # of a wave that is held still
NOW = Span(0.0, None, "what sounds now")
FROZEN = "what was frozen"
MOVES = f"The last {COURSE_S:g} seconds of what sounds, as they pass."


@dataclass(frozen=True)
class Stretch:
    """The last samples of some taps of a patch, shape (n,) each."""

    patch: Patch
    signals: Mapping[str, Floats]
    rate: float


@dataclass(frozen=True)
class Sight:
    """What is to be looked at: some lenses, with or without words, against what was frozen; and what every port did."""

    stretch: Stretch
    views: Sequence[View]
    words: bool = False
    frozen: Stretch | None = None
    measures: Mapping[str, Measure] = field(default_factory=dict)
    close: Mapping[Port, Floats] = field(default_factory=dict)


def seconds_of(view: View) -> float:
    """Return how long a stretch a lens looks at."""
    return COURSE_S if LENSES[view.kind].moves_on(view) else CLOSE_S


def taps_for(patch: Patch, views: Sequence[View]) -> set[Port]:
    """Return the taps of a patch that some lenses need; those that look at what is not there need none."""
    graph, found = Graph(patch), set[Port]()
    for view in views:
        try:
            found |= {tap for tap in taps_of(view, graph) if graph.has(tap)}
        except InnerToneError:
            continue
    return found


def charts_of(sight: Sight) -> list[Chart | None]:
    """Return what each lens shows; nothing of one that looks at what is not there."""
    return [chart_of(view, sight) for view in sight.views]


def chart_of(view: View, sight: Sight) -> Chart | None:
    """Return what a lens shows of what sounds now."""
    moves = LENSES[view.kind].moves_on(view)
    words = sight.words and not moves
    source = source_of(view, sight.stretch, words)
    if source is None:
        return None
    frozen = source_of(view, sight.frozen, words) if sight.frozen else None
    found = look(view, source, Against(FROZEN, frozen) if frozen else None)
    # what moves on under one's eyes has moved on before a sentence with times in it is read
    return found.model_copy(update={"sentence": MOVES, "difference": ""}) if moves else found


def source_of(view: View, stretch: Stretch, words: bool) -> Played | None:
    """Return a stretch as a lens looks at it, if all that it needs is there."""
    graph = Graph(stretch.patch)
    try:
        taps = taps_of(view, graph)
    except InnerToneError:
        return None
    if not taps <= stretch.signals.keys():
        return None
    last = round(seconds_of(view) * stretch.rate)
    signals = {tap: stretch.signals[tap][-last:] for tap in taps}
    held = None if words else LENSES[view.kind].holds(view)
    if held:
        last = latest(signals[held[0]], stretch.rate, held[1])
    make = Sound if words else Passing
    return Played(graph, {tap: make(signal[-last:], stretch.rate) for tap, signal in signals.items()}, NOW)


def latest(signal: Floats, rate: float, cycles: int) -> int:
    """Return how many of the last samples have so many cycles, so that they are seen as soon as they have sounded."""
    found = repetitions(signal[np.newaxis], rate)[0]
    seconds = (cycles + MORE_CYCLES) / found.hertz if found is not None else CLOSE_S
    return min(len(signal), round(max(LEAST_S, seconds) * rate))
