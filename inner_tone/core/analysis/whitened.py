"""A sound with the filter that it went through taken away, so that what drives the filter is heard by itself.

A filter that moves turns the phase of every partial, and lifts now one and now another: the wave repeats in other times
than the oscillator's, and seems to leap by octaves. Linear prediction finds the filter from one frame to the next and
undoes it; what is left has all partials about equally strong. J. D. Markel, "The SIFT algorithm for fundamental
frequency estimation", IEEE Transactions on Audio and Electroacoustics 20 (1972), 367–377; J. Makhoul, "Linear
prediction: a tutorial review", Proceedings of the IEEE 63 (1975), 561–580.
"""

import numpy as np

from inner_tone.core.arrays import Floats

ORDER = 24
FRAME_SECONDS = 0.04
FLOOR = 1e-7  # of the power: what lies below is no partial that could be brought up
QUIET = 1e-4  # of the RMS of the whole: frames below stay silent
AT_ONCE = 512


def whitened(signal: Floats, rate: float) -> Floats:
    """Return a signal, shape (n,), with its spectrum made flat from frame to frame, as strong in each as it was."""
    size = round(FRAME_SECONDS * rate)
    hop = size // 2
    window = np.hanning(size + 1)[:-1]
    lead = ORDER + hop
    padded = np.concatenate([np.zeros(lead), signal, np.zeros(lead + size)])
    found = np.zeros(len(padded))
    least = (QUIET * float(np.sqrt(np.mean(signal**2)))) ** 2 if len(signal) else 0.0
    starts = np.arange(ORDER, len(padded) - size, hop)
    frames = np.lib.stride_tricks.sliding_window_view(padded, size + ORDER)
    for part in np.array_split(starts, 1 + len(starts) // AT_ONCE):
        for start, frame in zip(part, residuals(frames[part - ORDER], window, least), strict=True):
            found[start : start + size] += window * frame
    return found[lead : lead + len(signal)]


def residuals(frames: Floats, window: Floats, least: float) -> Floats:
    """Return what prediction from the ORDER samples before does not explain of frames, shape (frames, ORDER + n).

    Each is brought back to the power of its frame; those with less power than `least` are silent.
    """
    inner = frames[:, ORDER:]
    power = np.mean(inner**2, axis=1)
    heard = power > least
    spectra = np.abs(np.fft.rfft(inner[heard] * window, 2 * len(window))) ** 2
    likeness = np.fft.irfft(spectra)[:, : ORDER + 1]
    likeness[:, 0] += FLOOR * len(window) * power[heard]
    places = np.abs(np.subtract.outer(np.arange(ORDER), np.arange(ORDER)))
    weights = np.linalg.solve(likeness[:, places], likeness[:, 1:, np.newaxis])[..., 0]
    left = inner[heard].copy()
    for back in range(1, ORDER + 1):
        left -= weights[:, back - 1, np.newaxis] * frames[heard, ORDER - back : frames.shape[1] - back]
    left *= np.sqrt(power[heard] / np.maximum(np.mean(left**2, axis=1), 1e-300))[:, np.newaxis]
    found = np.zeros(inner.shape)
    found[heard] = left
    return found
