"""Cycle against cycle: what of a wave is the same each time that it comes back, and what is not.

Each cycle is as long as the pitch of its own moment says, laid on as many points as any other, and turned until it fits
the first one best: where their circular cross-correlation is greatest (A. V. Oppenheim, R. W. Schafer, "Discrete-Time
Signal Processing", 3rd ed., 2010, chapter 8). So neither a pitch that moves nor the place at which a cycle was cut open
counts as another form.
"""

from dataclasses import dataclass

import numpy as np
import scipy

from inner_tone.core.arrays import Floats
from inner_tone.core.units import decibels

POINTS = 512
TURNS = 4096  # places to which a cycle can be turned
LOUD_DB = 30.0  # below the loudest moment, down to where cycles are looked at
STEEP = 1.12  # by which a level may rise or fall from one half of a cycle to the next: 1 dB
LEAST_SHARE = 0.4  # of the moments at which there is a sound, that must have a pitch
NEAR, TRIED = 0.02, 41  # of a cycle's length: how far from the course of the pitch its own length is looked for
FLAT = 1e-6  # of full scale: what is no stronger has no form


@dataclass(frozen=True)
class Cycles:
    """Cycles through a moment, in their order: where each begins in s, how often a second it comes back, its points.

    `points` has the shape (cycles, POINTS + 1): the last one is where the next cycle begins. `levels_db` are RMS
    levels, and `apart` says how far each one's form is from that of the first: the RMS of their difference as a share
    of the RMS of one, levels left out.
    """

    begins_s: Floats
    often_hz: Floats
    points: Floats
    levels_db: Floats
    apart: Floats

    def __len__(self) -> int:
        return len(self.begins_s)


NONE = Cycles(np.zeros(0), np.zeros(0), np.zeros((0, POINTS + 1)), np.zeros(0), np.zeros(0))


def cycles_of(signal: Floats, rate: float, times_s: Floats, often_hz: Floats, count: int) -> Cycles:
    """Return cycles that are spread evenly through a signal; none where its wave does not come back for long enough.

    Parameters
    ----------
    signal
        Shape (n,).
    rate
        The sampling rate in Hz.
    times_s, often_hz
        At which moments its wave comes back how often a second, shapes (looks,); NaN where that is not known.
    count
        How many cycles, at most.
    """
    lengths = rate / often_hz
    first = np.round(times_s * rate - 0.5 * lengths)
    whole = np.isfinite(lengths) & (first >= 1) & (first + lengths < len(signal) - 2)
    usual = float(np.nanmedian(lengths)) if np.any(np.isfinite(lengths)) else 1.0
    early, strength, late = (
        level_at(signal, times_s + shift * usual / rate, rate, usual) for shift in (-0.5, 0.0, 0.5)
    )
    # where a key goes down or up, what is between is no cycle of either side
    even = np.maximum(early, late) < STEEP * np.minimum(early, late)
    loud = even & (strength > np.max(strength, initial=0.0) * 10.0 ** (-LOUD_DB / 20.0))
    places = np.flatnonzero(whole & loud & (strength > FLAT))
    if len(places) < 2 or len(places) < LEAST_SHARE * np.count_nonzero(loud):
        return NONE
    chosen = places[np.unique(np.round(np.linspace(0, len(places) - 1, count)).astype(int))]
    exact = np.array([exact_length(signal, first[place], lengths[place]) for place in chosen])
    found = np.stack([laid_out(signal, first[place], length) for place, length in zip(chosen, exact, strict=True)])
    fitted = np.stack([turned_to(found[0], one) for one in found])
    fitted = np.roll(fitted, -rising_edge(fitted[0]), axis=1)
    forms = np.stack([form_of(one) for one in fitted])
    apart = np.sqrt(np.mean((forms - forms[0]) ** 2, axis=1))
    levels = np.array([decibels(float(np.sqrt(np.mean(one**2)))) for one in fitted])
    closed = np.concatenate([fitted, fitted[:, :1]], axis=1)
    return Cycles(first[chosen] / rate, rate / exact, closed, levels, apart)


def level_at(signal: Floats, times_s: Floats, rate: float, length: float) -> Floats:
    """Return the RMS around some moments, over about a cycle."""
    smooth = scipy.ndimage.uniform_filter1d(signal * signal, max(1, round(length)), mode="constant")
    at = np.clip(np.round(times_s * rate).astype(int), 0, max(0, len(signal) - 1))
    return np.sqrt(np.maximum(smooth[at], 0.0)) if len(signal) else np.zeros(len(at))


def exact_length(signal: Floats, first: float, length: float) -> float:
    """Return the length of a cycle in samples: where what follows differs least from it, near the length that is known.

    The course of the pitch is true to some cents; least squares between neighbours, to hundredths of one.
    """
    start = max(0.0, min(first - 0.5 * length, len(signal) - (2.0 + NEAR) * length - 2.0))
    tried = length * (1.0 + NEAR * np.linspace(-1.0, 1.0, TRIED))
    here = laid_out(signal, start, length)
    strength = float(np.mean(here**2)) + FLAT**2
    low = max(0, int(start) - 4)
    part_of_it = signal[low : int(start + (2.0 + NEAR) * length) + 6]
    shifted = start + tried[:, np.newaxis] + length * np.arange(POINTS) / POINTS - low
    there = scipy.ndimage.map_coordinates(part_of_it, [shifted], order=3, mode="nearest")
    scaled = there * np.sqrt(strength / (np.mean(there**2, axis=1, keepdims=True) + FLAT**2))
    left = np.mean((scaled - here) ** 2, axis=1)
    best = int(np.argmin(left))
    if not 0 < best < TRIED - 1:
        return length
    before, at, after = left[best - 1 : best + 2]
    bend = before - 2.0 * at + after
    part = 0.5 * (before - after) / bend if bend > 0.0 else 0.0
    return float(tried[best] + part * (tried[1] - tried[0]))


def laid_out(signal: Floats, first: float, length: float) -> Floats:
    """Return a cycle on so many points, each the cubic through the samples around it."""
    places = first + length * np.arange(POINTS) / POINTS
    low = int(places[0]) - 4 if places[0] >= 4 else 0
    part = signal[low : int(places[-1]) + 6]
    return np.asarray(scipy.ndimage.map_coordinates(part, [places - low], order=3, mode="nearest"))


def turned_to(first: Floats, other: Floats) -> Floats:
    """Return a cycle, turned until it fits another one best."""
    ours, theirs = np.fft.rfft(first - np.mean(first)), np.fft.rfft(other - np.mean(other))
    fits = np.fft.irfft(ours * np.conj(theirs), TURNS)
    turn = float(np.argmax(fits)) / TURNS
    spun = np.fft.rfft(other) * np.exp(-2j * np.pi * np.arange(len(theirs)) * turn)
    return np.asarray(np.fft.irfft(spun, POINTS))


def rising_edge(cycle: Floats) -> int:
    """Return the point at which a cycle crosses its mean upwards for the longest time."""
    above = cycle > np.mean(cycle)
    rises = np.flatnonzero(above & ~np.roll(above, 1))
    if len(rises) == 0:
        return 0
    stays = [int(np.argmin(np.append(np.roll(above, -rise), False))) for rise in rises]
    return int(rises[int(np.argmax(stays))])


def form_of(cycle: Floats) -> Floats:
    """Return a cycle without its mean and its level."""
    swing = cycle - np.mean(cycle)
    return np.asarray(swing / max(float(np.sqrt(np.mean(swing**2))), FLAT))
