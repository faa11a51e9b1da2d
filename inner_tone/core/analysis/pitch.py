"""The fundamental frequency of a stretch of sound."""

import numpy as np
from scipy.fft import next_fast_len

from inner_tone.core.modules.kernel import Floats

LOWEST_HZ = 16.0
CLARITY = 0.5
SILENT_POWER = 1e-10
SHORTEST = 64


def fundamental_hz(signal: Floats, rate: float) -> float | None:
    """Return the fundamental frequency in Hz of a signal, shape (n,), or None if it repeats nowhere clearly."""
    return fundamentals_hz(signal[np.newaxis], rate)[0]


def fundamentals_hz(passages: Floats, rate: float) -> list[float | None]:
    """Return the fundamental frequency in Hz of each of some passages, shape (passages, n), or None.

    The normalised square difference function and its first high peak, refined by a parabola: P. McLeod and
    G. Wyvill, "A smarter way to find pitch", ICMC 2005.
    """
    count, n = passages.shape
    if n < SHORTEST:
        return [None] * count
    passages = passages - np.mean(passages, axis=1, keepdims=True)
    size = next_fast_len(n + min(n // 2, int(rate / LOWEST_HZ) + 2), real=True)
    spectra = np.fft.rfft(passages, size)
    lags = np.arange(min(n // 2, int(rate / LOWEST_HZ) + 2))
    autocorrelation = np.fft.irfft(spectra * np.conj(spectra), size)[:, : len(lags)]
    squares = np.concatenate([np.zeros((count, 1)), np.cumsum(passages**2, axis=1)], axis=1)
    energy = squares[:, n - lags] + squares[:, n : n + 1] - squares[:, lags]
    similarity = 2.0 * autocorrelation / np.maximum(energy, 1e-12)
    loud = squares[:, n] > n * SILENT_POWER
    found = [first_high_peak(similarity[k]) if loud[k] else None for k in range(count)]
    return [rate / lag if lag else None for lag in found]


def first_high_peak(similarity: Floats) -> float | None:
    """Return the lag, with fractions, of the first peak near to the highest one after the first dip."""
    below = np.flatnonzero(similarity < 0.0)
    if len(below) == 0:
        return None
    start = int(below[0])
    rest = similarity[start:]
    if len(rest) < 3 or np.max(rest) < CLARITY:
        return None
    inner = rest[1:-1]
    peaks = np.flatnonzero((inner >= rest[:-2]) & (inner > rest[2:]) & (inner > 0.93 * np.max(rest))) + 1
    if len(peaks) == 0:
        return None
    at = start + int(peaks[0])
    return at + parabola(similarity[at - 1], similarity[at], similarity[at + 1])


def parabola(before: float, top: float, after: float) -> float:
    """Return where, from -0.5 to 0.5, a parabola through three equidistant points is highest."""
    bend = before - 2.0 * top + after
    return 0.0 if bend == 0.0 else float(np.clip(0.5 * (before - after) / bend, -0.5, 0.5))
