"""The level lens: loudness, RMS and peak over time, or an envelope with its stages marked, the gate beneath."""

from typing import Literal

import numpy as np

from inner_tone.core.analysis import levels
from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.analysis.loudness import SILENT_LUFS
from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.analysis.sentences.level import NEVER_DB, level_clauses, shortest
from inner_tone.core.analysis.sentences.words import time_text
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.analysis.stages import Stages
from inner_tone.core.arrays import Floats
from inner_tone.core.lens.chart import Axis, Chart, Mark, Panel, Role, Trace, rounded
from inner_tone.core.lens.kinds.wave import TOPS, signed
from inner_tone.core.lens.lens import Lens, Options, switch
from inner_tone.core.lens.source import Against, Source, excerpt, heard
from inner_tone.core.lens.telling import seen_of, told
from inner_tone.core.lens.view import Looking, Taps
from inner_tone.core.units import trimmed

LOW_DB, HIGH_DB = -60.0, 6.0
GATE_SHARE = 0.16
SUSTAIN_TOLD_DB = 0.5


class LevelView(Looking):
    """Loudness, RMS and peak over time, or the course of an envelope; with the gate beneath."""

    kind: Literal["level"] = "level"
    taps: Taps
    scale: Literal["fitting", "decibel", "linear"] = "fitting"
    gate: bool = True


def chart(view: LevelView, source: Source, against: Against | None) -> Chart:
    """Return the level lens's chart."""
    first = view.taps[0]
    is_sound = source.kind(first) == "audio"
    linear = view.scale == "linear" or (view.scale == "fitting" and not is_sound)
    seen, other = excerpt(source, first), against.excerpt(first, first) if against else None
    legend = against.legend if against else ""
    traces = [peak_line(other, "compared", legend, 0, linear, shift(seen, other))] if other else []
    for n, tap in enumerate(view.taps):
        traces += lines(heard(source, tap), excerpt(source, tap), source.words(tap), n, linear, len(view.taps) == 1)
    gate = source.gate(first)
    gates = [gate_panel(gate, seen)] if view.gate and gate else []
    said, facts = told(source, view.taps, lambda tap: clauses_of(source, tap))
    stages = None if seen.beating else seen.stages
    return Chart(
        kind="level",
        taps=list(view.taps),
        x=Axis(label="Time", unit="s", low=seen.begin_s, high=seen.begin_s + max(0.01, seen.seconds)),
        panels=[Panel(title="", y=upright(traces, linear), traces=traces, marks=marks(stages, seen)), *gates],
        sentence=said,
        difference=difference(source, against, first, legend) if against and other else "",
        facts=facts,
        seen=seen_of(source, first),
    )


def shift(seen: Excerpt, other: Excerpt) -> float:
    """Return by how many s another sound is moved so that both begin together."""
    return seen.begin_s - other.begin_s


def clauses_of(source: Source, tap: str) -> list[Clause]:
    """Return what there is to say of a tap."""
    return level_clauses(excerpt(source, tap), loudness_of(source, tap))


def loudness_of(source: Source, tap: str) -> float | None:
    """Return the loudness of a tap at the moment in LUFS, if it is sound."""
    if source.kind(tap) != "audio":
        return None
    return heard(source, tap).loudness_lufs(source.span.begin_s, source.span.end_s)


def lines(sound: Sound, seen: Excerpt, words: str, order: int, linear: bool, alone: bool) -> list[Trace]:
    """Return what there is to draw of a tap: alone and in dB, its RMS and its loudness beside its peak."""
    peak = peak_line(seen, "this", "peak" if alone and not linear else words, order, linear)
    if linear or not alone:
        return [peak]
    at = levels.moments(len(seen.signal))
    times = rounded(seen.begin_s + at / seen.rate, 4)
    first = round(seen.begin_s * sound.rate)
    rms = levels.in_db(levels.rms_course(seen.signal, seen.rate, at))
    loud = levels.loudness_course(sound.weighted_power[first : first + len(seen.signal)], seen.rate, at)
    return [
        peak,
        Trace(role="this", legend="RMS", xs=times, ys=[*rounded(rms, 2)], order=1),
        Trace(role="this", legend="loudness", xs=times, ys=[*rounded(np.maximum(loud, -90.0), 2)], order=2),
    ]


def peak_line(seen: Excerpt, role: Role, legend: str, order: int, linear: bool, moved_s: float = 0.0) -> Trace:
    """Return the course of a tap's amplitude; of what steers, drawn as it is, of its values."""
    at = levels.moments(len(seen.signal))
    if linear and seen.is_course:
        course = seen.signal[at]
    else:
        course = levels.peak_course(levels.amplitude(seen.signal, seen.rate, seen.cycle_hz), at)
        course = course if linear else levels.in_db(course)
    times = seen.begin_s + moved_s + at / seen.rate
    return Trace(role=role, legend=legend, xs=rounded(times, 4), ys=[*rounded(course, 4)], order=order)


