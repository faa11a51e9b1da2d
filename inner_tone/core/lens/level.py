"""The level lens: loudness, RMS and peak over time, or an envelope with its stages marked, the gate beneath."""

import numpy as np

from inner_tone.core.analysis import levels
from inner_tone.core.analysis.loudness import SILENT_LUFS
from inner_tone.core.analysis.sentences.level import describe_level
from inner_tone.core.analysis.sentences.words import time_text
from inner_tone.core.analysis.sound import COARSE, Sound
from inner_tone.core.analysis.stages import Stages
from inner_tone.core.lens.chart import Axis, Chart, Mark, Panel, Role, Trace, rounded
from inner_tone.core.lens.source import Against, Source, heard
from inner_tone.core.lens.view import LevelView
from inner_tone.core.lens.wave import TOPS, signed
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.units import decibels

LOW_DB, HIGH_DB = -60.0, 6.0
GATE_SHARE = 0.16
LEAST_TOLD_S = 0.001


def chart(view: LevelView, source: Source, against: Against | None) -> Chart:
    """Return the level lens's chart."""
    first = view.taps[0]
    is_sound = source.kind(first) == "audio"
    linear = view.scale == "linear" or (view.scale == "fitting" and not is_sound)
    sound, other = heard(source, first), against.sound(first, first) if against else None
    legend = against.legend if against else ""
    traces = [peak_line(other, "compared", legend, 0, linear)] if other else []
    for n, tap in enumerate(view.taps):
        traces += lines(heard(source, tap), source.words(tap), n, linear, alone=len(view.taps) == 1)
    found = sound.stages
    peak = decibels(float(np.max(np.abs(sound.signal), initial=0.0)))
    gates = [gate(source.gate)] if view.gate and source.gate else []
    return Chart(
        kind="level",
        taps=list(view.taps),
        x=Axis(label="Time", unit="s", low=0.0, high=max(0.01, len(sound.signal) / sound.rate)),
        panels=[Panel(title="", y=upright(traces, linear), traces=traces, marks=marks(found)), *gates],
        sentence=describe_level(sound.loudness_lufs if is_sound else None, peak, found, sound.beating),
        difference=difference(sound, other, legend, is_sound) if other else "",
    )


def lines(sound: Sound, words: str, order: int, linear: bool, alone: bool) -> list[Trace]:
    """Return what there is to draw of a tap: alone and in dB, its RMS and its loudness beside its peak."""
    peak = peak_line(sound, "this", "peak" if alone and not linear else words, order, linear)
    if linear or not alone:
        return [peak]
    at = levels.moments(len(sound.signal))
    times = rounded(at / sound.rate, 4)
    rms = levels.in_db(levels.rms_course(sound.signal, sound.rate, at))
    loud = levels.loudness_course(sound.weighted_power, sound.rate, at)
    return [
        peak,
        Trace(role="this", legend="RMS", xs=times, ys=[*rounded(rms, 2)], order=1),
        Trace(role="this", legend="loudness", xs=times, ys=[*rounded(np.maximum(loud, -90.0), 2)], order=2),
    ]


def peak_line(sound: Sound, role: Role, legend: str, order: int, linear: bool) -> Trace:
    """Return the course of a tap's amplitude; of what steers, drawn as it is, of its values."""
    at = levels.moments(len(sound.signal))
    course = sound.signal[at] if linear else levels.in_db(levels.peak_course(sound.amplitude, at // COARSE))
    if linear and np.min(sound.signal, initial=0.0) < -1e-3:
        course = levels.peak_course(sound.amplitude, at // COARSE)
    return Trace(role=role, legend=legend, xs=rounded(at / sound.rate, 4), ys=[*rounded(course, 4)], order=order)


def upright(traces: list[Trace], linear: bool) -> Axis:
    """Return the y axis."""
    if not linear:
        return Axis(label="Level", unit="dB", low=LOW_DB, high=HIGH_DB)
    size = max((value for trace in traces for value in trace.ys if value is not None), default=1.0)
    top = next((one for one in TOPS if one >= size), size * 1.05)
    return Axis(label="Value", unit="", low=-0.02 * top, high=top)


def gate(sound: Sound) -> Panel:
    """Return the gate, drawn beneath."""
    signal, rate = sound.signal, sound.rate
    turns = np.flatnonzero(np.diff(signal)) + 1
    at = (
        np.unique(np.concatenate([[0], turns - 1, turns, [max(0, len(signal) - 1)]]))
        if len(signal)
        else np.zeros(0, int)
    )
    values: Floats = signal[at]
    line = Trace(role="this", legend="gate", xs=rounded(at / rate, 5), ys=[*rounded(values, 3)])
    return Panel(title="gate", y=Axis(label="Gate", unit="", low=-0.1, high=1.15), traces=[line], share=GATE_SHARE)


def marks(found: Stages | None) -> list[Mark]:
    """Return where the stages end."""
    if found is None:
        return []
    peak_s = found.begin_s + found.attack_s
    ends = [("attack", found.attack_s, peak_s), ("decay", found.decay_s, peak_s + found.decay_s)]
    if found.release_s is not None and found.closing_s is not None:
        ends.append(("release", found.release_s, found.closing_s + found.release_s))
    return [
        Mark(kind="stage", x=round(at, 5), y=None, text=f"{name} {time_text(seconds)}", words=f"end of the {name}")
        for name, seconds, at in ends
        if seconds > LEAST_TOLD_S
    ]


def difference(sound: Sound, other: Sound, legend: str, is_sound: bool) -> str:
    """Return how loudness and stages differ from those of another sound."""
    parts = []
    if is_sound:
        now, then = (one.loudness_lufs for one in (sound, other))
        if min(now, then) > SILENT_LUFS:
            parts.append(f"{signed(now - then)} LU")
        elif now != then:
            parts.append("no longer silent" if then == SILENT_LUFS else "silent now")
    here, there = sound.stages, other.stages
    if here and there:
        times = (("attack", here.attack_s, there.attack_s), ("release", here.release_s, there.release_s))
        parts += [
            f"{name} {time_text(now)} instead of {time_text(then)}"
            for name, now, then in times
            if now is not None and then is not None and abs(now - then) > max(0.005, 0.1 * then)
        ]
    return f"Against {legend}: {', '.join(parts)}." if parts else f"Against {legend}: no difference in level or stages."
