"""The level lens: peak, RMS and loudness over time."""

import numpy as np
import scipy

from inner_tone.core.analysis.loudness import BLOCK_SECONDS, OFFSET_LU
from inner_tone.core.arrays import Floats

POINTS = 700
RMS_SECONDS = 0.05
FLOOR_DB = -90.0
UNPITCHED_SECONDS = 0.01


def moments(count: int) -> Floats:
    """Return the samples, as many as a picture can show, at which a course is looked at."""
    return np.unique(np.linspace(0, max(0, count - 1), min(count, POINTS)).astype(int))


def amplitude(signal: Floats, rate: float, cycle_hz: float | None) -> Floats:
    """Return the course of a sound's amplitude, shape (n,): the greatest value within a cycle of its wave."""
    seconds = 1.0 / cycle_hz if cycle_hz else UNPITCHED_SECONDS
    found: Floats = scipy.ndimage.maximum_filter1d(np.abs(signal), max(1, round(seconds * rate)), mode="constant")
    return found


def peak_course(amplitude: Floats, at: Floats) -> Floats:
    """Return the greatest amplitude around each moment."""
    reach = max(1, len(amplitude) // POINTS)
    return np.asarray(scipy.ndimage.maximum_filter1d(amplitude, reach)[at])


def rms_course(signal: Floats, rate: float, at: Floats) -> Floats:
    """Return the RMS over 50 ms around each moment."""
    return np.sqrt(mean_around(signal**2, round(RMS_SECONDS * rate), at))


def loudness_course(weighted_power: Floats, rate: float, at: Floats) -> Floats:
    """Return the momentary loudness of ITU-R BS.1770 in LUFS around each moment: over 400 ms, without gates."""
    powers = mean_around(weighted_power, round(BLOCK_SECONDS * rate), at)
    return np.asarray(OFFSET_LU + 10.0 * np.log10(np.maximum(powers, 1e-12)))


def mean_around(values: Floats, size: int, at: Floats) -> Floats:
    """Return the mean of `size` values around each moment; what lies beyond the ends is zero."""
    running = np.concatenate([[0.0], np.cumsum(values)])
    first = np.clip(at - size // 2, 0, len(values))
    last = np.clip(at + size - size // 2, 0, len(values))
    return np.asarray((running[last] - running[first]) / size)


def in_db(values: Floats) -> Floats:
    """Return amplitudes in dB, none below the floor."""
    return np.maximum(20.0 * np.log10(np.maximum(np.abs(values), 1e-12)), FLOOR_DB)
