"""What the analysis is given: a part of a signal, and what is known of it from elsewhere."""

from dataclasses import dataclass, field
from functools import cached_property, partial

import numpy as np

from inner_tone.core.analysis.thresholds import COARSE, SILENT
from inner_tone.core.arrays import Floats


@dataclass(frozen=True)
class Given:
    """A part of a signal, shape (n,), that begins at a time in s.

    `gates_s` are the times, in s, from when to when something is known to be struck and held: no passage reaches across
    them. `looked` are the samples to be looked at, from one to before another, where something else decides that.
    `lead` is what sounded just before it, as far as there is anything before it. `course_hz` is how often a second its
    cycle comes back at each sample, shape (n,), where what made it tells that.
    """

    signal: Floats
    rate: float
    begin_s: float = 0.0
    gates_s: tuple[tuple[float, float], ...] = ()
    looked: tuple[int, int] | None = None
    lead: Floats = field(default_factory=partial(np.zeros, 0))
    course_hz: Floats | None = None

    @property
    def seconds(self) -> float:
        """How long it lasts."""
        return len(self.signal) / self.rate

    @cached_property
    def peak(self) -> float:
        """The greatest distance from zero."""
        return float(np.max(np.abs(self.signal), initial=0.0))

    @property
    def is_silent(self) -> bool:
        """Whether nothing is there."""
        return self.peak < SILENT

    def between(self, begin_s: float, end_s: float) -> Floats:
        """Return the samples between two times from its own beginning, in s."""
        return self.signal[max(0, round(begin_s * self.rate)) : round(end_s * self.rate)]


def in_blocks(values: Floats) -> Floats:
    """Return values in blocks that the coarse rate takes for one, shape (blocks, COARSE); the last is filled up."""
    return np.pad(values, (0, -len(values) % COARSE)).reshape(-1, COARSE)
