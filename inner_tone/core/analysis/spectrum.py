"""The spectrum lens: level against frequency, and the partials in it."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal

import numpy as np
import scipy

from inner_tone.core.analysis.partials import sinusoids
from inner_tone.core.arrays import Floats
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
LOWEST_PARTIAL_HZ = 7.0
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
    found: Floats = scipy.signal.get_window(WINDOWS[name], size, fftbins=True)
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


def size_for(count: int) -> int:
    """Return the power of two that takes in so many samples."""
    return 1 << max(4, math.ceil(math.log2(max(1, count))))


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


def partials_of(passage: Floats, rate: float) -> tuple[Partial, ...]:
    """Return the partials of a passage, strongest 64, in order of frequency, without numbers."""
    if len(passage) < SHORTEST or not np.any(passage):
        return ()
    width = rate / len(passage)
    found = [
        Partial(one.bin * width, decibels(abs(one.amplitude)), midi_of(one.bin * width), 0)
        for one in sinusoids(passage)
        if one.bin * width >= LOWEST_PARTIAL_HZ
    ]
    top = max((one.level_db for one in found), default=0.0)
    loud = sorted((one for one in found if one.level_db > top + PARTIAL_FLOOR_DB), key=lambda one: -one.level_db)
    return tuple(sorted(loud[:MOST_PARTIALS], key=lambda one: one.frequency_hz))


def numbered(
    found: tuple[Partial, ...], fundamental_hz: float, known: Callable[[Floats], Floats]
) -> tuple[Partial, ...]:
    """Return partials with their numbers in a series; `known` says how exactly frequencies in Hz are known, in Hz.

    Of several that lie near one multiple, as the sidebands of a tremolo do, each has its number.
    """
    frequencies = np.array([one.frequency_hz for one in found])
    numbers = np.round(frequencies / fundamental_hz)
    near = np.abs(frequencies - numbers * fundamental_hz) < 3.0 * known(frequencies)
    return tuple(
        replace(one, number=int(number) if fits else 0) for one, number, fits in zip(found, numbers, near, strict=True)
    )


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
