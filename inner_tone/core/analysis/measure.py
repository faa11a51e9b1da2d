"""A sound measured as a whole: its pitch, partials, loudness, level, stages, and a sentence that says what it is."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from inner_tone.core.analysis.loudness import loudness_lufs
from inner_tone.core.analysis.sentences.clause import facts_of, sentence
from inner_tone.core.analysis.sentences.spectrum import spectrum_clauses
from inner_tone.core.analysis.series import exactness
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.analysis.spectrum import Partial, numbered
from inner_tone.core.analysis.stages import Stages
from inner_tone.core.arrays import Floats
from inner_tone.core.units import decibels

NEAR_BINS = 10.0  # what is to be numbered by a note that was expected may be out of tune


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
    facts: dict[str, Any]


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
    seen = Sound(middle, rate).whole
    clauses = spectrum_clauses(seen) if len(middle) else []
    found = () if seen.is_silent or seen.is_noise else seen.partials
    if expected_hz is not None:
        found = numbered(found, expected_hz, exactness(NEAR_BINS * rate / max(1, len(seen.straight)), True).of)
    return Measurement(
        pitch_hz=None if seen.is_silent or seen.is_noise else seen.fundamental_hz,
        partials=found,
        loudness_lufs=loudness_lufs(channels, rate),
        peak_db=decibels(float(np.max(np.abs(channels), initial=0.0))),
        rms_db=decibels(float(np.sqrt(np.mean(channels**2))) if channels.size else 0.0),
        dc=float(np.mean(middle)) if len(middle) else 0.0,
        stages=seen.stages,
        sentence=sentence(clauses) if clauses else "Nothing: there are no samples.",
        facts=facts_of(clauses),
    )
