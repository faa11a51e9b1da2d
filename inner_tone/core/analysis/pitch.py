"""The fundamental frequency of a stretch of sound, and how clearly it repeats."""

from typing import NamedTuple

import numpy as np
import scipy

from inner_tone.core.arrays import Floats, Ints

LOWEST_HZ = 16.0  # of what is heard as a pitch
SLOWEST_HZ = 0.25  # of what repeats at all
LEAST_CLARITY = 0.5
NEAR_TOP = 0.93
SILENT_POWER = 1e-10
SHORTEST = 64
HIGH = 1.0 / 90.0  # of the rate: a cycle that has no more samples is looked at between them
FINER = 4
SCALES_S = (0.05, 0.2, 0.8, 4.0)  # how long a stretch is looked at: the shorter, the less does a movement blur it
AS_CLEAR = 0.02
SURE = 0.985  # no longer stretch is looked at then


class Repetition(NamedTuple):
    """How often a second a sound repeats, in Hz, and how clearly: 1 where each cycle is as the one before."""

    hertz: float
    clarity: float


def repetition(signal: Floats, rate: float) -> Repetition | None:
    """Return the repetition of a signal, shape (n,), looked at around its middle, or None if nothing repeats clearly.

    The shortest stretch that repeats about as clearly as any is taken. Any tone repeats within the longest stretches;
    a tone whose pitch moves does so within short ones only, and a slow one not within those.
    """
    found: list[Repetition] = []
    for seconds in SCALES_S:
        size = min(len(signal), round(seconds * rate))
        start = (len(signal) - size) // 2
        one = repetitions(signal[np.newaxis, start : start + size], rate, SLOWEST_HZ)[0]
        if one is not None:
            found.append(one)
        if size == len(signal) or (one is not None and one.clarity > SURE):
            break
    top = max((one.clarity for one in found), default=0.0)
    return next((one for one in found if one.clarity > top - AS_CLEAR), None)


def repetitions(passages: Floats, rate: float, lowest_hz: float = LOWEST_HZ) -> list[Repetition | None]:
    """Return how each of some passages, shape (passages, n), repeats, or None where it does not.

    The normalised square difference function and its first high peak, refined by a parabola: P. McLeod and
    G. Wyvill, "A smarter way to find pitch", ICMC 2005.
    """
    count, n = passages.shape
    if n < SHORTEST:
        return [None] * count
    passages = passages - np.mean(passages, axis=1, keepdims=True)
    longest = min(n // 2, int(rate / lowest_hz) + 2)
    size = scipy.fft.next_fast_len(n + longest, real=True)
    powers = np.abs(np.fft.rfft(passages, size)) ** 2
    squares = np.concatenate([np.zeros((count, 1)), np.cumsum(passages**2, axis=1)], axis=1)
    loud = squares[:, n] > n * SILENT_POWER
    high = loud & (np.argmax(powers, axis=1) > HIGH * size)
    found: list[Repetition | None] = [None] * count
    for finer, which in ((1, loud & ~high), (FINER, high)):
        chosen = np.flatnonzero(which)
        if len(chosen) == 0:
            continue
        lags = np.arange(longest * finer) / finer
        autocorrelation = np.fft.irfft(powers[chosen], size * finer)[:, : len(lags)] * finer
        energy = energy_at(squares[chosen], n, lags)
        similarity = 2.0 * autocorrelation / np.maximum(energy, 1e-12)
        places, peaks = first_high_peaks(similarity)
        for row, lag, height in zip(chosen[places], *peaks, strict=True):
            found[int(row)] = Repetition(rate * finer / float(lag), float(height))
    return found


def energy_at(squares: Floats, n: int, lags: Floats) -> Floats:
    """Return the power of both parts that are laid upon one another at lags, from running sums of squares."""
    whole = lags.astype(int)
    part = lags - whole
    first = squares[:, n - whole] * (1.0 - part) + squares[:, np.maximum(n - whole - 1, 0)] * part
    last = squares[:, whole] * (1.0 - part) + squares[:, np.minimum(whole + 1, n)] * part
    return np.asarray(first + squares[:, n : n + 1] - last)


def first_high_peaks(similarity: Floats) -> tuple[Ints, tuple[Floats, Floats]]:
    """Return which rows have a first peak near to their highest one after their first dip, its lag and its height.

    Lags have fractions, by a parabola through the peak and its neighbours.
    """
    if similarity.shape[1] < 3:
        return np.zeros(0, dtype=np.int64), (np.zeros(0), np.zeros(0))
    dips = np.argmax(similarity < 0.0, axis=1)
    has_dip = similarity[np.arange(len(similarity)), dips] < 0.0
    behind = np.where(np.arange(similarity.shape[1]) >= dips[:, np.newaxis], similarity, -np.inf)
    tops = np.max(behind, axis=1, keepdims=True)
    inner = behind[:, 1:-1]
    is_peak = (inner >= behind[:, :-2]) & (inner > behind[:, 2:]) & (inner > NEAR_TOP * tops)
    firsts = np.argmax(is_peak, axis=1)
    rows = np.flatnonzero(has_dip & (tops[:, 0] >= LEAST_CLARITY) & is_peak[np.arange(len(is_peak)), firsts])
    at = firsts[rows] + 1
    before, top, after = (similarity[rows, at + shift] for shift in (-1, 0, 1))
    bend = before - 2.0 * top + after
    shifts = np.clip(0.5 * (before - after) / np.where(bend == 0.0, np.inf, bend), -0.5, 0.5)
    return rows, (at + shifts, top - 0.25 * (before - after) * shifts)
