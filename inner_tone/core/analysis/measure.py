"""A sound measured as a whole: its pitch, partials, loudness, level, stages, and a sentence that says what it is."""

from dataclasses import dataclass

import numpy as np

from inner_tone.core.analysis.loudness import loudness_lufs
from inner_tone.core.analysis.partials import sinusoids, window
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.analysis.spectrum import Partial, numbered, refined_fundamental
from inner_tone.core.analysis.stages import Stages, amplitude_of, stages
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.units import midi_of

PASSAGE_SECONDS = 0.5
SILENT_DB = -120.0
GRAIN_CYCLES = 1.5
LEAST_GRAIN_S = 0.004


@dataclass(frozen=True)
class Measurement:
    """What was measured of a sound. Levels are in dB, 0 for a sine of amplitude 1; without a pitch it is None."""

    pitch_hz: float | None
    partials: tuple[Partial, ...]
    loudness_lufs: float
    peak_db: float
    rms_db: float
    dc: float
    stages: Stages | None
    sentence: str


def measured(channels: Floats, rate: float, expected_hz: float | None = None) -> Measurement:
    """Return what there is to measure of a sound.

    Parameters
    ----------
    channels
        Shape (channels, n), full scale 1; pitch and stages are those of their middle.
    rate
        The sampling rate in Hz.
    expected_hz
        The fundamental in Hz, if it is known: the partials are numbered by it.
    """
    middle = np.mean(channels, axis=0)
    sound = Sound(middle, rate)
    found = partials_of(sound, rate, expected_hz)
    pitch = refined_fundamental(found)
    cycle = 1.0 / pitch if pitch else 0.0
    return Measurement(
        pitch_hz=pitch,
        partials=found,
        loudness_lufs=loudness_lufs(channels, rate),
        peak_db=decibels(float(np.max(np.abs(channels), initial=0.0))),
        rms_db=decibels(float(np.sqrt(np.mean(channels**2))) if channels.size else 0.0),
        dc=float(np.mean(middle)) if len(middle) else 0.0,
        stages=stages(amplitude_of(middle, rate, pitch), rate, grain_s=max(LEAST_GRAIN_S, GRAIN_CYCLES * cycle)),
        sentence=sound.say_spectrum() if len(middle) else "Nothing: there are no samples.",
    )


def partials_of(sound: Sound, rate: float, expected_hz: float | None) -> tuple[Partial, ...]:
    """Return the partials of a sound's steadiest half second, or of all of a shorter one, numbered."""
    size = min(round(PASSAGE_SECONDS * rate), len(sound.signal) - sound.start)
    if size < len(window(16)) or not np.any(sound.signal):
        return ()
    passage = sound.signal[sound.start : sound.start + size]
    found = [
        Partial(one.bin * rate / size, decibels(abs(one.amplitude)), midi_of(one.bin * rate / size), 0)
        for one in sinusoids(passage)
    ]
    return numbered(tuple(found), expected_hz or sound.rough_hz)


def decibels(amplitude: float) -> float:
    """Return an amplitude in dB."""
    return max(SILENT_DB, 20.0 * float(np.log10(max(amplitude, 1e-12))))