def upright(traces: list[Trace], linear: bool) -> Axis:
    """Return the y axis."""
    if not linear:
        return Axis(label="Level", unit="dB", low=LOW_DB, high=HIGH_DB)
    size = max((value for trace in traces for value in trace.ys if value is not None), default=1.0)
    top = next((one for one in TOPS if one >= size), size * 1.05)
    return Axis(label="Value", unit="", low=-0.02 * top, high=top)


def gate_panel(sound: Sound, seen: Excerpt) -> Panel:
    """Return the gate, drawn beneath."""
    first = round(seen.begin_s * sound.rate)
    signal = sound.signal[first : first + len(seen.signal)]
    turns = np.flatnonzero(np.diff(signal)) + 1
    at = np.unique(np.concatenate([[0], turns - 1, turns, [len(signal) - 1]])) if len(signal) else np.zeros(0, int)
    values: Floats = signal[at]
    line = Trace(role="this", legend="gate", xs=rounded(seen.begin_s + at / sound.rate, 5), ys=[*rounded(values, 3)])
    return Panel(title="gate", y=Axis(label="Gate", unit="", low=-0.1, high=1.15), traces=[line], share=GATE_SHARE)


def marks(found: Stages | None, seen: Excerpt) -> list[Mark]:
    """Return where the stages end, those that can be told."""
    if found is None or found.wavers:
        return []
    peak_s = found.begin_s + (found.attack_s or 0.0)
    ends = [("attack", found.attack_s, peak_s)] if found.attack_s is not None else []
    if found.settles:
        ends.append(("decay", found.decay_s, peak_s + found.decay_s))
    if found.release_s is not None and found.closing_s is not None:
        ends.append(("release", found.release_s, found.closing_s + found.release_s))
    return [
        Mark(
            kind="stage",
            x=round(seen.begin_s + at, 5),
            y=None,
            text=f"{name} {time_text(seconds)}",
            words=f"end of the {name}",
        )
        for name, seconds, at in ends
        if seconds > shortest(found)
    ]


def difference(source: Source, against: Against, first: str, legend: str) -> str:
    """Return how loudness and stages differ from those of what stands behind."""
    parts = []
    here, there = excerpt(source, first), against.excerpt(first, first)
    now, then = loudness_of(source, first), loudness_behind(against, first)
    if now is not None and then is not None:
        if min(now, then) > SILENT_LUFS:
            parts.append(f"{signed(now - then)} LU")
        elif now != then:
            parts.append("no longer silent" if then == SILENT_LUFS else "silent now")
    if there is not None and here.stages and there.stages and not here.beating and not there.beating:
        parts += stage_differences(here.stages, there.stages)
    return f"Against {legend}: {', '.join(parts)}." if parts else f"Against {legend}: no difference in level or stages."


def loudness_behind(against: Against, first: str) -> float | None:
    """Return the loudness of what stands behind at the moment, if it is sound."""
    sound, span = against.sound(first, first), against.source.span
    if sound is None or against.source.kind(against.tap_behind(first, first)) != "audio":
        return None
    return sound.loudness_lufs(span.begin_s, span.end_s)


def stage_differences(here: Stages, there: Stages) -> list[str]:
    """Return which stages take longer or shorter, and what is held at another level; of what wavers, nothing."""
    if here.wavers or there.wavers:
        return []
    times = [("attack", here.attack_s, there.attack_s), ("release", here.release_s, there.release_s)]
    if here.settles and there.settles:
        times.insert(1, ("decay", here.decay_s, there.decay_s))
    parts = [
        f"{name} {time_text(now)} instead of {time_text(then)}"
        for name, now, then in times
        if now is not None and then is not None and abs(now - then) > max(0.002, 0.05 * then, shortest(here))
    ]
    if here.settles and there.settles and abs(here.sustain_db - there.sustain_db) > SUSTAIN_TOLD_DB:
        parts.append(f"held {below(here.sustain_db)} instead of {below(there.sustain_db)}")
    if here.ended != there.ended and not (here.held or there.held):
        parts.append("it ends now" if here.ended else "it no longer ends")
    return parts


def below(sustain_db: float) -> str:
    """Return how far below the top a level lies."""
    if sustain_db < NEVER_DB:
        return "not at all"
    return f"{trimmed(-sustain_db, 2)} dB below the top" if sustain_db < -0.05 else "at the top"


LENS = Lens(
    place=3,
    title="Level",
    view=LevelView,
    chart=chart,
    form=(
        Options("scale", "scale", (("fitting", "as it fits"), ("decibel", "dB"), ("linear", "linear"))),
        switch("gate", "gate"),
    ),
    moves_on=lambda view: True,
)
