"""The shape of a spectrum: how its partials fall, where a filter cuts them off or lifts them; the colour of a noise."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import scipy

from inner_tone.core.analysis.harmonics import Harmonics
from inner_tone.core.arrays import Floats, Ints

LAWS_DB = (0.0, 6.0, 12.0)  # what waves fall by with every octave: impulses, saws and squares, triangles
EVEN = 1.0  # dB: so near to a straight line, a roll-off counts as even
STRAIGHT = 2.5
LEAST_PARTIALS = 4
LEAST_LAWFUL, LEAST_LEVEL = 4, 7
SKIPS = 1.5  # octaves: a series without its second partial needs one less
LAW_OCTAVES = 1.5
SEEN_DB = -75.0  # below the strongest
CLEAR_DB = 20.0  # above the noise
HOLE_DB = 25.0  # a harmonic that is so much weaker than its neighbours is missing
HIGHEST_HZ = 15_500.0  # above, the band of what can be sampled ends, and not a filter's
WAVERS_DB = 0.9
MANY, SMOOTHED = 40, 7
LIFTED_DB = 3.0
CUT_DB = 3.0
CLEARLY_CUT_DB = 9.0
STEEP_FROM_DB, STEEP_TO_DB = 9.0, 55.0
NOISE_LOW_HZ, NOISE_HIGH_HZ = 60.0, 12_000.0
BANDS_PER_OCTAVE = 2
NOISE_SIZE = 8192


@dataclass(frozen=True)
class Peak:
    """A resonance: where, in Hz, and how many dB above what the roll-off would have there."""

    frequency_hz: float
    height_db: float


@dataclass(frozen=True)
class Cut:
    """What a filter has taken away: where 3 dB are lost, in Hz, and how many dB more per octave, if it is clear."""

    frequency_hz: float
    slope_db: float | None


@dataclass(frozen=True)
class Shape:
    """How many dB per octave the partials fall, if evenly; where they are cut off; where they are lifted."""

    slope_db: float | None = None
    cut: Cut | None = None
    peak: Peak | None = None


def shape_of(found: Harmonics) -> Shape:
    """Return the shape of a harmonic series; what its harmonics do not clearly show is left out."""
    numbers = seen_numbers(found)
    if len(numbers) < LEAST_PARTIALS:
        return Shape()
    octaves, levels = np.log2(numbers), found.levels_db[numbers - 1]
    slope, offset = (float(one) for one in np.polyfit(octaves, levels, 1))
    left = levels - slope * octaves - offset
    if np.sqrt(np.mean(left**2)) < EVEN and np.max(np.abs(left)) < STRAIGHT:
        return Shape(slope_db=-slope)
    law = law_of(octaves, levels)
    if law is None:
        return Shape()
    off = levels - law[0] + law[1] * octaves
    frequencies: Floats = np.asarray(numbers * found.fundamental_hz, dtype=np.float64)
    top = int(np.argmax(off)) if np.max(off) > LIFTED_DB else 0
    if not falls_from(off, top):
        return Shape()
    return Shape(law[1], cut_of(frequencies, off), peak_of(frequencies, off))


def seen_numbers(found: Harmonics) -> Ints:
    """Return the numbers of the harmonics that stand out of the noise and belong to the outline of the spectrum."""
    levels = found.levels_db
    numbers = np.arange(1, len(levels) + 1)
    outline = scipy.ndimage.maximum_filter1d(levels, 3, mode="nearest")
    seen = (levels > found.strongest_db + SEEN_DB) & (levels > found.floors_db + CLEAR_DB)
    seen &= (levels > outline - HOLE_DB) & (numbers * found.fundamental_hz < HIGHEST_HZ)
    return np.asarray(numbers[seen])


def falls_from(off: Floats, top: int) -> bool:
    """Tell whether what lies off the law rises to one place and falls from there on, as a filter has it."""
    smooth = scipy.ndimage.uniform_filter1d(off, SMOOTHED, mode="nearest") if len(off) > MANY else off
    rises = np.diff(smooth[: top + 1]) if top else np.zeros(0)
    return bool(np.all(rises > -WAVERS_DB) and np.all(np.diff(smooth[top:]) < WAVERS_DB))


def law_of(octaves: Floats, levels: Floats) -> tuple[float, float] | None:
    """Return the level of the first partial and the fall per octave, in dB, of the law of the lowest partials.

    It must hold for four partials at least, three of odd ones, over an octave and a half.
    """
    best: tuple[int, float, float] | None = None
    for law in LAWS_DB:
        along = levels + law * octaves
        level = float(np.median(along[:3]))
        level = float(along[0]) if abs(along[0] - level) < EVEN else level
        fitting = int(np.argmax(np.append(np.abs(along - level) > EVEN, True)))
        least = LEAST_LEVEL if law == 0.0 else LEAST_LAWFUL - int(octaves[1] > SKIPS)
        enough = fitting >= least and octaves[fitting - 1] - octaves[0] > LAW_OCTAVES
        if enough and (best is None or fitting > best[0]):
            best = fitting, level, law
    return (best[1], best[2]) if best else None


def peak_of(frequencies: Floats, off: Floats) -> Peak | None:
    """Return the greatest lift above the law, between its partials by a parabola over the logarithm of frequency."""
    top = int(np.argmax(off))
    if off[top] < LIFTED_DB or top in (0, len(off) - 1):
        return None
    around = slice(top - 1, top + 2)
    bend = np.polyfit(np.log2(frequencies[around] / frequencies[top]), off[around], 2)
    shift = float(np.clip(-bend[1] / (2.0 * bend[0]), -0.5, 0.5)) if bend[0] < 0 else 0.0
    return Peak(float(frequencies[top] * 2.0**shift), float(np.polyval(bend, shift)))


def cut_of(frequencies: Floats, off: Floats) -> Cut | None:
    """Return from where on the partials lie ever farther below the law."""
    if off[-1] > -CLEARLY_CUT_DB:
        return None
    above = np.flatnonzero(off > -CUT_DB)
    last = int(above[-1]) if len(above) else 0
    if last + 1 >= len(off):
        return None
    pair = slice(last, last + 2)
    at = float(np.exp(np.interp(CUT_DB, -off[pair], np.log(frequencies[pair]))))
    steep = (off < -STEEP_FROM_DB) & (off > -STEEP_TO_DB) & (frequencies > at)
    if np.sum(steep) < 3:
        return Cut(at, None)
    octaves = np.log2(frequencies[steep])
    slope, offset = (float(one) for one in np.polyfit(octaves, off[steep], 1))
    is_straight = np.sqrt(np.mean((off[steep] - slope * octaves - offset) ** 2)) < 1.5 * EVEN
    return Cut(at, -slope if is_straight else None)


@dataclass(frozen=True)
class Colour:
    """A noise: its slope in dB per octave, where it is even; where it is strongest in Hz, where it is not."""

    slope_db: float | None
    strongest_hz: float


def colour_of(signal: Floats, rate: float) -> Colour:
    """Return the colour of a noise, shape (n,), from its power density by Welch's method, in half octaves."""
    frequencies, density = scipy.signal.welch(signal, rate, nperseg=min(NOISE_SIZE, len(signal)))
    octaves = np.log2(NOISE_HIGH_HZ / NOISE_LOW_HZ)
    edges = np.geomspace(NOISE_LOW_HZ, NOISE_HIGH_HZ, round(octaves * BANDS_PER_OCTAVE) + 1)
    bands = [density[(frequencies >= low) & (frequencies < high)] for low, high in pairwise(edges)]
    middles = np.sqrt(edges[:-1] * edges[1:])
    levels = np.array([10.0 * np.log10(max(float(np.mean(band)), 1e-20)) if len(band) else np.nan for band in bands])
    known = np.isfinite(levels)
    octaves, levels = np.log2(middles[known]), levels[known]
    slope, offset = (float(found) for found in np.polyfit(octaves, levels, 1))
    even = np.sqrt(np.mean((levels - slope * octaves - offset) ** 2)) < 1.5 * EVEN
    return Colour(slope if even else None, float(middles[known][np.argmax(levels)]))
