"""The response lens: what a filter, a shaper or an envelope does, as measured on the running module and from theory."""

from collections.abc import Sequence
from typing import Literal

import numpy as np

from inner_tone.core.analysis import response
from inner_tone.core.analysis.sentences.clause import Clause, facts_of, sentence
from inner_tone.core.analysis.sentences.response import (
    describe_curve,
    describe_envelope,
    response_clauses,
    teeth_clauses,
)
from inner_tone.core.arrays import Floats
from inner_tone.core.lens.chart import Axis, Chart, Mark, Panel, Role, Trace, rounded
from inner_tone.core.lens.lens import Lens, switch
from inner_tone.core.lens.source import Against, Played, Source
from inner_tone.core.lens.view import Looking, Taps
from inner_tone.core.lens.way import Way, held, steered_ports, way_of
from inner_tone.core.message import say
from inner_tone.core.modules.theory import CourseTheory, CurveTheory, ResponseTheory
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Module
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.tuning import stages_of
from inner_tone.core.units import trimmed

LOW_DB, HIGH_DB = -60.0, 24.0
PHASE_SHARE = 0.6
NONE = "filters, ladders, shapers and envelopes have one."
PLAIN = Axis(label="", unit="", low=0.0, high=1.0)


class ResponseView(Looking):
    """What is made of what comes in on its way to each tap: from the filter before it, or from an input upstream.

    Those of several taps share the axes of the first one's kind.
    """

    kind: Literal["response"] = "response"
    source: Port | None = None
    taps: Taps
    theory: bool = True
    phase: bool = False


def chart(view: ResponseView, source: Source, against: Against | None) -> Chart:
    """Return the response lens's chart: of one tap beside its theory, of several over one another."""
    if len(view.taps) == 1:
        return chart_of(view, source, against)
    each = [view.model_copy(update={"taps": (tap,), "theory": False}) for tap in view.taps]
    names = [source.words(tap) for tap in view.taps]
    return overlaid(list(zip(names, [chart_of(one, source, against) for one in each], strict=True)))


def overlaid(charts: Sequence[tuple[str, Chart]]) -> Chart:
    """Return the charts of several taps, by what the taps are called, as one, on the axes of the first that has any."""
    lead = next((found for _, found in charts if found.panels), charts[0][1])
    shown = [(name, found) for name, found in charts if found.panels and found.x.label == lead.x.label]
    panels = []
    for place, panel in enumerate(lead.panels):
        parts = [found.panels[place] for _, found in shown]
        traces = [
            trace.model_copy(update={"order": order, "legend": name if trace.role == "this" else trace.legend})
            for order, ((name, _), part) in enumerate(zip(shown, parts, strict=True))
            for trace in part.traces
        ]
        low, high = min(one.y.low for one in parts), max(one.y.high for one in parts)
        ordered = sorted(traces, key=lambda one: one.role == "this")
        upright = panel.y.model_copy(update={"low": low, "high": high})
        marks = [
            mark.model_copy(update={"text": name, "words": f"{name}: {mark.words}"})
            for (name, _), part in zip(shown, parts, strict=True)
            for mark in part.marks
        ]
        marks.sort(key=lambda one: one.x)
        panels.append(panel.model_copy(update={"y": upright, "traces": ordered, "marks": marks, "shaded": False}))
    low, high = min(found.x.low for _, found in shown or charts), max(found.x.high for _, found in shown or charts)
    said = [f"{name}: {found.sentence}" for name, found in shown]
    said += [found.sentence for _, found in charts if not found.panels]
    said += [f"{name} is left out: its response has other axes." for name, found in charts if is_apart(found, lead)]
    differing = [f"{name}: {found.difference}" for name, found in shown if found.difference]
    return lead.model_copy(
        update={
            "taps": [tap for _, found in charts for tap in found.taps],
            "x": lead.x.model_copy(update={"low": low, "high": high}),
            "panels": panels,
            "sentence": " ".join(said),
            "difference": " ".join(differing),
            "facts": {**lead.facts, "taps": {found.taps[0]: found.facts for _, found in charts}},
        }
    )


def is_apart(found: Chart, lead: Chart) -> bool:
    """Tell whether a chart has something to show, but on other axes."""
    return bool(found.panels) and found.x.label != lead.x.label


