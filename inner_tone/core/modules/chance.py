"""Chance that is the same on every run: numbers that depend only on a seed and on a count."""

import numpy as np

from inner_tone.core.modules.kernel import compiled

GOLDEN = np.uint64(0x9E3779B97F4A7C15)
SEEDING = np.uint64(0xD1B54A32D192ED03)
FIRST = np.uint64(0xBF58476D1CE4E5B9)
SECOND = np.uint64(0x94D049BB133111EB)
SHIFT_30, SHIFT_27, SHIFT_31, SHIFT_11 = np.uint64(30), np.uint64(27), np.uint64(31), np.uint64(11)
PER_STEP = 2.0**-52


@compiled
def uniform(count: int, seed: int) -> float:
    """Return a number from -1 up to 1, evenly spread; the finalizer of SplitMix64.

    G. Steele, D. Lea and C. Flood, "Fast splittable pseudorandom number generators", OOPSLA 2014.
    """
    z = np.uint64(count) * GOLDEN + np.uint64(seed + 1) * SEEDING
    z = (z ^ (z >> SHIFT_30)) * FIRST
    z = (z ^ (z >> SHIFT_27)) * SECOND
    z = z ^ (z >> SHIFT_31)
    return np.float64(z >> SHIFT_11) * PER_STEP - 1.0
