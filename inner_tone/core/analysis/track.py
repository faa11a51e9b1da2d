"""The pitch track: the fundamental over time."""

from dataclasses import dataclass, replace

import numpy as np
import scipy
from numpy.typing import NDArray

from inner_tone.core.analysis.pitch import repetitions
from inner_tone.core.arrays import Floats
from inner_tone.core.units import frequency_of, midi_of

HOP_SECONDS = 0.005
MOST_LOOKS = 300
AT_ONCE = 64
FIRST_STRIDE = 8
ROUGH_RATE = 24_000.0
SAMPLES_IN_CYCLE = 90.0
MOST_THINNED = 8
SHORTEST = 64
FIRST_WINDOWS_S = (0.05, 0.14, 0.5)
CYCLES = 3.5
SHORTEST_WINDOW_S, LONGEST_WINDOW_S = 0.008, 0.5
QUIET = 0.01  # of the loudest passage: below, there is no pitch to speak of
CLEAR = 0.8  # below, it is not sure that there is one


@dataclass(frozen=True)
class Track:
    """The pitch at evenly spaced moments: times in s, fractional MIDI notes, NaN where none is clear.

    `window_s` is how long a passage each one was taken from; `loud` tells where there is sound at all. Where a filter
    that moves had led astray, what drives the filter was followed: that is `driven`, and true to some tens of cents.
    """

    times_s: Floats
    notes: Floats
    window_s: float
    loud: NDArray[np.bool_]
    driven: bool = False

    @property
    def hop_s(self) -> float:
        """The time from one look to the next."""
        return float(self.times_s[1] - self.times_s[0]) if len(self.times_s) > 1 else HOP_SECONDS

    @property
    def share(self) -> float:
        """For which share of the looks there is a pitch."""
        return float(np.mean(np.isfinite(self.notes))) if len(self.notes) else 0.0

    def part(self, first: int, last: int) -> "Track":
        """Return the looks from one to before another."""
        return replace(self, times_s=self.times_s[first:last], notes=self.notes[first:last], loud=self.loud[first:last])


def track(signal: Floats, rate: float) -> Track:
    """Return the pitch track of a sound, shape (n,).

    A first look with windows of a fixed length, longer ones where shorter do not tell, says how low the sound goes; the
    second takes windows of three and a half of its longest cycles, so that fast movements are not blurred, at a rate
    that still has many samples in a cycle.
    """
    rough_signal, rough_rate = thinned(signal, rate, ROUGH_RATE)
    rough = [looked(rough_signal, rough_rate, seconds, FIRST_STRIDE) for seconds in FIRST_WINDOWS_S[:1]]
    for seconds in FIRST_WINDOWS_S[1:]:
        if rough[-1].share > 0.5 or len(signal) < seconds * rate:
            break
        rough.append(looked(rough_signal, rough_rate, seconds, FIRST_STRIDE))
    first = max(rough, key=lambda one: one.share)
    heard = first.notes[np.isfinite(first.notes)]
    if len(heard) == 0:
        return first
    lowest_hz = frequency_of(float(np.percentile(heard, 5)))
    highest_hz = frequency_of(float(np.percentile(heard, 95)))
    window_s = float(np.clip(CYCLES / lowest_hz, SHORTEST_WINDOW_S, LONGEST_WINDOW_S))
    return looked(*thinned(signal, rate, SAMPLES_IN_CYCLE * highest_hz), window_s, 1)


def thinned(signal: Floats, rate: float, least_rate: float) -> tuple[Floats, float]:
    """Return a signal at the lowest part of its rate that is not below another, and that rate."""
    factor = min(MOST_THINNED, max(1, int(rate / least_rate)))
    if factor == 1 or len(signal) < factor * SHORTEST:
        return signal, rate
    return np.asarray(scipy.signal.resample_poly(signal, 1, factor)), rate / factor


def looked(signal: Floats, rate: float, window_s: float, stride: int) -> Track:
    """Return the track through windows of a length, at every `stride`-th hop."""
    size = round(window_s * rate)
    hop = max(1, round(stride * max(HOP_SECONDS, len(signal) / rate / MOST_LOOKS) * rate))
    starts = np.arange(0, max(0, len(signal) - size) + 1, hop)
    squares = np.concatenate([[0.0], np.cumsum(signal**2)])
    ends = np.minimum(starts + size, len(signal))
    powers = squares[ends] - squares[starts]
    loud = powers > QUIET**2 * np.max(powers, initial=0.0)
    notes = np.full(len(starts), np.nan)
    windows = np.lib.stride_tricks.sliding_window_view(signal, size) if len(signal) >= size else signal[np.newaxis]
    for part in np.array_split(np.flatnonzero(loud), 1 + len(starts) // AT_ONCE):
        found = repetitions(windows[starts[part]], rate)
        notes[part] = [midi_of(one.hertz) if one and one.clarity > CLEAR else np.nan for one in found]
    return Track(np.asarray((starts + 0.5 * size) / rate), notes, window_s, loud)
