"""The spectrum lens: level against frequency, and the partials in it."""

import math
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal

import numpy as np
from scipy.signal import get_window

from inner_tone.core.analysis.partials import sinusoids
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.units import decibels, midi_of

Window = Literal["blackman-harris", "hann", "hamming", "flat-top", "rectangular"]
Over = Literal["passage", "mean", "peak"]

# The windows by the names of the trade, and what SciPy calls them.
WINDOWS: dict[Window, str] = {
    "blackman-harris": "blackmanharris",
    "hann": "hann",
    "hamming": "hamming",
    "flat-top": "flattop",
    "rectangular": "boxcar",
}
WINDOW_SECONDS = 0.5
FLOOR_DB = -120.0
PARTIAL_FLOOR_DB = -70.0  # below the strongest
MOST_PARTIALS = 64
HARMONIC_TOLERANCE = 0.02
LEAST_FILLED = 0.2
LEAST_SHARE = 0.5
LOWEST_HZ = 20.0
HIGHEST_HZ = 20_000.0
PLOT_POINTS = 700
SHORTEST = 16


@dataclass(frozen=True)
class Partial:
    """One sinusoid in a sound; `number` is its place in the harmonic series, 0 if it has none."""

    frequency_hz: float
    level_db: float
    midi: float
    number: int


@lru_cache(maxsize=16)
def weights(name: Window, size: int) -> Floats:
    """Return a window by its name, shape (size,), periodic."""
    found: Floats = get_window(WINDOWS[name], size, fftbins=True)
    return found


def levels(signal: Floats, size: int, window: Window = "blackman-harris") -> Floats:
    """Return the level in dB of each bin, shape (size // 2 + 1,), of a signal that is no longer than `size`.

    A sine of amplitude 1 has 0 dB. A shorter signal has a window of its own length, so its edges do not ring.
    """
    if len(signal) == 0:
        return np.full(size // 2 + 1, FLOOR_DB)
    weight = weights(window, len(signal))
    magnitudes = np.abs(np.fft.rfft((signal - np.mean(signal)) * weight, size)) * 2.0 / np.sum(weight)
    return np.maximum(20.0 * np.log10(np.maximum(magnitudes, 1e-12)), FLOOR_DB)


def window_size(rate: float) -> int:
    """Return how many samples a spectrum is taken from: the power of two nearest to half a second."""
    return 1 << round(math.log2(WINDOW_SECONDS * rate))


def averaged(signal: Floats, size: int, over: Over, window: Window = "blackman-harris") -> Floats:
    """Return levels in dB over passages that overlap by half: the mean of their powers, or the peak of each bin.

    The mean is P. D. Welch's: "The use of fast Fourier transform for the estimation of power spectra", IEEE Trans.
    Audio Electroacoust. 15 (1967).
    """
    starts = range(0, max(1, len(signal) - size // 2), size // 2)
    every = np.stack([levels(signal[start : start + size], size, window) for start in starts])
    if over == "peak":
        return np.asarray(np.max(every, axis=0))
    return np.asarray(10.0 * np.log10(np.mean(10.0 ** (every / 10.0), axis=0)))


def partials_of(passage: Floats, rate: float, fundamental_hz: float | None) -> tuple[Partial, ...]:
    """Return the partials of a passage, strongest 64, in order of frequency, numbered by a fundamental."""
    if len(passage) < SHORTEST or not np.any(passage):
        return ()
    width = rate / len(passage)
    found = [
        Partial(one.bin * width, decibels(abs(one.amplitude)), midi_of(one.bin * width), 0)
        for one in sinusoids(passage)
        if one.bin * width >= LOWEST_HZ * 0.9
    ]
    top = max((one.level_db for one in found), default=0.0)
    loud = sorted((one for one in found if one.level_db > top + PARTIAL_FLOOR_DB), key=lambda one: -one.level_db)
    return numbered(tuple(sorted(loud[:MOST_PARTIALS], key=lambda one: one.frequency_hz)), fundamental_hz)


def numbered(found: tuple[Partial, ...], fundamental_hz: float | None) -> tuple[Partial, ...]:
    """Return partials with their numbers in the series of a fundamental, or none if they hardly form one.

    Any few tones have some low common divisor; it is a pitch only if its series is well filled.
    """
    numbers = [harmonic_number(partial.frequency_hz, fundamental_hz) for partial in found]
    filled = sum(number > 0 for number in numbers)
    two_of_many = len({*numbers} - {0}) == 2 and 1 not in numbers
    if two_of_many or filled < LEAST_FILLED * max(numbers, default=0) or filled < LEAST_SHARE * len(found):
        numbers = [0] * len(found)
    return tuple(replace(partial, number=number) for partial, number in zip(found, numbers, strict=True))


def refined_fundamental(found: tuple[Partial, ...]) -> float | None:
    """Return the fundamental in Hz that the numbered partials agree on, strong ones counting more."""
    series = [partial for partial in found if partial.number]
    if not series:
        return None
    weights = np.array([10.0 ** (partial.level_db / 20.0) * partial.number for partial in series])
    ones = np.array([partial.frequency_hz / partial.number for partial in series])
    return float(np.sum(weights * ones) / np.sum(weights))


def harmonic_number(frequency_hz: float, fundamental_hz: float | None) -> int:
    """Return which multiple of the fundamental a frequency is, or 0 if it is none."""
    if not fundamental_hz:
        return 0
    ratio = frequency_hz / fundamental_hz
    nearest = round(ratio)
    return nearest if nearest and abs(ratio - nearest) < HARMONIC_TOLERANCE * min(nearest, 5) else 0


def drawn(
    bins_db: Floats, rate: float, low_hz: float, high_hz: float, *, log: bool = True, points: int = PLOT_POINTS
) -> tuple[Floats, Floats]:
    """Return frequencies in Hz, evenly spaced on a log or a linear scale, and the levels there in dB.

    Where several bins fall between two neighbours the highest is taken, so that no partial is lost; where
    bins are sparse the curve is interpolated.
    """
    width = rate / (2 * (len(bins_db) - 1))
    high_hz = min(high_hz, rate / 2 * 0.98)
    edges = np.geomspace(low_hz, high_hz, points + 1) if log else np.linspace(low_hz, high_hz, points + 1)
    centres = np.sqrt(edges[:-1] * edges[1:]) if log else 0.5 * (edges[:-1] + edges[1:])
    curve = np.interp(centres / width, np.arange(len(bins_db)), bins_db)
    first = np.ceil(edges / width).astype(int)
    dense = np.flatnonzero(first[1:] > first[:-1])
    tops = np.maximum.reduceat(bins_db[: first[-1]], first[:-1][dense])
    curve[dense] = np.maximum(curve[dense], tops)
    return centres, curve


def smoothed(bins_db: Floats, per_octave: int) -> Floats:
    """Return levels in dB, each the mean power over 1/`per_octave` of an octave around its bin."""
    places = np.arange(len(bins_db))
    reach = 2.0 ** (0.5 / per_octave)
    first = np.floor(places / reach).astype(int)
    last = np.minimum(np.ceil(places * reach).astype(int) + 1, len(bins_db))
    running = np.concatenate([[0.0], np.cumsum(10.0 ** (bins_db / 10.0))])
    return np.asarray(10.0 * np.log10(np.maximum((running[last] - running[first]) / (last - first), 1e-12)))
