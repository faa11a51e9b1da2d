"""Band-limited cycles of the saw and the triangle, one set of partials for each third of an octave.

A table holds the partials of the Fourier series up to a limit so chosen that, at the highest frequency it
serves, the uppermost partial folds back no lower than 20 kHz, and that, at the lowest, none below 20 kHz is
missing but for the taper: a band of a third of an octave leaves room for both at 44.1 kHz and above. A pulse
is the difference of two saws (Stilson and Smith, "Alias-free digital synthesis of classic analog waveforms",
ICMC 1996), so it needs no tables of its own.
"""

from functools import lru_cache

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.modules.kernel import Cycles

BANDS_PER_OCTAVE = 3
LOWEST_HZ = 10.0
AUDIBLE_HZ = 20_000.0
MOST_PARTIALS = 2048
LEAST_SIZE = 2048
TAPER_FROM = 0.7
END = np.zeros(1)  # what is read, with weight 0, where rounding brings a phase to exactly 1


@lru_cache(maxsize=4)
def wavetables(rate: float) -> Cycles:
    """Return the tables for a sampling rate in Hz.

    The size of a table is 32 times its number of partials, so that linear interpolation leaves images below
    -95 dB (relative to the fundamental, partial k of a saw leaves k / size²).
    """
    saws: list[Floats] = []
    triangles: list[Floats] = []
    starts: list[int] = []
    sizes: list[int] = []
    for partials in partial_counts(rate):
        size = max(LEAST_SIZE, 1 << int(np.ceil(np.log2(32 * partials))))
        starts.append(sum(sizes) + len(sizes))
        sizes.append(size)
        saws.append(cycle(saw_series(partials), size))
        triangles.append(cycle(triangle_series(partials), size))
    return Cycles(
        np.concatenate([*saws, END]),
        np.concatenate([*triangles, END]),
        np.array(starts, dtype=np.int64),
        np.array(sizes, dtype=np.int64),
        LOWEST_HZ,
    )


def partial_counts(rate: float) -> list[int]:
    """Return the number of partials of each table, from the lowest band up to a single partial."""
    counts: list[int] = []
    while not counts or counts[-1] > 1:
        top_of_band = LOWEST_HZ * 2.0 ** ((len(counts) + 1) / BANDS_PER_OCTAVE)
        counts.append(max(1, min(MOST_PARTIALS, int((rate - AUDIBLE_HZ) / top_of_band))))
    return counts


def saw_series(partials: int) -> Floats:
    """Return the sine coefficients, shape (partials,), of a saw that rises from -1 to 1 over its cycle."""
    k = np.arange(1, partials + 1)
    return -2.0 / (np.pi * k) * taper(partials)


def triangle_series(partials: int) -> Floats:
    """Return the sine coefficients, shape (partials,), of a triangle that starts at 0, rising."""
    k = np.arange(1, partials + 1)
    signs = np.where(k % 4 == 1, 1.0, np.where(k % 4 == 3, -1.0, 0.0))
    return 8.0 / (np.pi * k) ** 2 * signs * taper(partials)


def taper(partials: int) -> Floats:
    """Return weights that let the uppermost partials fade, which calms the ripples beside a jump."""
    x = np.arange(1, partials + 1) / partials
    if partials < 8:
        return np.ones(partials)
    return np.where(x <= TAPER_FROM, 1.0, np.cos(0.5 * np.pi * (x - TAPER_FROM) / (1.0 - TAPER_FROM) * 0.95))


def cycle(sines: Floats, size: int) -> Floats:
    """Return one cycle of a sine series, shape (size + 1,): the first value stands again at the end."""
    spectrum = np.zeros(size // 2 + 1, dtype=np.complex128)
    spectrum[1 : len(sines) + 1] = -0.5j * size * sines
    one = np.fft.irfft(spectrum, size)
    return np.append(one, one[0])
