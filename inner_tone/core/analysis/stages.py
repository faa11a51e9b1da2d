"""Stages: the attack, decay, sustain and release that a sound or an envelope has gone through."""

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import maximum_filter1d

from inner_tone.core.modules.kernel import Floats

TOP = 0.999  # of the greatest level, from which on it counts as the top
BEGUN = 0.001
SETTLED = 0.004  # of the greatest level: so near to where it stays, the decay is over
GONE = 0.001
FALLING = 1e-6  # of the greatest level, from one look to the next
STEADY_SECONDS = 0.02
UNPITCHED_SECONDS = 0.01


@dataclass(frozen=True)
class Stages:
    """Times in s, the sustain level in dB below the top; the release is unknown where the sound does not end."""

    attack_s: float
    decay_s: float
    sustain_db: float
    release_s: float | None


def amplitude_of(signal: Floats, rate: float, fundamental_hz: float | None) -> Floats:
    """Return the course of a sound's amplitude, shape (n,): the greatest value within a cycle of its pitch."""
    seconds = 1.0 / fundamental_hz if fundamental_hz else UNPITCHED_SECONDS
    size = max(1, round(seconds * rate))
    found: Floats = maximum_filter1d(np.abs(signal), size, mode="constant")
    return found


def stages(level: Floats, rate: float, *, grain_s: float = 0.002) -> Stages | None:
    """Return the stages of a level that rises, falls to where it stays, and falls to zero; nothing for silence.

    Parameters
    ----------
    level
        Shape (n,), never below zero: an envelope itself, or `amplitude_of` a sound.
    rate
        The sampling rate in Hz.
    grain_s
        In steps of this length the level is looked at for its last fall; a cycle at least, where it is a sound's.
    """
    top = float(np.max(level, initial=0.0))
    if top <= 0.0:
        return None
    peak = int(np.flatnonzero(level >= TOP * top)[0])
    before = np.flatnonzero(level[: peak + 1] <= BEGUN * top)
    begin = int(before[-1]) if len(before) else 0
    heard = np.flatnonzero(level > GONE * top)
    end = int(heard[-1]) + 1
    last = release_start(level, peak, end, top, round(grain_s * rate))
    held = level[max(peak, last - round(STEADY_SECONDS * rate)) : last + 1]
    sustain = float(np.median(held)) if len(held) else top
    settled = np.flatnonzero(level[peak : last + 1] <= sustain + SETTLED * top)
    decay = int(settled[0]) if len(settled) else last - peak
    ended = end < len(level)
    return Stages(
        attack_s=(peak - begin) / rate,
        decay_s=decay / rate if sustain < (1.0 - SETTLED) * top else 0.0,
        sustain_db=float(20.0 * np.log10(max(sustain, 1e-6) / top)),
        release_s=(end - last) / rate if ended else None,
    )


def release_start(level: Floats, peak: int, end: int, top: float, grain: int) -> int:
    """Return where the last fall begins: going back from the end, where the level no longer rises towards the past."""
    stride = max(1, grain)
    here = end - 1
    while here - stride > peak and level[here - stride] > level[here] + FALLING * top:
        here -= stride
    return here
