"""The spectrum lens: level against frequency, and the partials in it."""

import math
from dataclasses import dataclass, replace

import numpy as np

from inner_tone.core.analysis.partials import window
from inner_tone.core.analysis.pitch import parabola
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.units import midi_of

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


@dataclass(frozen=True)
class Partial:
    """One sinusoid in a sound; `number` is its place in the harmonic series, 0 if it has none."""

    frequency_hz: float
    level_db: float
    midi: float
    number: int


@dataclass(frozen=True)
class Spectrum:
    """Levels in dB by frequency in Hz, where a sine of amplitude 1 has 0 dB; and the partials found."""

    start_s: float
    seconds: float
    frequencies_hz: Floats
    levels_db: Floats
    partials: tuple[Partial, ...]


def levels(signal: Floats, size: int) -> Floats:
    """Return the level in dB of each bin, shape (size // 2 + 1,), of a signal that is no longer than `size`.

    A sine of amplitude 1 has 0 dB. A shorter signal has a window of its own length, so its edges do not ring.
    """
    weights = window(len(signal))
    magnitudes = np.abs(np.fft.rfft((signal - np.mean(signal)) * weights, size)) * 2.0 / np.sum(weights)
    return np.maximum(20.0 * np.log10(np.maximum(magnitudes, 1e-12)), FLOOR_DB)


def window_size(rate: float) -> int:
    """Return how many samples a spectrum is taken from: the power of two nearest to half a second."""
    return 1 << round(math.log2(WINDOW_SECONDS * rate))


def spectrum(signal: Floats, rate: float, start: int, *, fundamental_hz: float | None = None) -> Spectrum:
    """Return the spectrum of the half second of a signal that begins at sample `start`.

    `fundamental_hz` numbers the partials.
    """
    size = window_size(rate)
    bins = levels(signal[start : start + size], size)
    frequencies, drawn = log_spaced(bins, rate)
    return Spectrum(start / rate, size / rate, frequencies, drawn, numbered(partials(bins, rate), fundamental_hz))


def numbered(found: tuple[Partial, ...], fundamental_hz: float | None) -> tuple[Partial, ...]:
    """Return partials with their numbers in the series of a fundamental, or none if they hardly form one.

    Any few tones have some low common divisor; it is a pitch only if its series is well filled.
    """
    numbers = [harmonic_number(partial.frequency_hz, fundamental_hz) for partial in found]
    filled = sum(number > 0 for number in numbers)
    if filled < LEAST_FILLED * max(numbers, default=0) or filled < LEAST_SHARE * len(found):
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


def partials(bins_db: Floats, rate: float) -> tuple[Partial, ...]:
    """Return the peaks of a spectrum, strongest 64, in order of frequency, refined between the bins.

    A parabola through the three highest bins, in dB, finds the top of the window's main lobe to a hundredth of
    a bin and its level to some hundredths of a dB.
    """
    width = rate / (2 * (len(bins_db) - 1))
    inner = bins_db[2:-2]
    highest = np.max(bins_db)
    is_peak = (inner > bins_db[1:-3]) & (inner >= bins_db[3:-1]) & (inner > bins_db[:-4]) & (inner > bins_db[4:])
    is_peak &= inner > max(highest + PARTIAL_FLOOR_DB, FLOOR_DB + 10.0)
    places = np.flatnonzero(is_peak) + 2
    places = places[np.argsort(-bins_db[places], kind="stable")][:MOST_PARTIALS]
    return tuple(partial(bins_db, int(place), width) for place in np.sort(places) if place * width >= LOWEST_HZ)


def partial(bins_db: Floats, place: int, width: float) -> Partial:
    """Return the partial whose peak is at a bin."""
    before, top, after = bins_db[place - 1 : place + 2]
    shift = parabola(before, top, after)
    frequency = float((place + shift) * width)
    return Partial(frequency, float(top - 0.25 * (before - after) * shift), midi_of(frequency), 0)


def harmonic_number(frequency_hz: float, fundamental_hz: float | None) -> int:
    """Return which multiple of the fundamental a frequency is, or 0 if it is none."""
    if not fundamental_hz:
        return 0
    ratio = frequency_hz / fundamental_hz
    nearest = round(ratio)
    return nearest if nearest and abs(ratio - nearest) < HARMONIC_TOLERANCE * min(nearest, 5) else 0


def log_spaced(bins_db: Floats, rate: float) -> tuple[Floats, Floats]:
    """Return levels at frequencies spaced evenly on a log scale from 20 Hz to 20 kHz.

    Where several bins fall between two neighbours the highest is taken, so that no partial is lost; where
    bins are sparse the curve is interpolated.
    """
    width = rate / (2 * (len(bins_db) - 1))
    edges = np.geomspace(LOWEST_HZ, min(HIGHEST_HZ, rate / 2 * 0.98), PLOT_POINTS + 1)
    centres = np.sqrt(edges[:-1] * edges[1:])
    curve = np.interp(centres / width, np.arange(len(bins_db)), bins_db)
    first = np.ceil(edges / width).astype(int)
    dense = np.flatnonzero(first[1:] > first[:-1])
    tops = np.maximum.reduceat(bins_db[: first[-1]], first[:-1][dense])
    curve[dense] = np.maximum(curve[dense], tops)
    return centres, curve
