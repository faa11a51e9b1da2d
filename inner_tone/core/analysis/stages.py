"""Stages: the attack, decay, sustain and release that a sound or an envelope has gone through."""

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import maximum_filter1d, uniform_filter1d

from inner_tone.core.modules.kernel import Floats

TOP = 0.999  # of the greatest level, from which on it counts as the top
BEGUN = 0.001
SETTLED = 0.004  # of the greatest level: so near to where it stays, the decay is over
GONE = 0.001
LEAST_HELD = 64
RIPPLE_SECONDS = 0.05
RIPPLE_SPREADS = 4.0
TREMBLING = 0.002
FALLING = 1e-6  # of the greatest level, from one look to the next
STEADY_SECONDS = 0.02
SILENT_SECONDS = 0.02
UNPITCHED_SECONDS = 0.01


@dataclass(frozen=True)
class Stages:
    """Times in s, the sustain level in dB below the top; the release is unknown where the sound does not end.

    It begins at `begin_s`, and at `closing_s` its release.
    """

    begin_s: float
    attack_s: float
    decay_s: float
    sustain_db: float
    release_s: float | None
    closing_s: float | None


def amplitude_of(signal: Floats, rate: float, fundamental_hz: float | None) -> Floats:
    """Return the course of a sound's amplitude, shape (n,): the greatest value within a cycle of its pitch."""
    seconds = 1.0 / fundamental_hz if fundamental_hz else UNPITCHED_SECONDS
    size = max(1, round(seconds * rate))
    found: Floats = maximum_filter1d(np.abs(signal), size, mode="constant")
    return found


def mean_over_cycle(power: Floats, rate: float, fundamental_hz: float | None) -> Floats:
    """Return the course of a sound's power, shape (n,), as its mean over a cycle of its pitch."""
    seconds = 1.0 / fundamental_hz if fundamental_hz else UNPITCHED_SECONDS
    found: Floats = uniform_filter1d(power, max(1, round(seconds * rate)), mode="constant")
    return found


def first_stretch(level: Floats, rate: float) -> Floats:
    """Return a level up to where it has fallen silent for the first time, with the rest at zero."""
    heard = np.flatnonzero(level > GONE * np.max(level, initial=0.0))
    gaps = np.flatnonzero(np.diff(heard) > SILENT_SECONDS * rate)
    if len(gaps) == 0:
        return level
    found = level.copy()
    found[heard[gaps[0]] + 1 :] = 0.0
    return found


def stages(level: Floats, rate: float, *, grain_s: float = 0.002, power: Floats | None = None) -> Stages | None:
    """Return the stages of a level that rises, falls to where it stays, and falls to zero; nothing for silence.

    Parameters
    ----------
    level
        Shape (n,), never below zero: an envelope itself, or `amplitude_of` a sound.
    rate
        The sampling rate in Hz.
    grain_s
        In steps of this length the level is looked at for its last fall; a cycle at least, where it is a sound's.
    power
        The mean power over a cycle, shape (n,): where the level trembles, its top is looked for there.
    """
    top = float(np.max(level, initial=0.0))
    if top <= 0.0:
        return None
    peak = int(np.flatnonzero(level >= TOP * top)[0])
    end = int(np.flatnonzero(level > GONE * top)[-1]) + 1
    before = np.flatnonzero(level[: peak + 1] <= BEGUN * top)
    begin = int(before[-1]) if len(before) else 0
    last = release_start(level, peak, end, top, round(grain_s * rate))
    if power is not None and ripple(level[peak : last + 1], top, rate) > TREMBLING:
        peak = int(np.flatnonzero(power >= TOP**2 * np.max(power))[0])
    held = level[max(peak, last - round(STEADY_SECONDS * rate)) : last + 1]
    sustain = float(np.median(held)) if len(held) else top
    settled = np.flatnonzero(level[peak : last + 1] <= sustain + SETTLED * top)
    decay = int(settled[0]) if len(settled) else last - peak
    ended = end < len(level)
    return Stages(
        begin_s=begin / rate,
        attack_s=(peak - begin) / rate,
        decay_s=decay / rate if sustain < (1.0 - SETTLED) * top else 0.0,
        sustain_db=float(20.0 * np.log10(max(sustain, 1e-6) / top)),
        release_s=(end - last) / rate if ended else None,
        closing_s=last / rate if ended else None,
    )


def ripple(held: Floats, top: float, rate: float) -> float:
    """Return by how much of the top a held level trembles, as a tone's does whose crests fall between the samples."""
    held = held[-round(RIPPLE_SECONDS * rate) :]
    if len(held) < LEAST_HELD:
        return 0.0
    along = np.linspace(-1.0, 1.0, len(held))
    even = held - np.polyval(np.polyfit(along, held, 2), along)
    return RIPPLE_SPREADS * float(np.std(even)) / top


def release_start(level: Floats, peak: int, end: int, top: float, grain: int) -> int:
    """Return where the last fall begins: going back from the end, where the level no longer rises towards the past."""
    stride = max(1, grain)
    here = end - 1
    while here - stride > peak and level[here - stride] > level[here] + FALLING * top:
        here -= stride
    return here
