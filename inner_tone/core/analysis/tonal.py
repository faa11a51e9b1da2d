"""How much of a sound is tone, and how much noise."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from inner_tone.core.analysis.partials import window
from inner_tone.core.analysis.spectrum import Partial
from inner_tone.core.arrays import Floats

LOBE_BINS = 5
AROUND_BINS = 60
NEIGHBOUR = 2  # lobes


def tonal_share(passage: Floats, rate: float, partials: Sequence[Partial]) -> float:
    """Return how much of a passage's power lies around its partials and stands out of the noise beside them, 0 to 1."""
    size = len(passage)
    if size == 0 or not partials:
        return 0.0
    powers = np.abs(np.fft.rfft((passage - np.mean(passage)) * window(size))) ** 2
    whole = float(np.sum(powers))
    if whole <= 0.0:
        return 0.0
    taken = np.zeros(len(powers), dtype=bool)
    middles = [round(one.frequency_hz * size / rate) for one in partials]
    for middle in middles:
        taken[max(0, middle - LOBE_BINS) : middle + LOBE_BINS + 1] = True
    tonal = float(np.sum(powers[taken]))
    noise = sum(noise_at(powers, taken, middle) for middle in middles)
    return max(0.0, min(1.0, (tonal - noise) / whole))


def noise_at(powers: Floats, taken: NDArray[np.bool_], middle: int) -> float:
    """Return how much of the power around a partial is that of the noise beside it."""
    around = slice(max(0, middle - AROUND_BINS), middle + AROUND_BINS + 1)
    beside = powers[around][~taken[around]]
    width = 2 * LOBE_BINS + 1
    if len(beside) < NEIGHBOUR * LOBE_BINS:
        return 0.0
    return width * float(np.mean(beside))
