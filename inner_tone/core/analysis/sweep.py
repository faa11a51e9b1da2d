"""The sweep lens: time against frequency, as levels of short-time spectra."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from inner_tone.core.analysis.spectrum import FLOOR_DB, weights
from inner_tone.core.arrays import Floats

Resolution = Literal["time", "balanced", "pitch"]

SECONDS: dict[Resolution, float] = {"time": 0.012, "balanced": 0.05, "pitch": 0.2}
MOST_COLUMNS = 480
LEAST_HOP_SECONDS = 0.004
ROWS = 180
USUAL_LOW_HZ, USUAL_HIGH_HZ = 40.0, 16_000.0


@dataclass(frozen=True)
class Sweep:
    """Levels in dB, shape (rows, columns), by frequency in Hz from low to high and by time in s."""

    times_s: Floats
    frequencies_hz: Floats
    levels_db: Floats


def sweep(
    signal: Floats,
    rate: float,
    *,
    resolution: Resolution = "balanced",
    low_hz: float = 20.0,
    high_hz: float = 20_000.0,
    log: bool = True,
) -> Sweep:
    """Return the short-time spectra of a sound, shape (n,).

    A short window tells well when something happens and badly at which frequency, a long one the other way about
    (D. Gabor, "Theory of communication", J. IEE 93, 1946). Where several bins fall into a row, the strongest counts.
    """
    size = 1 << int(np.ceil(np.log2(SECONDS[resolution] * rate)))
    window = weights("blackman-harris", size)
    hop = max(round(LEAST_HOP_SECONDS * rate), -(-len(signal) // MOST_COLUMNS))
    middles = np.arange(0, max(1, len(signal)), hop)
    padded = np.pad(signal, (size // 2, size // 2 + hop))
    frames = np.lib.stride_tricks.sliding_window_view(padded, size)[middles]
    bins = np.empty((len(middles), size // 2 + 1), dtype=np.float32)
    for begin in range(0, len(middles), 64):  # in parts that stay near the processor
        bins[begin : begin + 64] = np.abs(np.fft.rfft(frames[begin : begin + 64] * window, axis=1))
    edges = edges_of(low_hz, min(high_hz, 0.49 * rate), log)
    centres = np.sqrt(edges[1:] * edges[:-1]) if log else 0.5 * (edges[1:] + edges[:-1])
    rows = strongest_in(bins, edges * size / rate, centres * size / rate)
    levels = np.maximum(20.0 * np.log10(np.maximum(rows * (2.0 / np.sum(window)), 1e-6)), FLOOR_DB)
    return Sweep(middles / rate, centres, np.ascontiguousarray(levels.T))


def edges_of(low_hz: float, high_hz: float, log: bool) -> Floats:
    """Return the frequencies in Hz between which the rows lie."""
    return np.geomspace(low_hz, high_hz, ROWS + 1) if log else np.linspace(low_hz, high_hz, ROWS + 1)


def strongest_in(bins: NDArray[np.floating], edges: Floats, centres: Floats) -> Floats:
    """Return the strongest of the bins in each row, or, where a row holds none, what lies between its neighbours."""
    below = np.clip(np.floor(centres).astype(int), 0, bins.shape[1] - 2)
    part = (centres - below)[np.newaxis, :]
    rows: Floats = (1.0 - part) * bins[:, below] + part * bins[:, below + 1]
    first = np.ceil(edges).astype(int)
    dense = np.flatnonzero(first[1:] > first[:-1])
    last = min(int(first[-1]), bins.shape[1])
    if len(dense):
        tops = np.maximum.reduceat(bins[:, :last], np.minimum(first[:-1][dense], last - 1), axis=1)
        rows[:, dense] = np.maximum(rows[:, dense], tops)
    return rows
