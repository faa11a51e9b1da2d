"""The wave lens: any number of taps over time, laid over one another or one below the other."""

import numpy as np

from inner_tone.core.analysis import wave
from inner_tone.core.analysis.sentences.wave import describe_course, describe_cycles
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.lens.chart import Axis, Chart, Panel, Role, Trace, rounded
from inner_tone.core.lens.source import Against, Source, heard
from inner_tone.core.lens.view import WaveView
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.units import decibels, trimmed

TOPS = (0.02, 0.05, 0.1, 0.2, 0.5, 1.05, 1.25, 1.5, 2.0, 5.0, 10.0, 20.0, 60.0, 120.0)
SILENT_DB = -100.0


def chart(view: WaveView, source: Source, against: Against | None) -> Chart:
    """Return the wave lens's chart."""
    first = view.taps[0]
    leader = leader_of(view, source, against)
    waves = [shown(view, heard(source, tap), leader) for tap in view.taps]
    behind = [other(view, against, tap, first, leader) for tap in view.taps]
    lines = [
        line(one, "this", source.words(tap), n, view) for n, (tap, one) in enumerate(zip(view.taps, waves, strict=True))
    ]
    legend = against.legend if against else ""
    back = [line(one, "compared", legend, n, view) if one else None for n, one in enumerate(behind)]
    drawn = [one for one in (*waves, *behind) if one is not None]
    begin = 0.0 if view.cycles else waves[0].start_s
    x = Axis(label="Time", unit="s", low=begin, high=begin + max(one.seconds for one in drawn))
    say = describe_cycles if view.cycles else describe_course
    return Chart(
        kind="wave",
        taps=list(view.taps),
        x=x,
        panels=panels(view, source, lines, back, drawn),
        sentence=say(waves[0]),
        difference=difference(waves[0], behind[0], legend),
    )


def leader_of(view: WaveView, source: Source, against: Against | None) -> Sound:
    """Return the sound whose cycles hold the picture still; what goes in leads what comes out."""
    if view.held_by:
        return heard(source, view.held_by)
    if against and against.tap is not None:
        return heard(against.source, against.tap)
    return heard(source, view.taps[0])


def shown(view: WaveView, sound: Sound, leader: Sound) -> wave.Wave:
    """Return what a view shows of a sound."""
    if view.cycles:
        return sound.cycles(view.cycles, leader)
    return wave.outline(sound.signal, sound.rate, view.begin_s or 0.0, view.end_s, sound.fundamental_hz)


def other(view: WaveView, against: Against | None, tap: str, first: str, leader: Sound) -> wave.Wave | None:
    """Return what stands behind a tap: at the same moments if it is of the same source, else held by its own pitch."""
    sound = against.sound(tap, first) if against else None
    if against is None or sound is None:
        return None
    return shown(view, sound, leader if against.tap is not None else against.source.sound(first) or sound)


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
