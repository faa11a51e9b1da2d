"""The wave lens: any number of taps over time, laid over one another or one below the other."""

from dataclasses import replace
from typing import Literal

import numpy as np

from inner_tone.core.analysis import wave
from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.analysis.sentences.wave import course_clauses, cycles_clauses
from inner_tone.core.arrays import Floats
from inner_tone.core.lens.chart import Axis, Chart, Panel, Role, Trace, rounded
from inner_tone.core.lens.lens import Lens, Options
from inner_tone.core.lens.source import Against, Source, excerpt
from inner_tone.core.lens.telling import seen_of, told
from inner_tone.core.lens.view import Cycles, Looking, Taps
from inner_tone.core.patch.port import Port
from inner_tone.core.units import decibels, trimmed

TOPS = (0.02, 0.05, 0.1, 0.2, 0.5, 1.05, 1.25, 1.5, 2.0, 5.0, 10.0, 20.0, 60.0, 120.0)
SILENT_DB = -100.0


class WaveView(Looking):
    """A signal over time: some cycles of its pitch, held still, or (0 cycles) its course through the moment.

    Held by another tap, it shows the same moments as the wave of that one, so that both can be compared.
    """

    kind: Literal["wave"] = "wave"
    taps: Taps
    cycles: Cycles = 3
    held_by: Port | None = None
    stacked: bool = False


def chart(view: WaveView, source: Source, against: Against | None) -> Chart:
    """Return the wave lens's chart."""
    first = view.taps[0]
    leader = leader_of(view, source, against)
    waves: dict[str, wave.Wave] = {tap: shown(view, excerpt(source, tap), leader) for tap in view.taps}
    behind = [other(view, against, tap, first, leader) for tap in view.taps]
    lines = [line(waves[tap], "this", source.words(tap), n, view) for n, tap in enumerate(view.taps)]
    legend = against.legend if against else ""
    back = [line(one, "compared", legend, n, view) if one else None for n, one in enumerate(behind)]
    drawn = [one for one in (*waves.values(), *behind) if one is not None]
    begin = 0.0 if view.cycles else waves[first].start_s

    def clauses(tap: str) -> list[Clause]:
        say = cycles_clauses if view.cycles else course_clauses
        return say(excerpt(source, tap), waves[tap])

    said, facts = told(source, view.taps, clauses)
    return Chart(
        kind="wave",
        taps=list(view.taps),
        x=Axis(label="Time", unit="s", low=begin, high=begin + max(one.seconds for one in drawn)),
        panels=panels(view, source, lines, back, drawn),
        sentence=said,
        difference=difference(waves[first], behind[0], legend),
        facts=facts,
        seen=seen_of(source, first, leader if view.cycles else None),
    )


def leader_of(view: WaveView, source: Source, against: Against | None) -> Excerpt:
    """Return the sound whose cycles hold the picture still; what goes in leads what comes out."""
    if view.held_by:
        return excerpt(source, view.held_by)
    if against and against.tap is not None:
        return excerpt(against.source, against.tap)
    return excerpt(source, view.taps[0])


def shown(view: WaveView, seen: Excerpt, leader: Excerpt) -> wave.Wave:
    """Return what a view shows of a sound: some cycles, or its course in times of the whole render."""
    if not view.cycles:
        found = wave.outline(seen.signal, seen.rate, frequency_hz=seen.cycle_hz)
        return replace(found, start_s=found.start_s + seen.begin_s)
    held = cycles_of(leader, view.cycles)
    return held if seen is leader else wave.stretch(seen.signal, seen.rate, held)


def cycles_of(seen: Excerpt, count: int) -> wave.Wave:
    """Return some cycles, held still: of what repeats slowly too, from the passage that is looked at on."""
    if seen.slow_hz:
        return wave.cycles(seen.signal, seen.rate, count, 0, seen.slow_hz)
    return wave.cycles(seen.signal[: seen.window.last], seen.rate, count, seen.window.first, seen.wave_hz)


