"""What is sure of pitch and noise: a fundamental, whether it is a pitch, and what is too slow for one."""

import numpy as np

from inner_tone.core.analysis import series as serial
from inner_tone.core.analysis.given import Given
from inner_tone.core.analysis.harmonics import Harmonics
from inner_tone.core.analysis.melody import Melody, Vibrato
from inner_tone.core.analysis.pitch import Repetition, repetition
from inner_tone.core.analysis.spectrum import Partial
from inner_tone.core.analysis.thresholds import (
    BLURRED_HZ,
    CLEARLY,
    CROWDED_NOISY,
    LEAST_SLOW_PARTIALS,
    NOISY,
    SLOW_CLEARLY,
    SLOW_HZ,
    SLOW_OFF_HZ,
    SURELY,
    WIDE_CENTS,
)


def repeated(rough: Repetition | None, swing: Vibrato | None, *, unison: bool, moving: bool) -> float | None:
    """Return how often a passage repeats, in Hz, where that is its pitch though its partials form no series.

    So it is with tones that nearly agree, and with a vibrato that was straightened and then clearly repeats.
    """
    swings = moving and swing is not None and swing.is_sure
    least = CLEARLY if swing is not None and swing.depth_cents > WIDE_CENTS else SURELY
    is_clear = rough is not None and rough.clarity > least
    return rough.hertz if rough and (unison or (swings and is_clear)) else None


def is_noise(tonal_share: float, harmonics: Harmonics | None) -> bool:
    """Tell whether a passage is noise, by how much of its power is tone: where harmonics stand close, that is less."""
    is_roomy = harmonics is None or harmonics.roomy
    return tonal_share < (NOISY if is_roomy else CROWDED_NOISY)


def slow_rate(given: Given, melody: Melody, partials: tuple[Partial, ...]) -> float | None:
    """Return how often a second a sound without a pitch repeats, where that is too slow for one, else None."""
    if melody.held:
        return None
    found = repetition(given.signal, given.rate)
    if found is None or found.hertz > SLOW_HZ or found.clarity < SLOW_CLEARLY:
        return None
    frequencies, _ = serial.arrays(serial.dominant(partials, found.hertz))
    if 0 < len(frequencies) < LEAST_SLOW_PARTIALS:
        return None
    if found.hertz < BLURRED_HZ:  # its partials lie too near to one another to be told apart
        return found.hertz
    off = np.abs(frequencies - found.hertz * np.round(frequencies / found.hertz))
    return found.hertz if np.all(off < SLOW_OFF_HZ) else None
