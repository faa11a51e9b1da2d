"""The harmonics of a sound whose fundamental is known: how strong each is, and how strong what lies between them.

A windowed sinusoid of amplitude A puts the power A² · n · Σ w² / 4 into its main lobe (Parseval), wherever between the
bins it lies and even if it wavers a little; so the power around each multiple tells its amplitude. Halfway between two
multiples there is only noise, and it tells how much of that power is the noise's.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import scipy

from inner_tone.core.analysis.partials import window
from inner_tone.core.arrays import Floats

HIGHEST_HZ = 18_000.0
LOBE_BINS = 4.5
LEAST_CYCLES = 9.5  # in fewer, the lobes of neighbours touch
HANN_LOBE_BINS = 2.0
ROOMY_BINS = 26.0
LEAST_HANN_CYCLES = 4.5
WAVER = 0.004  # of its frequency: so far a straightened partial may waver
SMOOTHED = 9
FLOOR_DB = -140.0


@dataclass(frozen=True)
class Harmonics:
    """The harmonics of a fundamental: levels in dB, 0 for a sine of amplitude 1, shape (count,), number 1 first.

    `floors_db` are what noise alone would show in their places. `tonal_share` is how much of the whole power they are;
    it is only `sharp` where there are cycles enough, and `roomy` where there is room for noise between them.
    """

    fundamental_hz: float
    levels_db: Floats
    floors_db: Floats
    tonal_share: float
    sharp: bool = True
    roomy: bool = True

    @cached_property
    def strongest_db(self) -> float:
        """The level of the strongest."""
        return float(np.max(self.levels_db, initial=FLOOR_DB))


def harmonics_of(passage: Floats, rate: float, fundamental_hz: float, moving: bool = False) -> Harmonics | None:
    """Return the harmonics of a passage, or None if it has too few cycles to tell them apart."""
    size = len(passage)
    spacing = fundamental_hz * size / rate
    count = int(min(HIGHEST_HZ, 0.45 * rate) / fundamental_hz)
    if spacing < LEAST_HANN_CYCLES or count < 1:
        return None
    weights, lobe = (window(size), LOBE_BINS) if spacing > LEAST_CYCLES else (np.hanning(size), HANN_LOBE_BINS)
    powers = np.abs(np.fft.rfft((passage - np.mean(passage)) * weights)) ** 2
    scale = 4.0 / (size * float(np.sum(weights**2)))
    running = np.concatenate([[0.0], np.cumsum(powers)])
    numbers = np.arange(1.0, count + 1.0)
    middles = numbers * spacing
    reach: Floats = np.minimum(lobe + WAVER * middles * moving, 0.45 * spacing)
    around = band(running, middles - reach, middles + reach)
    floors = floor_of(running, middles, spacing, lobe) * 2.0 * reach * scale
    squares = np.maximum(around * scale - floors, 0.0)
    whole = float(band(running, middles[:1] - reach[:1], middles[-1:] + 0.5 * spacing)[0]) * scale
    share = float(np.sum(squares)) / whole if whole > 0.0 else 0.0
    return Harmonics(
        fundamental_hz, in_db(squares), in_db(floors), min(1.0, share), lobe == LOBE_BINS, spacing > ROOMY_BINS
    )


def band(running: Floats, first: Floats, last: Floats) -> Floats:
    """Return the power between fractional bins."""
    places = np.arange(len(running)) - 0.5
    return np.asarray(np.interp(last, places, running) - np.interp(first, places, running))


def floor_of(running: Floats, middles: Floats, spacing: float, lobe: float) -> Floats:
    """Return the power in a bin of what lies between the harmonics, around each of them."""
    edge = max(min(0.5 * spacing - lobe, 0.25 * spacing), 0.25)
    above = band(running, middles + 0.5 * spacing - edge, middles + 0.5 * spacing + edge) / (2.0 * edge)
    below = np.concatenate([above[:1], above[:-1]])
    return np.asarray(scipy.ndimage.median_filter(np.minimum(above, below), SMOOTHED, mode="nearest"))


def in_db(squares: Floats) -> Floats:
    """Return squared amplitudes in dB."""
    return np.asarray(10.0 * np.log10(np.maximum(squares, 10.0 ** (FLOOR_DB / 10.0))))
