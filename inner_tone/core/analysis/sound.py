"""A signal, and its parts with what lenses need to know of them, each thing found out once."""

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from inner_tone.core.analysis import loudness
from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.analysis.thresholds import LEAD_S
from inner_tone.core.arrays import Floats

MOST_KEPT = 12
EDGE_S = 0.001

Gates = tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class Sound:
    """One tap of a render, or a recording: its signal, shape (n,), and its sampling rate in Hz."""

    signal: Floats
    rate: float
    _parts: dict[tuple[float, float, Gates, bool], Excerpt] = field(default_factory=dict, repr=False, compare=False)

    @property
    def seconds(self) -> float:
        """How long it lasts."""
        return len(self.signal) / self.rate

    def excerpt(
        self,
        begin_s: float = 0.0,
        end_s: float | None = None,
        gates_s: Gates = (),
        course_hz: Floats | None = None,
    ) -> Excerpt:
        """Return what there is between two times in s, with what is known to be struck and held meanwhile.

        `course_hz`, if it is known, is how often a second its cycle comes back at each sample of all of it.
        """
        end_s = self.seconds if end_s is None else min(end_s, self.seconds)
        key = begin_s, end_s, gates_s, course_hz is not None
        found = self._parts.get(key)
        if found is None:
            found = self.part(begin_s, end_s, gates_s, course_hz)
            while len(self._parts) >= MOST_KEPT:
                self._parts.pop(next(iter(self._parts)), None)
            self._parts[key] = found
        return found

    def part(self, begin_s: float, end_s: float, gates_s: Gates, course_hz: Floats | None = None) -> Excerpt:
        """Return what there is between two times in s, of which nothing is known yet."""
        first, last = round(begin_s * self.rate), round(end_s * self.rate)
        # gates are known to the sample, times are not: what ends where this begins is not open meanwhile
        within = tuple(one for one in gates_s if one[1] > begin_s + EDGE_S and one[0] < end_s - EDGE_S)
        lead = self.signal[max(0, first - round(LEAD_S * self.rate)) : first]
        course = course_hz[first:last] if course_hz is not None else None
        return Excerpt(self.signal[first:last], self.rate, begin_s, within, lead=lead, course_hz=course)

    def begun_at(self, seconds: float) -> "Sound":
        """Return it from a time in s on; with silence before it, if that is negative."""
        count = round(seconds * self.rate)
        if count == 0:
            return self
        signal = self.signal[count:] if count > 0 else np.concatenate([np.zeros(-count), self.signal])
        return Sound(np.ascontiguousarray(signal), self.rate)

    @cached_property
    def whole(self) -> Excerpt:
        """All of it."""
        return self.excerpt()

    @cached_property
    def weighted_power(self) -> Floats:
        """Its power as the ear weighs it, shape (n,)."""
        return loudness.weighted_power(self.signal[np.newaxis], self.rate)

    def loudness_lufs(self, begin_s: float = 0.0, end_s: float | None = None) -> float:
        """Return its integrated loudness between two times in s, in LUFS, as of one channel."""
        last = len(self.signal) if end_s is None else round(end_s * self.rate)
        return loudness.integrated(self.weighted_power[round(begin_s * self.rate) : last], self.rate)
