"""Which passage of a render a lens looks at when nobody has said so."""

import numpy as np

from inner_tone.core.modules.kernel import Floats

HOP_SECONDS = 0.02


def steadiest(signal: Floats, rate: float, seconds: float) -> int:
    """Return the first sample of the passage of `seconds` in which the sound is loud and changes least.

    Each passage is rated by its level less twice the spread of its level, both as RMS over hops of 20 ms; of
    equals the earliest wins.
    """
    hop = max(1, round(HOP_SECONDS * rate))
    hops = len(signal) // hop
    span = max(1, round(seconds * rate / hop))
    if hops <= span:
        return 0
    levels = np.sqrt(np.mean(signal[: hops * hop].reshape(hops, hop) ** 2, axis=1))
    windows = np.lib.stride_tricks.sliding_window_view(levels, span)
    rating = windows.mean(axis=1) - 2.0 * windows.std(axis=1)
    best = np.flatnonzero(rating >= np.max(rating) - 1e-3 * max(1e-9, float(np.max(levels))))
    return int(best[0]) * hop
