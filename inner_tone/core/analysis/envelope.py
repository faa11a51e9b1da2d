"""How strong a sound is from moment to moment, apart from its wave.

Within a cycle the strength of a wave cannot be read off its values. But where the wave keeps its form, it is known from
the passage in which it is steady; laid beside every other moment, it tells how much of it is there then. So an attack
that is shorter than a cycle is told exactly. Where the form changes, there is only the power over a cycle.
"""

from dataclasses import dataclass

import numpy as np
import scipy

from inner_tone.core.arrays import Floats

STEP_SECONDS = 0.0005
FINER = 4
MOST_CYCLES = 3
MARGIN = 16  # samples, for what reads between them
LEAST_CYCLES = 6
SHORTEST_LOOK_S = 0.0008
LOOKS_CYCLES = (0.12, 0.3, 1.0)
JITTER = 0.01
LEAST_OWN = 1e-3
UNPITCHED_S = 0.01
FITTING = 0.97  # of the power that the wave must explain
CYCLES_IN_MEAN = 1.0


@dataclass(frozen=True)
class Envelope:
    """The strength of a sound at evenly spaced moments, never below zero, and how long each look at it is, in s.

    It is `exact` where the wave is known, or where it is a course of strength itself. `cycle_s` is how long a cycle of
    that wave lasts.
    """

    levels: Floats
    step_s: float
    look_s: float
    exact: bool = True
    cycle_s: float = 0.0

    @property
    def top(self) -> float:
        """The greatest."""
        return float(np.max(self.levels, initial=0.0))

    def part(self, begin_s: float, end_s: float) -> Floats:
        """Return the levels between two times in s."""
        return self.levels[max(0, round(begin_s / self.step_s)) : max(0, round(end_s / self.step_s))]


def plain(signal: Floats, rate: float) -> Envelope:
    """Return a signal that is itself a course of strength."""
    return Envelope(np.abs(signal), 1.0 / rate, 1.0 / rate)


def envelope_of(signal: Floats, rate: float, first: int, last: int, fundamental_hz: float | None) -> Envelope:
    """Return the envelope of a signal, shape (n,), whose wave is steady between two samples."""
    cycle_s = 1.0 / fundamental_hz if fundamental_hz else UNPITCHED_S
    if fundamental_hz and (last - first) > LEAST_CYCLES * cycle_s * rate:
        found = matched(signal, rate, first, last, fundamental_hz)
        if found is not None:
            return found
    size = max(1, round(CYCLES_IN_MEAN * cycle_s * rate))
    stride = max(1, round(STEP_SECONDS * rate))
    power = scipy.ndimage.uniform_filter1d(signal**2, size, mode="reflect")[::stride]
    return Envelope(np.sqrt(2.0 * np.maximum(power, 0.0)), stride / rate, size / rate, exact=False)


def matched(signal: Floats, rate: float, first: int, last: int, fundamental_hz: float) -> Envelope | None:
    """Return how much of the steady wave there is at each moment, or None if the signal is not made of that wave.

    The looks are as short as its noise allows.
    """
    laid = laid_beside(signal, rate, first, last, fundamental_hz)
    top = float(np.max(np.abs(laid), initial=0.0))
    if top <= 0.0:
        return None
    stride = max(1, round(STEP_SECONDS * rate))
    for cycles in LOOKS_CYCLES:
        size = max(1, round(max(SHORTEST_LOOK_S, cycles / fundamental_hz) * rate))
        strength = strength_of(signal, laid, size)
        held = strength[first + (last - first) // 4 : last - (last - first) // 4 : stride]
        if cycles == LOOKS_CYCLES[-1] or trembling(held) < JITTER * np.mean(held):
            break
    left = float(np.sum((signal - strength * laid) ** 2))
    if left > (1.0 - FITTING) * float(np.sum(signal**2)):
        return None
    levels = np.maximum(strength[::stride], 0.0) * top
    return Envelope(levels, stride / rate, size / rate, cycle_s=1.0 / fundamental_hz)


def trembling(levels: Floats) -> float:
    """Return by how much a level trembles from look to look, as that of a sound with noise in it does."""
    return float(np.std(np.diff(levels, 2))) / np.sqrt(6.0) if len(levels) > 3 else 0.0


def strength_of(signal: Floats, laid: Floats, size: int) -> Floats:
    """Return by least squares how much of a wave there is in a signal, over so many samples around each."""
    both = scipy.ndimage.uniform_filter1d(signal * laid, size, mode="reflect")
    own = scipy.ndimage.uniform_filter1d(laid**2, size, mode="reflect")
    return np.asarray(both / np.maximum(own, LEAST_OWN * float(np.mean(laid**2))))


def laid_beside(signal: Floats, rate: float, first: int, last: int, fundamental_hz: float) -> Floats:
    """Return the steady wave between two samples, the mean of some of its cycles, laid beside every other moment."""
    passage, period = signal[first:last], rate / fundamental_hz
    cycles = int((last - first - 2 * MARGIN) / period) - 1
    taken = np.unique(np.linspace(1, cycles - 1, min(MOST_CYCLES, cycles)).astype(int))
    places = np.linspace(0.0, period, max(16, round(FINER * period)) + 1)
    wave = np.mean([between_samples(passage, cycle * period + MARGIN + places) for cycle in taken], axis=0)
    phases = (np.arange(len(signal)) - first - MARGIN) % period
    return np.asarray(np.interp(phases, places, wave))


def between_samples(passage: Floats, places: Floats) -> Floats:
    """Return the values of a passage at places between its samples, at least MARGIN samples from either end."""
    begin = int(places[0]) - MARGIN
    part = passage[begin : int(places[-1]) + MARGIN + 1]
    fine = scipy.signal.resample_poly(part, FINER, 1)
    return np.asarray(np.interp((places - begin) * FINER, np.arange(len(fine)), fine))
