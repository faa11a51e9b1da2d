"""The fundamental frequency of a stretch of sound."""

import numpy as np

from inner_tone.core.modules.kernel import Floats

LOWEST_HZ = 16.0
CLARITY = 0.5
SILENT_POWER = 1e-10


def fundamental_hz(signal: Floats, rate: float) -> float | None:
    """Return the fundamental frequency in Hz of a signal, shape (n,), or None if it repeats nowhere clearly.

    The normalised square difference function and its first high peak, refined by a parabola: P. McLeod and
    G. Wyvill, "A smarter way to find pitch", ICMC 2005.
    """
    signal = signal - np.mean(signal)
    n = len(signal)
    if n < 64 or float(np.mean(signal**2)) < SILENT_POWER:
        return None
    size = 1 << (2 * n - 1).bit_length()
    spectrum = np.fft.rfft(signal, size)
    autocorrelation = np.fft.irfft(spectrum * np.conj(spectrum), size)[:n]
    squares = np.cumsum(signal**2)
    lags = np.arange(n)
    energy = squares[n - 1 - lags] + squares[-1] - np.concatenate(([0.0], squares[: n - 1]))
    similarity = 2.0 * autocorrelation / np.maximum(energy, 1e-12)
    similarity = similarity[: min(n // 2, int(rate / LOWEST_HZ) + 2)]
    lag = first_high_peak(similarity)
    return rate / lag if lag else None


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
