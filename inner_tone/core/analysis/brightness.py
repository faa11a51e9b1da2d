"""Brightness: where the middle of a spectrum lies, and how that moves."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
import scipy

from inner_tone.core.analysis.sweep import Sweep
from inner_tone.core.analysis.swing import strongest_swing
from inner_tone.core.arrays import Floats

LOUD = 0.1
CALM_SECONDS, NOISY_CALM_SECONDS = 0.06, 0.3
MOVES_OCTAVES = 0.45
EDGE = 5  # percent of the brightest and the dullest moments that do not count
SLOWEST_HZ, FASTEST_HZ = 0.3, 8.0
LEAST_SHARE, LEAST_TURNS, LEAST_LOOKS = 0.7, 1.7, 24
PARTS = 12
SMALL = 0.06

BrightnessCourse = Literal["stays", "rises", "falls", "swings", "moves"]


@dataclass(frozen=True)
class Brightness:
    """What the middle of a spectrum does between its lowest and its highest, in Hz; how often a second it swings."""

    kind: BrightnessCourse
    low_hz: float
    high_hz: float
    rate_hz: float = 0.0


def course(found: Sweep, calm_s: float) -> tuple[Floats, Floats]:
    """Return times in s and the middle of the spectrum there in Hz, over some time, where the sound is loud.

    It is the mean of the logarithm of frequency, weighted by amplitude.
    """
    amplitudes = 10.0 ** (found.levels_db / 20.0)
    strength = np.sum(amplitudes, axis=0)
    loud = strength > LOUD * np.max(strength, initial=1e-4)
    step = float(found.times_s[1] - found.times_s[0]) if len(found.times_s) > 1 else calm_s
    middle = np.exp(np.log(found.frequencies_hz) @ amplitudes[:, loud] / strength[loud])
    return found.times_s[loud], np.exp(scipy.ndimage.uniform_filter1d(np.log(middle), max(1, round(calm_s / step))))


def brightness_of(found: Sweep, *, steady: bool = True) -> Brightness | None:
    """Return what the brightness does; nothing where there is no sound. That of a noise is not `steady`."""
    times, middles = course(found, CALM_SECONDS if steady else NOISY_CALM_SECONDS)
    if len(middles) == 0:
        return None
    octaves = np.log2(middles)
    low, high = (float(one) for one in 2.0 ** np.percentile(octaves, (EDGE, 100 - EDGE)))
    if high < low * 2.0**MOVES_OCTAVES:
        return Brightness("stays", low, high)
    step = float(np.median(np.diff(times))) if len(times) > 1 else 1.0
    swing = strongest_swing(octaves, step, SLOWEST_HZ, FASTEST_HZ) if len(octaves) >= LEAST_LOOKS else None
    if swing and swing.turns > LEAST_TURNS and swing.share > LEAST_SHARE:
        return Brightness("swings", low, high, swing.rate_hz)
    return Brightness(way_of(octaves), low, high)


def way_of(octaves: Floats) -> BrightnessCourse:
    """Return whether what moves goes one way, and which: small steps back are let pass."""
    parts = np.array([np.median(part) for part in np.array_split(octaves, min(PARTS, len(octaves)))])
    steps = np.diff(parts)
    steps = steps[np.abs(steps) > SMALL * np.ptp(parts)]
    if len(steps) and np.all(steps > 0.0):
        return "rises"
    if len(steps) and np.all(steps < 0.0):
        return "falls"
    return "moves"
