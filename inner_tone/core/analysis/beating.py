"""Beating: the regular swelling and fading of a sound, whether two near tones or a moving level bring it about."""

from dataclasses import dataclass

import numpy as np
import scipy

from inner_tone.core.analysis.swing import strongest_swing
from inner_tone.core.arrays import Floats

STEP_SECONDS = 0.002
CYCLES = 2.0
SMOOTHED_S = 0.01
TRIMMED = 0.05
SLOWEST_HZ, FASTEST_HZ = 0.25, 25.0
LEAST_TURNS = 1.7
LEAST_SHARE = 0.6
LEAST_LOOKS = 32
LEAST_DEPTH_DB = 0.5
PARTS = 48
DEEPEST = 1e-6
SEEN = 0.7  # of what is smoothed away: a faster swing could not be seen
LEAST_SWING = 0.01


@dataclass(frozen=True)
class Beating:
    """How often a second the level swells and fades, and by how many dB from trough to crest."""

    rate_hz: float
    depth_db: float


def beating(held_power: Floats, rate: float, fundamental_hz: float | None) -> Beating | None:
    """Return the beating of a held sound, given its power, shape (n,), or None if it does not move regularly.

    The power of two tones of amplitudes a and b moves between (a - b)² and (a + b)² as often as their
    frequencies differ: H. von Helmholtz, "On the sensations of tone", chapter 8.
    """
    course, step, smoothed_s = power_course(held_power, rate, fundamental_hz)
    edge = round(TRIMMED * len(course))
    course = course[edge : len(course) - edge]
    if len(course) < LEAST_LOOKS or np.max(course) <= 0.0:
        return None
    found = strongest_swing(course / float(np.mean(course)), step, SLOWEST_HZ, min(FASTEST_HZ, SEEN / smoothed_s))
    if found is None or found.turns < LEAST_TURNS or found.share < LEAST_SHARE or found.amplitude < LEAST_SWING:
        return None
    depth = depth_db(course, found.turns, float(np.sinc(found.rate_hz * smoothed_s)))
    return Beating(found.rate_hz, depth) if depth > LEAST_DEPTH_DB else None


def power_course(power: Floats, rate: float, fundamental_hz: float | None) -> tuple[Floats, float, float]:
    """Return a power in steps of some ms, the step, and over which time it is a mean, both in s."""
    cycles = max(CYCLES, np.ceil(SMOOTHED_S * fundamental_hz)) if fundamental_hz else 1.0
    seconds = cycles / fundamental_hz if fundamental_hz else SMOOTHED_S
    stride = max(1, round(STEP_SECONDS * rate))
    smooth = scipy.ndimage.uniform_filter1d(power, max(1, round(seconds * rate)), mode="constant")
    return np.asarray(smooth[::stride]), stride / rate, seconds


def depth_db(power: Floats, turns: float, weakened: float) -> float:
    """Return by how many dB a power moves that swings so many times: the mean of all swings, laid over one another.

    That it was smoothed has `weakened` its swings, which is made good.
    """
    place = np.arange(len(power)) * turns / len(power)
    whole = place < max(1.0, np.floor(turns))
    parts = np.minimum((place[whole] % 1.0 * PARTS).astype(int), PARTS - 1)
    swing = np.bincount(parts, power[whole], PARTS) / np.maximum(np.bincount(parts, minlength=PARTS), 1)
    swing = np.mean(swing) + (swing - np.mean(swing)) / weakened
    return 10.0 * float(np.log10(np.max(swing) / max(float(np.min(swing)), DEEPEST * float(np.max(swing)))))
