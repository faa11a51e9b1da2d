"""A sound measured as a whole: its pitch, partials, loudness, level, stages, and a sentence that says what it is."""

from dataclasses import dataclass

import numpy as np

from inner_tone.core.analysis.loudness import loudness_lufs
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.analysis.spectrum import Partial, partials_of, refined_fundamental
from inner_tone.core.analysis.stages import Stages
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.units import decibels

PASSAGE_SECONDS = 0.5


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
    found = partials_of(sound.passage(PASSAGE_SECONDS), rate, expected_hz or sound.rough_hz)
    pitch = refined_fundamental(found)
    return Measurement(
        pitch_hz=pitch,
        partials=found,
        loudness_lufs=loudness_lufs(channels, rate),
        peak_db=decibels(float(np.max(np.abs(channels), initial=0.0))),
        rms_db=decibels(float(np.sqrt(np.mean(channels**2))) if channels.size else 0.0),
        dc=float(np.mean(middle)) if len(middle) else 0.0,
        stages=sound.stages,
        sentence=sound.say_partials() if len(middle) else "Nothing: there are no samples.",
    )
