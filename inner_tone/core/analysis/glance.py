"""A look in passing, for pictures that follow what sounds now.

It takes the pitch from one look at how the wave comes back, and partials from the bins: some milliseconds instead of
some tens. Nothing is said with it: sentences rest on facts that are found out with care, and that takes its time.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from inner_tone.core.analysis import spectrum
from inner_tone.core.analysis.beating import Beating
from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.analysis.harmonics import Harmonics
from inner_tone.core.analysis.melody import Melody
from inner_tone.core.analysis.pitch import Repetition, repetitions
from inner_tone.core.analysis.series import Series
from inner_tone.core.analysis.sound import Gates, Sound
from inner_tone.core.analysis.stages import Stages
from inner_tone.core.analysis.window import Window
from inner_tone.core.arrays import Floats
from inner_tone.core.units import midi_of

CLEAR = 0.9
LOOKED_S = 0.1  # so long a stretch tells the pitch
NEAR_TOP_DB = 70.0
MOST_SEEN = 40


@dataclass(frozen=True)
class Glance(Excerpt):
    """A part of a signal that is only looked at in passing."""

    @cached_property
    def melody(self) -> Melody:
        """No course of the pitch."""
        return Melody((), (), None, 0.0)

    @cached_property
    def telling_window(self) -> Window:
        """All of it."""
        return Window(0, len(self.signal))

    @cached_property
    def repetition(self) -> Repetition | None:
        """How its end repeats."""
        return repetitions(self.signal[np.newaxis, -round(LOOKED_S * self.rate) :], self.rate)[0]

    @cached_property
    def series(self) -> Series:
        """One series, if it repeats clearly."""
        found = self.repetition
        return Series(found.hertz if found is not None and found.clarity > CLEAR else None)

    @cached_property
    def sinusoids(self) -> tuple[spectrum.Partial, ...]:
        """The peaks of its spectrum, between the bins by a parabola."""
        if len(self.signal) < spectrum.SHORTEST:
            return ()
        size = spectrum.size_for(len(self.signal))
        levels = spectrum.levels(self.signal, size)
        inner = levels[1:-1]
        high = float(np.max(levels)) - NEAR_TOP_DB
        places = np.flatnonzero((inner > levels[:-2]) & (inner >= levels[2:]) & (inner > high)) + 1
        strongest = sorted(places[np.argsort(-levels[places])][:MOST_SEEN])
        return tuple(self.peak_at(levels, int(place), self.rate / size) for place in strongest)

    def peak_at(
        self, levels: "np.ndarray[tuple[int, ...], np.dtype[np.float64]]", place: int, width: float
    ) -> spectrum.Partial:
        """Return the partial at a peak."""
        before, top, after = (float(levels[place + shift]) for shift in (-1, 0, 1))
        bend = before - 2.0 * top + after
        part = 0.0 if bend == 0.0 else 0.5 * (before - after) / bend
        hertz = (place + part) * width
        return spectrum.Partial(hertz, top - 0.25 * (before - after) * part, midi_of(hertz), 0)

    @cached_property
    def harmonics(self) -> Harmonics | None:
        """Nothing."""
        return None

    @cached_property
    def fundamental_hz(self) -> float | None:
        """That of the series."""
        return self.series.fundamental_hz

    @cached_property
    def tonal_share(self) -> float:
        """All, if it repeats."""
        return 1.0 if self.fundamental_hz is not None else 0.0

    @cached_property
    def slow_hz(self) -> float | None:
        """Nothing."""
        return None

    @cached_property
    def stages(self) -> Stages | None:
        """Nothing."""
        return None

    @cached_property
    def beating(self) -> Beating | None:
        """Nothing."""
        return None


@dataclass(frozen=True)
class Passing(Sound):
    """A sound that is only looked at in passing."""

    def part(self, begin_s: float, end_s: float, gates_s: Gates, course_hz: Floats | None = None) -> Excerpt:
        """Return a glance at what there is between two times; a course that is known is not looked at."""
        whole = super().part(begin_s, end_s, gates_s)
        return Glance(whole.signal, whole.rate, whole.begin_s, whole.gates_s)