def chart_of(view: ResponseView, source: Source, against: Against | None) -> Chart:
    """Return the response of one tap; an empty chart for a module that has none."""
    tap = view.taps[0]
    module = source.module(tap)
    there = against.source if against else None
    other = there.module(tap) if there else None
    if other is not None and (module is None or other.type != module.type):
        other = None
    legend = against.legend if against else ""
    theory = module.declaration.theory if module else None
    if module and isinstance(theory, CurveTheory):
        return shaper_chart(view, module, other, legend)
    if module and isinstance(theory, CourseTheory):
        return envelope_chart(view, module, other, legend)
    way = way_at(view, source)
    if way is not None:
        return filter_chart(view, source, way, way_at(view, there) if other and there else None, legend)
    said = f"{source.words(tap)} has no response to show: {NONE}"
    return Chart(kind="response", taps=[tap], x=PLAIN, panels=[], sentence=said, facts={"claims": ["none"]})


def line(role: Role, legend: str, xs: Floats, ys: Floats) -> Trace:
    return Trace(role=role, legend=legend, xs=rounded(xs, 5), ys=[*rounded(ys, 4)])


def way_at(view: ResponseView, source: Source) -> Way | None:
    """Return the way of the sound that is measured, if there is one, with what steers it held as at the moment."""
    return held(way_of(source.graph, view.taps[0], view.source), source) if isinstance(source, Played) else None


def measured(way: Way) -> response.Response:
    """Return the response of a way: beside its theory, where it is that of a single module."""
    if way.single is not None:
        return response.filter_response(way.single, way.path.out.name)
    return response.path_response(way.path)


def filter_chart(view: ResponseView, source: Source, way: Way, other: Way | None, legend: str) -> Chart:
    """Return magnitude, and phase if it is asked for."""
    found = measured(way)
    before = measured(other) if other else None
    xs = found.frequencies_hz
    gains = [line("compared", legend, xs, before.gains_db)] if before else []
    gains.append(line("this", "measured", xs, found.gains_db))
    phases = [line("compared", legend, xs, before.phases_deg)] if before else []
    phases.append(line("this", "measured", xs, found.phases_deg))
    if view.theory and found.theory_db is not None and found.theory_deg is not None:
        gains.append(line("theory", "theory", xs, found.theory_db))
        phases.append(line("theory", "theory", xs, turned_near(found.theory_deg, found.phases_deg)))
    top = max(HIGH_DB, 6.0 * np.ceil(float(np.max(found.gains_db)) / 6.0 + 0.2))
    y = Axis(label="Gain", unit="dB", low=LOW_DB, high=min(top, 60.0))
    panels = [Panel(title="", y=y, traces=gains, marks=landmarks(way, found), shaded=before is not None)]
    if view.phase:
        seen = np.concatenate([np.array(trace.ys, dtype=np.float64) for trace in phases])
        turns = Axis(
            label="Phase", unit="°", low=45.0 * np.floor(np.min(seen) / 45.0), high=45.0 * np.ceil(np.max(seen) / 45.0)
        )
        panels.append(Panel(title="", y=turns, traces=phases, share=PHASE_SHARE))
    clauses = [*describe(way, found, view.theory), *way.steered, *from_where(way, source)]
    return Chart(
        kind="response",
        taps=list(view.taps),
        x=Axis(label="Frequency", unit="Hz", low=float(xs[0]), high=float(xs[-1]), log=True),
        panels=panels,
        sentence=sentence(clauses),
        difference=difference(found, before, legend) if before else "",
        facts=facts_of(clauses),
    )


def landmarks(way: Way, found: response.Response) -> list[Mark]:
    """Return the frequency by which people read the response of a single module."""
    theory = way.single.declaration.theory if way.single else None
    if way.single is None or not isinstance(theory, ResponseTheory):
        return []
    landmark = theory.landmark_hz(way.single.all_settings)
    at = float(np.interp(landmark, found.frequencies_hz, found.gains_db))
    words = f"{theory.landmark} {trimmed(landmark, 4)} Hz, {trimmed(at, 3)} dB"
    return [Mark(kind="partial", x=landmark, y=round(at, 3), text=theory.landmark, words=words)]