def other(view: WaveView, against: Against | None, tap: str, first: str, leader: Excerpt) -> wave.Wave | None:
    """Return what stands behind a tap: at the same moments if it is of the same source, else held by its own pitch."""
    seen = against.excerpt(tap, first) if against else None
    if against is None or seen is None:
        return None
    return shown(view, seen, leader if against.tap is not None else against.excerpt(first, first) or seen)


def line(one: wave.Wave, role: Role, legend: str, order: int, view: WaveView) -> Trace:
    """Return a wave as a line, or as a band where a point stands for many samples."""
    count = len(one.highs)
    start = 0.0 if view.cycles else one.start_s
    xs = start + one.seconds * np.arange(count) / max(1, count - 1)
    lows = None if np.array_equal(one.lows, one.highs) else rounded(one.lows, 5)
    return Trace(role=role, legend=legend, xs=rounded(xs, 7), ys=[*rounded(one.highs, 5)], lows=lows, order=order)


def panels(
    view: WaveView, source: Source, lines: list[Trace], back: list[Trace | None], drawn: list[wave.Wave]
) -> list[Panel]:
    """Return one panel, or one for each tap."""
    if not view.stacked:
        behind = [one for one in back if one]
        shaded = len(lines) == 1 and bool(behind) and lines[0].lows is None
        return [Panel(title="", y=upright(drawn), traces=[*behind, *lines], shaded=shaded)]
    return [
        Panel(
            title=source.words(tap),
            y=upright(drawn),
            traces=[*([under] if under else []), over],
            shaded=over.lows is None,
        )
        for tap, over, under in zip(view.taps, lines, back, strict=True)
    ]


def upright(drawn: list[wave.Wave]) -> Axis:
    """Return the y axis on which all of some waves have room."""
    least = min((float(np.min(one.lows, initial=0.0)) for one in drawn), default=0.0)
    greatest = max((float(np.max(one.highs, initial=0.0)) for one in drawn), default=0.0)
    size = max(greatest, -least, 0.01)
    top = next((one for one in TOPS if one >= size), size * 1.05)
    return Axis(label="Value", unit="", low=-top if least < -0.001 else -0.02 * top, high=top)


def difference(here: wave.Wave, there: wave.Wave | None, legend: str) -> str:
    """Return by how much a wave is louder or softer than another."""
    if there is None or not len(here.highs) or not len(there.highs):
        return ""
    now, then = strength(here), strength(there)
    if max(now[0], then[0]) < SILENT_DB:
        return f"As silent as {legend}."
    if min(now[0], then[0]) < SILENT_DB:
        return (
            f"{legend.capitalize()}: silence."
            if then[0] < SILENT_DB
            else f"Silent now; {legend} peaks at {trimmed(then[0], 2)} dB."
        )
    return f"Against {legend}: peak {signed(now[0] - then[0])} dB, RMS {signed(now[1] - then[1])} dB."


def strength(one: wave.Wave) -> tuple[float, float]:
    """Return the peak and the RMS of a wave in dB; of a band, those of its greater side."""
    size: Floats = np.maximum(np.abs(one.lows), np.abs(one.highs))
    return decibels(float(np.max(size))), decibels(float(np.sqrt(np.mean(size**2))))


def signed(value: float) -> str:
    """Return a difference with its sign."""
    return "±0" if abs(value) < 0.05 else f"+{trimmed(value, 2)}" if value > 0 else trimmed(value, 2)


LENS = Lens(
    place=1,
    title="Wave",
    view=WaveView,
    chart=chart,
    needs=lambda view, graph: (*view.taps, *([view.held_by] if view.held_by else [])),
    form=(
        Options("cycles", "shows", ((1, "1 cycle"), (3, "3"), (8, "8"), (24, "24"), (0, "all of it"))),
        Options("stacked", "taps", ((False, "overlaid"), (True, "stacked"))),
    ),
    over_phrase={"cycles": 0},
    moves_on=lambda view: view.cycles == 0,
    holds=lambda view: (view.held_by or view.taps[0], view.cycles) if view.cycles else None,
)
