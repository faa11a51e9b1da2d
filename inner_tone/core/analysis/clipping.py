"""Clipping: tops that were cut off flat."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from inner_tone.core.arrays import Floats

NEAR = 2e-4  # of the greatest value: so near to it, a wave stands at its top
NEARBY = 4.0  # times as near: a round top is twice as wide there, a flat one hardly wider
WIDER = 1.35
LEAST_SAMPLES = 3
LEAST_SHARE, MOST_SHARE = 0.01, 0.9  # of the time; a square stands at its tops always, and is not clipped
LEAST_RUNS = 2
ONE_SIDED = 0.3

Sides = Literal["both", "top", "bottom"]


@dataclass(frozen=True)
class Clipping:
    """For which share of the time a sound is cut off flat, on which sides, and at which level."""

    share: float
    sides: Sides
    level: float


def clipping(signal: Floats) -> Clipping | None:
    """Return where the tops of a sound, shape (n,), are cut off flat, or None where they are not.

    A round top is as wide as the square root of how near to it one looks; a flat one has its width at once.
    """
    if len(signal) == 0:
        return None
    top = float(np.max(np.abs(signal)))
    high = flat_share(signal) if np.max(signal) > ONE_SIDED * top else 0.0
    low = flat_share(-signal) if np.min(signal) < -ONE_SIDED * top else 0.0
    if not LEAST_SHARE < high + low < MOST_SHARE:
        return None
    sides: Sides = "both" if high and low else "top" if high else "bottom"
    return Clipping(high + low, sides, float(np.max(signal)) if high else float(-np.min(signal)))


def flat_share(signal: Floats) -> float:
    """Return for which share of the time a signal stands flat at its greatest value, with a slope on either side."""
    top, size = float(np.max(signal)), float(np.ptp(signal))
    flat = runs(signal >= top - NEAR * size)
    wide = runs(signal >= top - NEARBY * NEAR * size)
    long = flat[flat[:, 1] - flat[:, 0] >= LEAST_SAMPLES]
    if len(long) < LEAST_RUNS or len(wide) == 0:
        return 0.0
    widths = (float(np.sum(one[:, 1] - one[:, 0])) for one in (flat, wide))
    narrow, broad = widths
    if broad > WIDER * narrow or not slopes_into(signal, long, size):
        return 0.0
    return narrow / len(signal)


def slopes_into(signal: Floats, long: NDArray[np.int64], size: float) -> bool:
    """Tell whether a signal comes to most of its flat tops by a slope rather than by a jump."""
    before = long[:, 0] - 2
    before = before[before >= 0]
    if len(before) == 0:
        return False
    return bool(np.median(signal[before + 2] - signal[before]) < 0.5 * size)


def runs(here: NDArray[np.bool_]) -> NDArray[np.int64]:
    """Return where runs of what is true begin and end, shape (runs, 2)."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], here.astype(int), [0]])))
    return edges.reshape(-1, 2)
