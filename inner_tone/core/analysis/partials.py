"""Partials: every steady sinusoid of a passage, its frequency found between the bins.

The passage is windowed and transformed. Peaks are first guesses; those whose main lobes touch are fitted together. The
transform of a few windowed sinusoids is known exactly, their mirror images at negative frequencies included, so their
frequencies, amplitudes and phases follow from the bins around them by Gauss-Newton steps. What is left when they are
taken away shows whatever hid beneath them; it counts as a tone only if the fit then explains far more than before.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from inner_tone.core.modules.kernel import Floats, Ints

Complexes = NDArray[np.complex128]

# F. J. Harris, "On the use of windows for harmonic analysis with the discrete Fourier transform", Proc. IEEE
# 66 (1978): the minimum four-term Blackman-Harris window, whose side lobes lie below -92 dB.
BLACKMAN_HARRIS = (0.35875, 0.48829, 0.14128, 0.01168)
REACH = 6  # so many bins to each side of a partial take part in its fit
APART = 12.0  # partials that lie nearer, in bins, are fitted together
STEPS = 10
HIDDEN_ROUNDS = 3
EXPLAINED = 0.01  # the share of what was left that may remain when a hidden tone is real
NUDGE = 1e-4
FLOOR_DB = -72.0  # below the strongest
FAINTEST_DB = -110.0
MOST = 96
MOST_TOGETHER = 6
MOST_WITH_HIDDEN = 4  # in a thicket of peaks nobody can tell what is hidden
HINT = 1e-3  # how much less than the floor may be left where something is hidden: the fit has taken most of it
SAME = 0.2  # bins


@dataclass(frozen=True)
class Sinusoid:
    """A steady sinusoid: its frequency in bins, and its complex amplitude at the passage's first sample."""

    bin: float
    amplitude: complex


@lru_cache(maxsize=8)
def window(size: int) -> Floats:
    """Return the minimum four-term Blackman-Harris window, shape (size,), periodic."""
    angle = 2.0 * np.pi * np.arange(size) / size
    a0, a1, a2, a3 = BLACKMAN_HARRIS
    return a0 - a1 * np.cos(angle) + a2 * np.cos(2 * angle) - a3 * np.cos(3 * angle)


def sinusoids(signal: Floats) -> list[Sinusoid]:
    """Return the steady sinusoids of a passage, shape (n,), by frequency: those within 72 dB of the strongest."""
    size = len(signal)
    bins = np.fft.rfft(signal * window(size))
    floor = max(strongest(bins) * 10.0 ** (FLOOR_DB / 20.0), 0.5 * np.sum(window(size)) * 10.0 ** (FAINTEST_DB / 20.0))
    guesses = peaks(np.abs(bins), floor)
    found: list[Sinusoid] = []
    for cluster in clusters(guesses):
        found += resolved(bins, cluster, size, floor)
    return sorted(found, key=lambda one: one.bin)


def strongest(bins: Complexes) -> float:
    """Return the greatest magnitude, the standstill at 0 Hz left out."""
    return float(np.max(np.abs(bins[2:]), initial=0.0))


def peaks(magnitudes: Floats, floor: float) -> list[float]:
    """Return the bins of the peaks above a floor, the strongest of them at most."""
    inner = magnitudes[2:-2]
    is_peak = (inner > magnitudes[1:-3]) & (inner >= magnitudes[3:-1])
    is_peak &= (inner > magnitudes[:-4]) & (inner > magnitudes[4:]) & (inner > floor)
    places = np.flatnonzero(is_peak) + 2
    places = places[np.argsort(-magnitudes[places], kind="stable")][:MOST]
    return [float(place) for place in np.sort(places)]


def clusters(guesses: list[float]) -> list[list[float]]:
    """Return guesses in groups that have to be fitted together."""
    groups: list[list[float]] = []
    for guess in guesses:
        if groups and guess - groups[-1][-1] < APART and len(groups[-1]) < MOST_TOGETHER:
            groups[-1].append(guess)
        else:
            groups.append([guess])
    return groups


def resolved(bins: Complexes, guesses: list[float], size: int, floor: float) -> list[Sinusoid]:
    """Return the sinusoids of a group, with those that hid beneath others."""
    found, left = fitted(bins, guesses, size)
    for _ in range(HIDDEN_ROUNDS if len(guesses) <= MOST_WITH_HIDDEN else 0):
        hidden = hidden_peak(bins, found, guesses, size, HINT * floor)
        if hidden is None:
            break
        more, rest = fitted(bins, sorted([*(one.bin for one in found), hidden]), size)
        if rest > EXPLAINED * left:
            break
        found, left = more, rest
    scale = 2.0 / np.sum(window(size))
    return [one for one in merged(found) if abs(one.amplitude) > floor * scale and is_near(one, guesses)]


def is_near(one: Sinusoid, guesses: list[float]) -> bool:
    """Tell whether a sinusoid belongs to a group of guesses, rather than to the next group."""
    return min(abs(one.bin - guess) for guess in guesses) < 0.5 * APART


