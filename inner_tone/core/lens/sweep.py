"""The sweep lens: time against frequency, as levels, or the course of the pitch alone."""

from base64 import b64encode

import numpy as np

from inner_tone.core.analysis import sweep
from inner_tone.core.analysis.sentences.sweep import describe_sweep
from inner_tone.core.analysis.sentences.words import note_text
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.analysis.track import glide, vibrato
from inner_tone.core.lens.chart import Axis, Chart, Panel, Raster, Role, Trace, gapped, rounded
from inner_tone.core.lens.source import Against, Source, heard
from inner_tone.core.lens.view import SweepView
from inner_tone.core.units import trimmed

BEYOND_ST = 1.0
LEAST_SHARE = 0.2  # of the time there must be a pitch, to speak of one
EDGE = 5  # percent of the brightest and the dullest moments that do not count


def chart(view: SweepView, source: Source, against: Against | None) -> Chart:
    """Return the sweep lens's chart."""
    tap = view.taps[0]
    sound, other = heard(source, tap), against.sound(tap, tap) if against else None
    legend = against.legend if against else ""
    seconds = max(len(one.signal) / one.rate for one in (sound, other) if one)
    drawn = pitch_panels if view.show == "pitch" else level_panels
    return Chart(
        kind="sweep",
        taps=[tap],
        x=Axis(label="Time", unit="s", low=0.0, high=max(seconds, 0.01)),
        panels=drawn(view, sound, other, source.words(tap), legend),
        sentence=sentence(sound),
        difference=difference(sound, other, legend) if other else "",
    )


def level_panels(view: SweepView, sound: Sound, other: Sound | None, words: str, legend: str) -> list[Panel]:
    """Return the levels over time and frequency; what they are compared with stands beneath."""
    y = Axis(label="Frequency", unit="Hz", low=view.low_hz, high=view.high_hz, log=view.log)
    shown = [(words, sound), *([(legend, other)] if other else [])]
    return [Panel(title=title if other else "", y=y, raster=raster(view, one)) for title, one in shown]


def raster(view: SweepView, sound: Sound) -> Raster:
    """Return a sound's levels as bytes."""
    span = view.low_hz, view.high_hz, view.log, view.resolution
    if span == (sweep.USUAL_LOW_HZ, sweep.USUAL_HIGH_HZ, True, "balanced"):
        found = sound.usual_sweep
    else:
        found = sweep.sweep(
            sound.signal, sound.rate, resolution=view.resolution, low_hz=view.low_hz, high_hz=view.high_hz, log=view.log
        )
    high = 0.0
    scaled = np.clip((found.levels_db - view.floor_db) / (high - view.floor_db), 0.0, 1.0)
    rows, columns = scaled.shape
    levels = b64encode(np.round(255.0 * scaled).astype(np.uint8).tobytes()).decode()
    return Raster(columns=columns, rows=rows, low_db=view.floor_db, high_db=high, levels=levels)


def pitch_panels(view: SweepView, sound: Sound, other: Sound | None, words: str, legend: str) -> list[Panel]:
    """Return the pitch over time, in notes."""
    traces = [*([pitch_line(other, "compared", legend)] if other else []), pitch_line(sound, "this", words)]
    heard = [note for trace in traces for note in trace.ys if note is not None]
    low, high = (min(heard), max(heard)) if heard else (57.0, 69.0)
    y = Axis(label="Pitch", unit="note", low=np.floor(low - BEYOND_ST), high=np.ceil(high + BEYOND_ST))
    return [Panel(title="", y=y, traces=traces)]


def pitch_line(sound: Sound, role: Role, legend: str) -> Trace:
    """Return a sound's pitch over time as a line, broken where it has none."""
    track = sound.track
    return Trace(role=role, legend=legend, xs=rounded(track.times_s, 4), ys=gapped(track.notes, 4))


def note_of(sound: Sound) -> float | None:
    """Return the pitch of a sound as a fractional MIDI note, if it has one for long enough."""
    heard = sound.track.notes[np.isfinite(sound.track.notes)]
    return float(np.median(heard)) if len(heard) > LEAST_SHARE * len(sound.track.notes) else None


def sentence(sound: Sound) -> str:
    """Return what moves in a sound."""
    note = note_of(sound)
    moves = (vibrato(sound.track), glide(sound.track)) if note is not None else (None, None)
    return describe_sweep(note, *moves, brightness(sound))


def brightness(sound: Sound) -> tuple[float, float, float] | None:
    """Return the lowest and the highest middle of the spectrum in Hz, and by how many s the highest is later."""
    if len(sound.signal) == 0 or not np.any(np.abs(sound.signal) > 1e-5):
        return None
    times, middles = sound.brightness
    low, high = np.percentile(middles, (EDGE, 100 - EDGE))
    later = float(np.mean(times[middles >= high]) - np.mean(times[middles <= low]))
    return float(low), float(high), later


def difference(sound: Sound, other: Sound, legend: str) -> str:
    """Return how pitch and brightness differ from those of another sound."""
    here, there = brightness(sound), brightness(other)
    if here is None or there is None:
        return f"{legend.capitalize()} is silent." if there is None and here else ""
    middle, before = (one[0] * one[1] for one in (here, there))
    octaves = 0.5 * float(np.log2(middle / before))
    way = (
        "as bright"
        if abs(octaves) < 0.1
        else f"{trimmed(abs(octaves), 2)} octaves {'brighter' if octaves > 0 else 'darker'}"
    )
    note, old = note_of(sound), note_of(other)
    pitch = f", {note_text(note)} instead of {note_text(old)}" if note and old and abs(note - old) > 0.05 else ""
    return f"Against {legend}: {way}{pitch}."
