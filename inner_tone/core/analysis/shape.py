"""The shape of a spectrum: how its partials fall, where a filter cuts them off or lifts them; the colour of a noise."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy.signal import welch

from inner_tone.core.analysis.spectrum import Partial
from inner_tone.core.modules.kernel import Floats

LAWS_DB = (0.0, 6.0, 12.0)  # what waves fall by with every octave: impulses, saws and squares, triangles
EVEN = 1.0  # dB: so near to a straight line, a roll-off counts as even
LEAST_PARTIALS = 5
LIFTED_DB = 3.0
CUT_DB = 3.0
CLEARLY_CUT_DB = 9.0
STEEP_FROM_DB, STEEP_TO_DB = 9.0, 55.0
WEAK_DB = -40.0
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


def shape_of(series: Sequence[Partial]) -> Shape:
    """Return the shape of a harmonic series."""
    series = strongest_of_each(series)
    if len(series) < LEAST_PARTIALS:
        return Shape()
    octaves = np.log2([partial.number for partial in series])
    levels = np.array([partial.level_db for partial in series])
    slope, offset = (float(found) for found in np.polyfit(octaves, levels, 1))
    if np.sqrt(np.mean((levels - slope * octaves - offset) ** 2)) < EVEN:
        return Shape(slope_db=-slope)
    law = law_of(octaves, levels)
    if law is None:
        return Shape()
    off = levels - law[0] + law[1] * octaves
    frequencies = np.array([partial.frequency_hz for partial in series])
    return Shape(law[1], cut_of(frequencies, off), peak_of(frequencies, off))


def strongest_of_each(series: Sequence[Partial]) -> list[Partial]:
    """Return one partial for each number, where several lie near one another."""
    strongest: dict[int, Partial] = {}
    for one in series:
        if one.number not in strongest or one.level_db > strongest[one.number].level_db:
            strongest[one.number] = one
    return list(strongest.values())


def law_of(octaves: Floats, levels: Floats) -> tuple[float, float] | None:
    """Return the level of the first partial and the fall per octave, in dB, of the law of the lowest partials."""
    most = max(3, len(levels) // 2)
    best: tuple[int, float, float] | None = None
    for law in LAWS_DB:
        along = levels + law * octaves
        level = float(np.median(along[: min(3, most)]))
        fitting = int(np.argmax(np.append(np.abs(along - level) > EVEN, True)))
        if fitting >= 2 and (best is None or fitting > best[0]):
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
    return Cut(at, float(-np.polyfit(np.log2(frequencies[steep]), off[steep], 1)[0]))


def only_odd(series: Sequence[Partial]) -> bool:
    """Tell whether a series has odd partials only."""
    loudest = max(partial.level_db for partial in series)
    even = [p for p in series if p.number % 2 == 0 and p.level_db > loudest + WEAK_DB]
    odd = [p for p in series if p.number % 2 == 1 and p.number > 1]
    return bool(odd) and not even


def tonal_share(passage: Floats, partials: Sequence[Partial]) -> float:
    """Return how much of a passage's power its partials explain, 0 to 1."""
    power = float(np.var(passage)) if len(passage) else 0.0
    explained = sum(10.0 ** (one.level_db / 10.0) / 2.0 for one in partials)
    return min(1.0, explained / power) if power > 0.0 else 1.0


@dataclass(frozen=True)
class Colour:
    """A noise: its slope in dB per octave, where it is even; where it is strongest in Hz, where it is not."""

    slope_db: float | None
    strongest_hz: float


def colour_of(signal: Floats, rate: float) -> Colour:
    """Return the colour of a noise, shape (n,), from its power density by Welch's method, in half octaves."""
    frequencies, density = welch(signal, rate, nperseg=min(NOISE_SIZE, len(signal)))
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