def merged(found: list[Sinusoid]) -> list[Sinusoid]:
    """Return sinusoids, those that two guesses have led to the same place as one."""
    kept: list[Sinusoid] = []
    for one in sorted(found, key=lambda one: one.bin):
        if kept and one.bin - kept[-1].bin < SAME:
            both = kept[-1].amplitude + one.amplitude
            kept[-1] = Sinusoid(kept[-1].bin if abs(kept[-1].amplitude) > abs(one.amplitude) else one.bin, both)
        else:
            kept.append(one)
    return kept


def around(guesses: list[float], count: int) -> Ints:
    """Return the bins around some guesses."""
    return np.arange(max(0, int(min(guesses)) - REACH), min(count - 1, int(max(guesses)) + REACH + 1) + 1)


def hidden_peak(bins: Complexes, found: list[Sinusoid], guesses: list[float], size: int, floor: float) -> float | None:
    """Return where most is left when the sinusoids are taken away, if it is more than the floor."""
    places = around(guesses, len(bins))
    columns = columns_of(places, np.array([one.bin for one in found]), size)
    rest = np.abs(bins[places] - columns @ parts(np.array([one.amplitude for one in found]), bins, columns, places))
    place = int(np.argmax(rest))
    return float(places[place]) + 0.25 if rest[place] > floor else None


def fitted(bins: Complexes, guesses: list[float], size: int) -> tuple[list[Sinusoid], float]:
    """Return sinusoids whose windowed transforms add up to the bins around them, and the power that is left."""
    places = around(guesses, len(bins))
    target = stacked(bins[places])
    found = np.array(guesses, dtype=np.float64)
    for _ in range(STEPS):
        columns = columns_of(places, found, size)
        values = np.linalg.lstsq(stacked(columns), target, rcond=None)[0]
        slopes = (columns_of(places, found + NUDGE, size) - columns_of(places, found - NUDGE, size)) / (2.0 * NUDGE)
        pairs = slopes[:, : 2 * len(found)] * values[: 2 * len(found)]
        along = pairs[:, : len(found)] + pairs[:, len(found) :]
        jacobian = np.concatenate([stacked(columns), stacked(along)], axis=1)
        step = np.linalg.lstsq(jacobian, target - stacked(columns) @ values, rcond=None)[0][columns.shape[1] :]
        step = np.clip(step, -0.7, 0.7)
        found = np.clip(found + step, 0.1, len(bins) - 1.1)
        if np.max(np.abs(step)) < 1e-8:
            break
    columns = columns_of(places, found, size)
    values = np.linalg.lstsq(stacked(columns), target, rcond=None)[0]
    left = float(np.sum((target - stacked(columns) @ values) ** 2))
    count = len(found)
    amplitudes = values[:count] + 1j * values[count : 2 * count]
    return [Sinusoid(float(one), complex(a)) for one, a in zip(found, amplitudes, strict=True)], left


def stacked(values: Complexes) -> Floats:
    """Return real parts above imaginary parts."""
    return np.concatenate([values.real, values.imag])


def columns_of(places: Ints, found: Floats, size: int) -> Complexes:
    """Return what real and imaginary part of each amplitude, and a standstill near 0 Hz, bring to some bins."""
    ahead = lobe(places[:, np.newaxis] - found[np.newaxis, :], size)
    mirrored = lobe(places[:, np.newaxis] + found[np.newaxis, :], size)
    columns = [0.5 * (ahead + mirrored), 0.5j * (ahead - mirrored)]
    if places[0] < REACH:
        columns.append(lobe(places[:, np.newaxis].astype(np.float64), size))
    return np.concatenate(columns, axis=1)


def parts(amplitudes: Complexes, bins: Complexes, columns: Complexes, places: Ints) -> Floats:
    """Return amplitudes as the columns take them; what the standstill brings is fitted to what is left."""
    values = np.concatenate([amplitudes.real, amplitudes.imag])
    if columns.shape[1] == len(values):
        return values
    rest = stacked(bins[places] - columns[:, :-1] @ values)
    still = stacked(columns[:, -1])
    return np.append(values, np.dot(still, rest) / np.dot(still, still))


def lobe(offsets: Floats, size: int) -> Complexes:
    """Return the transform of the window at offsets in bins: each of its cosines is a pair of Dirichlet kernels."""
    a0, a1, a2, a3 = BLACKMAN_HARRIS
    total = a0 * dirichlet(offsets, size)
    for turns, weight in ((1, -a1), (2, a2), (3, -a3)):
        total = total + 0.5 * weight * (dirichlet(offsets - turns, size) + dirichlet(offsets + turns, size))
    return total


def dirichlet(offsets: Floats, size: int) -> Complexes:
    """Return Σ exp(-2πi · offset · n / size) over n = 0 … size - 1."""
    half = np.pi * offsets / size
    sines = np.sin(half)
    tiny = np.abs(sines) < 1e-13
    ratio = np.where(tiny, float(size), np.sin(half * size) / np.where(tiny, 1.0, sines))
    found: Complexes = ratio * np.exp(-1j * half * (size - 1))
    return found
