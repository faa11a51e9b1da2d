"""Loudness as it is heard: ITU-R BS.1770-4, "Algorithms to measure audio programme loudness" (2015).

Each channel is weighted for the ear by two filters, its power averaged over blocks of 400 ms that overlap by three
quarters; blocks below −70 LUFS, and then those more than 10 LU below the mean of the rest, do not count.
"""

import math

import numpy as np
import scipy
from numpy.typing import NDArray

from inner_tone.core.arrays import Floats

BLOCK_SECONDS = 0.4
HOPS = 4
ABSOLUTE_GATE_LUFS = -70.0
RELATIVE_GATE_LU = -10.0
SILENT_LUFS = -120.0
OFFSET_LU = -0.691

# The analogue prototypes behind the coefficients that the standard gives for 48 kHz: a shelf for the head, and a
# high-pass. Carried over by the bilinear transform they give those coefficients again, and others at other rates.
SHELF_HZ, SHELF_DB, SHELF_Q = 1681.974450955533, 3.999843853973347, 0.7071752369554196
HIGHPASS_HZ, HIGHPASS_Q = 38.13547087602444, 0.5003270373238773
SHELF_BEND = 0.4996667741545416  # how far up the shelf's gain its middle lies

Biquad = tuple[Floats, Floats]


def shelf(rate: float) -> Biquad:
    """Return the numerator and the denominator of the first filter at a sampling rate in Hz."""
    k = math.tan(math.pi * SHELF_HZ / rate)
    high = 10.0 ** (SHELF_DB / 20.0)
    middle = high**SHELF_BEND
    a0 = 1.0 + k / SHELF_Q + k * k
    b = [high + middle * k / SHELF_Q + k * k, 2.0 * (k * k - high), high - middle * k / SHELF_Q + k * k]
    return np.array(b) / a0, np.array([a0, 2.0 * (k * k - 1.0), 1.0 - k / SHELF_Q + k * k]) / a0


def highpass(rate: float) -> Biquad:
    """Return the numerator and the denominator of the second filter at a sampling rate in Hz."""
    k = math.tan(math.pi * HIGHPASS_HZ / rate)
    a0 = 1.0 + k / HIGHPASS_Q + k * k
    return np.array([1.0, -2.0, 1.0]), np.array([a0, 2.0 * (k * k - 1.0), 1.0 - k / HIGHPASS_Q + k * k]) / a0


def weighted(channels: Floats, rate: float) -> Floats:
    """Return channels, shape (channels, n), as the ear weighs them."""
    for b, a in (shelf(rate), highpass(rate)):
        channels = np.asarray(scipy.signal.lfilter(b, a, channels, axis=-1), dtype=np.float64)
    return channels


def weighted_power(channels: Floats, rate: float) -> Floats:
    """Return the power of channels, shape (channels, n), as the ear weighs them, all together: shape (n,)."""
    return np.asarray(np.sum(weighted(channels, rate) ** 2, axis=0))


def block_powers(power: Floats, rate: float) -> Floats:
    """Return the mean power of each block of 400 ms, shape (blocks,); of all of a shorter sound."""
    size = round(BLOCK_SECONDS * rate)
    if len(power) <= size:
        return np.array([float(np.mean(power))]) if len(power) else np.zeros(1)
    running = np.concatenate([[0.0], np.cumsum(power)])
    starts = np.arange(0, len(power) - size + 1, size // HOPS)
    powers: Floats = (running[starts + size] - running[starts]) / size
    return powers


def lufs(power: float) -> float:
    """Return a power as loudness in LUFS."""
    return OFFSET_LU + 10.0 * math.log10(power) if power > 0.0 else SILENT_LUFS


def loudness_lufs(channels: NDArray[np.floating], rate: float) -> float:
    """Return the integrated loudness of a sound in LUFS.

    Parameters
    ----------
    channels
        Shape (n,) or (channels, n); one or two channels, full scale 1.
    rate
        The sampling rate in Hz.
    """
    return integrated(weighted_power(np.atleast_2d(np.asarray(channels, dtype=np.float64)), rate), rate)


def integrated(power: Floats, rate: float) -> float:
    """Return the integrated loudness in LUFS of a weighted power, shape (n,), gated as the standard has it."""
    powers = block_powers(power, rate)
    counted = powers[powers > power_of(ABSOLUTE_GATE_LUFS)]
    if len(counted) == 0:
        return SILENT_LUFS
    gate = power_of(lufs(float(np.mean(counted))) + RELATIVE_GATE_LU)
    return lufs(float(np.mean(counted[counted > gate])))


def power_of(loudness: float) -> float:
    """Return the power that has a loudness in LUFS."""
    found: float = 10.0 ** ((loudness - OFFSET_LU) / 10.0)
    return found
