"""The sweep lens: time against frequency, as levels, or the course of the pitch alone."""

from base64 import b64encode
from typing import Literal

import numpy as np

from inner_tone.core.analysis import sweep
from inner_tone.core.analysis.brightness import Brightness, brightness_of
from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.analysis.sentences.sweep import SAME_ST, sweep_clauses
from inner_tone.core.analysis.sentences.words import note_text
from inner_tone.core.analysis.sweep import USUAL_HIGH_HZ, USUAL_LOW_HZ, Resolution
from inner_tone.core.lens.chart import Axis, Chart, Panel, Raster, Role, Trace, gapped, rounded
from inner_tone.core.lens.lens import SPAN_FORM, Lens, Options
from inner_tone.core.lens.source import Against, Source, excerpt
from inner_tone.core.lens.telling import seen_of, told
from inner_tone.core.lens.view import Floor, Hertz, OneTap, Spanned
from inner_tone.core.units import trimmed

BEYOND_ST = 1.0


class SweepView(Spanned):
    """Time against frequency, as levels or as the course of the pitch."""

    kind: Literal["sweep"] = "sweep"
    taps: OneTap
    low_hz: Hertz = USUAL_LOW_HZ
    high_hz: Hertz = USUAL_HIGH_HZ
    floor_db: Floor = -70.0
    resolution: Resolution = "balanced"
    show: Literal["levels", "pitch"] = "levels"


def chart(view: SweepView, source: Source, against: Against | None) -> Chart:
    """Return the sweep lens's chart."""
    tap = view.taps[0]
    seen, other = excerpt(source, tap), against.excerpt(tap, tap) if against else None
    legend = against.legend if against else ""
    seconds = max(one.seconds for one in (seen, other) if one)
    drawn = pitch_panels if view.show == "pitch" else level_panels
    said, facts = told(source, [tap], lambda _: sweep_clauses(seen, brightness_in(seen)))
    return Chart(
        kind="sweep",
        taps=[tap],
        x=Axis(label="Time", unit="s", low=seen.begin_s, high=seen.begin_s + max(seconds, 0.01)),
        panels=drawn(view, seen, other, source.words(tap), legend),
        sentence=said,
        difference=difference(seen, other, legend) if other else "",
        facts=facts,
        seen=seen_of(source, tap),
    )


def level_panels(view: SweepView, seen: Excerpt, other: Excerpt | None, words: str, legend: str) -> list[Panel]:
    """Return the levels over time and frequency; what they are compared with stands beneath."""
    y = Axis(label="Frequency", unit="Hz", low=view.low_hz, high=view.high_hz, log=view.log)
    longest = max(one.seconds for one in (seen, other) if one)
    shown = [(words, seen), *([(legend, other)] if other else [])]
    return [Panel(title=title if other else "", y=y, raster=raster(view, one, longest)) for title, one in shown]


def raster(view: SweepView, seen: Excerpt, seconds: float) -> Raster:
    """Return a sound's levels over so many seconds as bytes; where it has ended, there is nothing."""
    signal = np.pad(seen.signal, (0, max(0, round(seconds * seen.rate) - len(seen.signal))))
    found = sweep.sweep(
        signal, seen.rate, resolution=view.resolution, low_hz=view.low_hz, high_hz=view.high_hz, log=view.log
    )
    high = 0.0
    scaled = np.clip((found.levels_db - view.floor_db) / (high - view.floor_db), 0.0, 1.0)
    rows, columns = scaled.shape
    levels = b64encode(np.round(255.0 * scaled).astype(np.uint8).tobytes()).decode()
    return Raster(columns=columns, rows=rows, low_db=view.floor_db, high_db=high, levels=levels)


def pitch_panels(view: SweepView, seen: Excerpt, other: Excerpt | None, words: str, legend: str) -> list[Panel]:
    """Return the pitch over time, in notes."""
    lines = [pitch_line(other, "compared", legend, seen.begin_s)] if other else []
    traces = [*lines, pitch_line(seen, "this", words, seen.begin_s)]
    heard = [note for trace in traces for note in trace.ys if note is not None]
    low, high = (min(heard), max(heard)) if heard else (57.0, 69.0)
    y = Axis(label="Pitch", unit="note", low=np.floor(low - BEYOND_ST), high=np.ceil(high + BEYOND_ST))
    return [Panel(title="", y=y, traces=traces)]


def pitch_line(seen: Excerpt, role: Role, legend: str, begin_s: float) -> Trace:
    """Return a sound's pitch over time as a line, broken where it has none."""
    track = seen.track
    return Trace(role=role, legend=legend, xs=rounded(begin_s + track.times_s, 4), ys=gapped(track.notes, 4))


def brightness_in(seen: Excerpt) -> Brightness | None:
    """Return what the brightness of a sound does, if it sounds."""
    return None if seen.is_silent else brightness_of(seen.usual_sweep, steady=not seen.is_noise)


def only_note(seen: Excerpt) -> float | None:
    """Return the pitch of a sound that has one throughout, where it is told to the cent."""
    low, high = seen.span
    stays = seen.melody.vibrato is not None or high - low < SAME_ST
    return seen.note if seen.has_pitch and stays and not seen.is_driven else None


def difference(seen: Excerpt, other: Excerpt, legend: str) -> str:
    """Return how pitch and brightness differ from those of another sound."""
    here, there = brightness_in(seen), brightness_in(other)
    if here is None or there is None:
        return f"{legend.capitalize()} is silent." if there is None and here else ""
    middle, before = (one.low_hz * one.high_hz for one in (here, there))
    octaves = 0.5 * float(np.log2(middle / before))
    way = (
        "as bright"
        if abs(octaves) < 0.1
        else f"{trimmed(abs(octaves), 2)} octaves {'brighter' if octaves > 0 else 'darker'}"
    )
    note, old = only_note(seen), only_note(other)
    pitch = f", {note_text(note)} instead of {note_text(old)}" if note and old and abs(note - old) > 0.05 else ""
    return f"Against {legend}: {way}{pitch}."


LENS = Lens(
    place=4,
    title="Sweep",
    view=SweepView,
    chart=chart,
    form=(
        Options("show", "shows", (("levels", "levels"), ("pitch", "pitch alone"))),
        Options("resolution", "sharp in", (("time", "time"), ("balanced", "both"), ("pitch", "frequency"))),
        *SPAN_FORM,
    ),
    heard=True,
    moves_on=lambda view: True,
)
