"""Which passage of a sound a lens looks at: one that is loud, and in which as little as possible changes."""

import numpy as np

from inner_tone.core.arrays import Floats

HOP_SECONDS, LONG_HOP_SECONDS = 0.02, 0.06
BANDS_HZ = (0.0, 125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0)
FAINT = 1e-3  # of the loudest passage: a band that is fainter may change as it likes
CHANGE_WEIGHT = 2.0
CALM = 1e-3
SIZES_S = (1.0, 0.5, 0.25)
RESTLESS_S = (1.0, 0.5)
RISES = 0.01
CALM_SPREAD = 0.06
STILL_DB = 1.5
LEAST_CYCLES = 3.0


def calmest(signal: Floats, rate: float) -> tuple[int, int]:
    """Return the first sample and the length of the longest passage in which nothing changes, if there is one.

    Where there is none, what swells is looked at for long, so that its tones part, and what dies away for shorter.
    """
    hop = max(1, round(HOP_SECONDS * rate))
    hops = len(signal) // hop
    if hops < 2:
        return 0, len(signal)
    levels = band_levels(signal[: hops * hop].reshape(hops, hop), rate)
    fallback = (0, len(signal))
    restless = RESTLESS_S[int(dies_away(levels))]
    for seconds in SIZES_S:
        size = min(len(signal), round(seconds * rate))
        start, spread = steadiest(levels, max(1, size // hop))
        if spread < CALM_SPREAD:
            return min(start * hop, len(signal) - size), size
        if seconds == restless:
            fallback = min(start * hop, len(signal) - size), size
    return fallback


def is_calm(signal: Floats, rate: float) -> bool:
    """Tell whether nothing changes in a passage but what beats too fast to be followed."""
    hop = max(1, round(LONG_HOP_SECONDS * rate))
    hops = len(signal) // hop
    if hops < 2:
        return False
    return steadiest(band_levels(signal[: hops * hop].reshape(hops, hop), rate), hops)[1] < CALM_SPREAD


def dies_away(levels: Floats) -> bool:
    """Tell whether levels in octaves over hops, shape (hops, octaves), together only fall from their top on."""
    whole = np.sqrt(np.sum(levels**2, axis=1))
    after = whole[int(np.argmax(whole)) :]
    return bool(np.all(np.diff(after) < RISES * np.max(whole)))


def steadiest(levels: Floats, span: int) -> tuple[int, float]:
    """Return the first of so many hops in which it is loud and changes least, and how much it changes there.

    `levels` are RMS in octaves over hops, shape (hops, octaves). Each passage is rated by its level less twice what its
    octaves spread; of equals the earliest wins. What it changes is a share of its level.
    """
    windows = np.lib.stride_tricks.sliding_window_view(levels, min(span, len(levels)), axis=0)
    spreads = np.sqrt(np.sum(windows.var(axis=2), axis=1))
    whole = np.sqrt(np.sum(levels**2, axis=1))
    means = np.lib.stride_tricks.sliding_window_view(whole, min(span, len(levels))).mean(axis=1)
    rating = means - CHANGE_WEIGHT * spreads
    best = np.flatnonzero(rating >= np.max(rating) - CALM * max(1e-9, float(np.max(whole))))
    at = int(best[0])
    return at, float(spreads[at] / means[at]) if means[at] > 0.0 else 1.0


def band_levels(parts: Floats, rate: float) -> Floats:
    """Return the RMS of each part, shape (parts, n), in each octave, shape (parts, bands)."""
    n = parts.shape[1]
    powers = np.abs(np.fft.rfft(parts * np.hanning(n), axis=1)) ** 2
    edges = np.minimum(np.ceil(np.array(BANDS_HZ) * n / rate).astype(int), powers.shape[1] - 1)
    sums = np.add.reduceat(powers, edges, axis=1)
    return np.asarray(np.sqrt(sums * 2.0 / 0.375) / n)


def is_changing(passage: Floats, rate: float, cycle_s: float) -> bool:
    """Tell whether the balance of octaves changes within a passage, apart from its level.

    It is looked at in quarters, or in halves where quarters would have too few cycles; where both have, none can tell.
    """
    least = max(LEAST_CYCLES * cycle_s, HOP_SECONDS) * rate
    parts = 4 if len(passage) // 4 >= least else 2
    size = len(passage) // parts
    if size < least:
        return True
    levels = band_levels(passage[: parts * size].reshape(parts, size), rate)
    whole = np.sqrt(np.sum(levels**2, axis=1, keepdims=True))
    if np.min(whole) <= 0.0:
        return True
    shares = 20.0 * np.log10(np.maximum(levels / whole, 1e-9))
    heard = np.max(shares, axis=0) > 20.0 * np.log10(30.0 * FAINT)
    return bool(np.any(np.ptp(shares[:, heard], axis=0) > STILL_DB))