def difference(found: response.Response, before: response.Response, legend: str) -> str:
    """Return where a response differs most from what it is compared with."""
    apart = found.gains_db - before.gains_db
    most = int(np.argmax(np.abs(apart) * (np.maximum(found.gains_db, before.gains_db) > LOW_DB)))
    hertz = trimmed(float(found.frequencies_hz[most]))
    return f"Against {legend}: at most {trimmed(float(apart[most]), 2)} dB, at {hertz} Hz."


def describe(way: Way, found: response.Response, with_theory: bool) -> list[Clause]:
    """Return what a response is like, in words."""
    expected = found.theory_db if with_theory else None
    theory = way.single.declaration.theory if way.single else None
    if way.single is None or not isinstance(theory, ResponseTheory) or theory.spacing_hz is None:
        return response_clauses(found.frequencies_hz, found.gains_db, expected)
    apart, first = (of(way.single.all_settings) for of in (theory.spacing_hz, theory.landmark_hz))
    return teeth_clauses(found.frequencies_hz, found.gains_db, expected, apart, first)


def from_where(way: Way, source: Source) -> list[Clause]:
    """Return from where to where a longer way leads."""
    if way.single is not None:
        return []
    begin = source.words(way.path.into[0])
    return [Clause("way", say("say.way", begin=begin, end=source.words(way.path.out)), {"from": list(way.path.into)})]


def turned_near(phases: Floats, near: Floats) -> Floats:
    """Return phases in degrees, moved by whole turns to where others are."""
    return phases - 360.0 * float(np.round((phases[0] - near[0]) / 360.0))


def curves(view: ResponseView, found: response.Curve, before: response.Curve | None, legend: str) -> list[Trace]:
    """Return what was measured, with what stands behind it and what theory says."""
    behind = [line("compared", legend, before.xs, before.ys)] if before else []
    theory = [line("theory", "theory", found.xs, found.theory)] if view.theory else []
    return [*behind, line("this", "measured", found.xs, found.ys), *theory]


def shaper_chart(view: ResponseView, module: Module, other: Module | None, legend: str) -> Chart:
    """Return a shaper's output against its input."""
    found = response.shaper_curve(module)
    before = response.shaper_curve(other) if other else None
    traces = curves(view, found, before, legend)
    top = max(1.1, 1.1 * float(np.max(np.abs(found.ys))))
    return Chart(
        kind="response",
        taps=list(view.taps),
        x=Axis(label="In", unit="", low=-1.0, high=1.0),
        panels=[Panel(title="", y=Axis(label="Out", unit="", low=-top, high=top), traces=traces)],
        sentence=str(describe_curve(found.xs, found.ys)),
    )


def envelope_chart(view: ResponseView, module: Module, other: Module | None, legend: str) -> Chart:
    """Return an envelope's course, with its stages marked."""
    found = response.envelope_course(module)
    before = response.envelope_course(other) if other else None
    traces = curves(view, found, before, legend)
    stages = stages_of(module)
    held = stages.level if stages.decay_s is not None else 0.0
    said = str(describe_envelope(stages.attack_s, stages.decay_s, held, stages.release_s))
    times = [("attack", stages.attack_s), *([("decay", stages.rising_s)] if stages.decay_s is not None else [])]
    times += [("gate closes", found.closing_s)] if stages.release_s is not None else []
    longest = max(float(found.xs[-1]), float(before.xs[-1]) if before else 0.0)
    return Chart(
        kind="response",
        taps=list(view.taps),
        x=Axis(label="Time", unit="s", low=0.0, high=longest),
        panels=[
            Panel(
                title="",
                y=Axis(label="Level", unit="", low=-0.03, high=1.1),
                traces=traces,
                marks=[Mark(kind="stage", x=round(at, 5), y=None, text=name, words=name) for name, at in times],
            )
        ],
        sentence=said,
    )


def needed(view: ResponseView, graph: Graph) -> tuple[Port, ...]:
    """Return what steers what lies on the ways to its taps."""
    ways = [way_of(graph, tap, view.source) for tap in view.taps]
    return tuple(port for way in ways if way for port in steered_ports(graph, way))


LENS = Lens(
    place=5,
    title="Response",
    view=ResponseView,
    chart=chart,
    needs=needed,
    form=(switch("theory", "theory"), switch("phase", "phase")),
    listens=False,
    of_patches=True,
)
