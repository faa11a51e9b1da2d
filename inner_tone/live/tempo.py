"""The beat from outside: ticks that wander become a beat that only ever goes on.

A loop of second order that is locked to the phase of the ticks (F. M. Gardner, "Phaselock techniques", 2005): what is
late or early by a part of a beat bends the tempo for a while, and the tempo itself a little for good. So a tick that
comes late makes no step late, and none can be given twice or lost, since the tempo stays above zero.
"""

from dataclasses import dataclass

from inner_tone.core.engine.timing import Timing
from inner_tone.core.phrase import GREATEST_TEMPO, LEAST_TEMPO

TICKS_PER_BEAT = 24
FIRST = 12  # ticks from which a tempo is taken at the beginning
PHASE, RATE = 0.08, 0.004  # how much of what is missing is made good with each tick: for a while, and for good
LOST_S = 1.5  # without a tick for so long, the outside clock is gone


@dataclass
class Outside:
    """An outside clock as it is heard: how many ticks there were, when, and which tempo is behind them."""

    ticks: int = 0
    first: int = 0
    last: int = 0
    tempo: float = 120.0
    origin: float = 0.0  # the beat that the first tick falls on

    def tick(self, position: int, rate: float, timing: Timing) -> Timing:
        """Return the beat after one more tick, which came at a sample."""
        if self.ticks == 0 or position - self.last > LOST_S * rate:
            self.ticks, self.first, self.tempo = 1, position, timing.tempo
            self.origin = timing.beat_at(position, rate)
            self.last = position
            return timing
        self.ticks += 1
        self.last = position
        if self.ticks <= FIRST:
            per_tick = (position - self.first) / (self.ticks - 1)
            self.tempo = within(60.0 * rate / (TICKS_PER_BEAT * max(1.0, per_tick)))
        meant = self.origin + (self.ticks - 1) / TICKS_PER_BEAT
        late = meant - timing.beat_at(position, rate)
        if self.ticks > FIRST:
            self.tempo = within(self.tempo * (1.0 + RATE * TICKS_PER_BEAT * late))
        return timing.turned(position, rate, within(self.tempo * (1.0 + PHASE * TICKS_PER_BEAT * late)))

    def begin(self) -> None:
        """Count anew from the next tick, which falls on the beat that it finds."""
        self.ticks = 0

    def present(self, position: int, rate: float) -> bool:
        """Tell whether the clock is still heard."""
        return self.ticks > 0 and position - self.last < LOST_S * rate


def within(tempo: float) -> float:
    """Return a tempo held within what modules can follow."""
    return min(GREATEST_TEMPO, max(LEAST_TEMPO, tempo))
