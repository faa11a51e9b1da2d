"""The response lens: what a filter, a shaper or an envelope does, as measured on the running module and from theory."""

import numpy as np

from inner_tone.core.analysis import response
from inner_tone.core.analysis.sentences.response import (
    describe_curve,
    describe_envelope,
    describe_filter,
    describe_teeth,
)
from inner_tone.core.lens.chart import Axis, Chart, Mark, Panel, Role, Trace, rounded
from inner_tone.core.lens.source import Against, Source
from inner_tone.core.lens.view import ResponseView
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.modules.theory import CourseTheory, CurveTheory, ResponseTheory
from inner_tone.core.patch.model import Module
from inner_tone.core.units import trimmed

LOW_DB, HIGH_DB = -60.0, 24.0
PHASE_SHARE = 0.6
NONE = "filters, ladders, shapers and envelopes have one."
PLAIN = Axis(label="", unit="", low=0.0, high=1.0)


def chart(view: ResponseView, source: Source, against: Against | None) -> Chart:
    """Return the response lens's chart; an empty one for a module that has no response."""
    tap = view.taps[0]
    module = source.module(tap)
    other = against.source.module(tap) if module and against and against.tap is None else None
    if other is not None and module is not None and other.type != module.type:
        other = None
    legend = against.legend if against else ""
    theory = module.declaration.theory if module else None
    if module and isinstance(theory, ResponseTheory):
        return filter_chart(view, module, theory, other, legend)
    if module and isinstance(theory, CurveTheory):
        return shaper_chart(view, module, other, legend)
    if module and isinstance(theory, CourseTheory):
        return envelope_chart(view, module, other, legend)
    said = f"{source.words(tap)} has no response to show: {NONE}"
    return Chart(kind="response", taps=[tap], x=PLAIN, panels=[], sentence=said)


def line(role: Role, legend: str, xs: Floats, ys: Floats) -> Trace:
    """Return a line."""
    return Trace(role=role, legend=legend, xs=rounded(xs, 5), ys=[*rounded(ys, 4)])


def filter_chart(
    view: ResponseView, module: Module, theory: ResponseTheory, other: Module | None, legend: str
) -> Chart:
    """Return magnitude, and phase if it is asked for."""
    found = response.filter_response(module)
    before = response.filter_response(other) if other else None
    xs = found.frequencies_hz
    gains = [line("compared", legend, xs, before.gains_db)] if before else []
    gains.append(line("this", "measured", xs, found.gains_db))
    phases = [line("compared", legend, xs, before.phases_deg)] if before else []
    phases.append(line("this", "measured", xs, found.phases_deg))
    if view.theory:
        gains.append(line("theory", "theory", xs, found.theory_db))
        phases.append(line("theory", "theory", xs, turned_near(found.theory_deg, found.phases_deg)))
    landmark = theory.landmark_hz(module.all_settings)
    at = float(np.interp(landmark, xs, found.gains_db))
    words = f"{theory.landmark} {trimmed(landmark, 4)} Hz, {trimmed(at, 3)} dB"
    mark = Mark(kind="partial", x=landmark, y=round(at, 3), text=theory.landmark, words=words)
    top = max(HIGH_DB, 6.0 * np.ceil(float(np.max(found.gains_db)) / 6.0 + 0.2))
    y = Axis(label="Gain", unit="dB", low=LOW_DB, high=min(top, 60.0))
    panels = [Panel(title="", y=y, traces=gains, marks=[mark], shaded=before is not None)]
    if view.phase:
        seen = np.concatenate([np.array(trace.ys, dtype=np.float64) for trace in phases])
        turns = Axis(
            label="Phase", unit="°", low=45.0 * np.floor(np.min(seen) / 45.0), high=45.0 * np.ceil(np.max(seen) / 45.0)
        )
        panels.append(Panel(title="", y=turns, traces=phases, share=PHASE_SHARE))
    difference = ""
    if before:
        apart = found.gains_db - before.gains_db
        most = int(np.argmax(np.abs(apart) * (found.gains_db > LOW_DB)))
        difference = f"Against {legend}: at most {trimmed(float(apart[most]), 2)} dB, at {trimmed(float(xs[most]))} Hz."
    return Chart(
        kind="response",
        taps=list(view.taps),
        x=Axis(label="Frequency", unit="Hz", low=float(xs[0]), high=float(xs[-1]), log=True),
        panels=panels,
        sentence=describe(module, theory, found, view.theory),
        difference=difference,
    )


def describe(module: Module, theory: ResponseTheory, found: response.Response, with_theory: bool) -> str:
    """Return what a filter's response is like, in words."""
    expected = found.theory_db if with_theory else None
    if theory.spacing_hz is None:
        return describe_filter(found.frequencies_hz, found.gains_db, expected)
    apart, first = (of(module.all_settings) for of in (theory.spacing_hz, theory.landmark_hz))
    return describe_teeth(found.frequencies_hz, found.gains_db, expected, apart, first)


def turned_near(phases: Floats, near: Floats) -> Floats:
    """Return phases in degrees, moved by whole turns to where others are."""
    return phases - 360.0 * float(np.round((phases[0] - near[0]) / 360.0))


def shaper_chart(view: ResponseView, module: Module, other: Module | None, legend: str) -> Chart:
    """Return a shaper's output against its input."""
    found = response.shaper_curve(module)
    before = response.shaper_curve(other) if other else None
    traces = [line("compared", legend, before.xs, before.ys)] if before else []
    traces.append(line("this", "measured", found.xs, found.ys))
    traces += [line("theory", "theory", found.xs, found.theory)] if view.theory else []
    top = max(1.1, 1.1 * float(np.max(np.abs(found.ys))))
    return Chart(
        kind="response",
        taps=list(view.taps),
        x=Axis(label="In", unit="", low=-1.0, high=1.0),
        panels=[Panel(title="", y=Axis(label="Out", unit="", low=-top, high=top), traces=traces)],
        sentence=describe_curve(found.xs, found.ys),
    )


def envelope_chart(view: ResponseView, module: Module, other: Module | None, legend: str) -> Chart:
    """Return an envelope's course, with its stages marked."""
    found = response.envelope_course(module)
    before = response.envelope_course(other) if other else None
    traces = [line("compared", legend, before.xs, before.ys)] if before else []
    traces.append(line("this", "measured", found.xs, found.ys))
    traces += [line("theory", "theory", found.xs, found.theory)] if view.theory else []
    stages = str(module.all_settings["stages"])
    attack, decay, release, sustain = (module.number(name) for name in ("attack", "decay", "release", "sustain"))
    falls, ends = stages != "attack-release", stages != "attack-decay"
    said = describe_envelope(
        attack, decay if falls else None, sustain if falls and ends else 0.0, release if ends else None
    )
    times = [("attack", attack), *([("decay", attack + decay)] if falls else [])]
    times += [("gate closes", found.closing_s)] if ends else []
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
