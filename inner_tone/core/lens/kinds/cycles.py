"""The cycles lens: one cycle of a wave over that of the next ones, so that what modulation does to it is seen."""

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from inner_tone.core.analysis import cycles
from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.analysis.glance import Glance
from inner_tone.core.analysis.sentences.cycles import cycle_clauses
from inner_tone.core.arrays import Floats
from inner_tone.core.lens.chart import Axis, Chart, Panel, Role, Trace, rounded
from inner_tone.core.lens.kinds.wave import TOPS
from inner_tone.core.lens.lens import Lens, Options
from inner_tone.core.lens.source import Against, Source, excerpt
from inner_tone.core.lens.telling import seen_of, told
from inner_tone.core.lens.view import Looking, OneTap

PHASE = Axis(label="Cycle", unit="", low=0.0, high=1.0)


class CyclesView(Looking):
    """Some cycles of a wave, spread evenly through the moment, laid over one another."""

    kind: Literal["cycles"] = "cycles"
    taps: OneTap
    count: Annotated[int, Field(ge=2, le=32)] = 8


def chart(view: CyclesView, source: Source, against: Against | None) -> Chart:
    """Return the cycles lens's chart; an empty one where no cycle comes back."""
    tap = view.taps[0]
    seen, other = excerpt(source, tap), against.excerpt(tap, tap) if against else None
    found = cycles_in(seen, view.count)
    behind = cycles_in(other, view.count) if other else cycles.NONE
    traces = [line(one, "compared", against.legend, 0) for one in behind.points[:1] if against]
    traces += [line(one, "this", "the next ones", 1) for one in found.points[1:]]
    traces += [line(one, "this", f"the first of {len(found)}", 0) for one in found.points[:1]]
    said, facts = told(source, [tap], lambda _: cycle_clauses(found))
    return Chart(
        kind="cycles",
        taps=[tap],
        x=PHASE,
        panels=[Panel(title="", y=upright(found, behind), traces=traces)] if traces else [],
        sentence=said,
        facts=facts,
        seen=seen_of(source, tap),
    )


def cycles_in(seen: Excerpt, count: int) -> cycles.Cycles:
    """Return cycles of a sound, where its wave comes back."""
    if isinstance(seen, Glance):  # in passing, the pitch of its end stands for all of it
        times_s = np.linspace(0.0, seen.seconds, 2 * count)
        often_hz = np.full(len(times_s), seen.wave_hz or np.nan)
    elif seen.has_pitch:
        times_s, often_hz = seen.track.times_s, 440.0 * 2.0 ** ((seen.track.notes - 69.0) / 12.0)
    else:
        return cycles.NONE
    return cycles.cycles_of(seen.signal, seen.rate, times_s, often_hz, count)


def line(points: Floats, role: Role, legend: str, order: int) -> Trace:
    """Return a cycle as a line."""
    xs = np.linspace(0.0, 1.0, len(points))
    return Trace(role=role, legend=legend, xs=rounded(xs, 5), ys=[*rounded(points, 5)], order=order)


def upright(*all_of_them: cycles.Cycles) -> Axis:
    """Return the y axis on which all cycles have room."""
    size = max([0.01, *(float(np.max(np.abs(one.points), initial=0.0)) for one in all_of_them)])
    top = next((one for one in TOPS if one >= size), size * 1.05)
    return Axis(label="Value", unit="", low=-top, high=top)


LENS = Lens(
    place=7,
    title="Cycles",
    view=CyclesView,
    chart=chart,
    form=(Options("count", "shows", ((2, "2 cycles"), (4, "4"), (8, "8"), (16, "16"), (32, "32"))),),
    heard=True,
)
