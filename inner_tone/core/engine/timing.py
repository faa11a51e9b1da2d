"""The beat that modules follow: a tempo, and a beat that is known to fall on a sample."""

from dataclasses import dataclass, replace


@dataclass(frozen=True)
class Timing:
    """How beats lie in samples: `beat` falls on the sample `since`; from there on `tempo` beats pass in a minute."""

    tempo: float = 120.0
    since: int = 0
    beat: float = 0.0
    runs: bool = True

    def samples_per_beat(self, rate: float) -> float:
        """How many samples pass from one beat to the next."""
        return 60.0 / self.tempo * rate

    def beat_at(self, position: float, rate: float) -> float:
        """Return which beat it is at a sample."""
        return self.beat + (position - self.since) / self.samples_per_beat(rate) if self.runs else self.beat

    def turned(self, position: int, rate: float, tempo: float) -> "Timing":
        """Return the timing with another tempo from a sample on."""
        return replace(self, tempo=tempo, since=position, beat=self.beat_at(position, rate))

    def begun(self, position: int, beat: float) -> "Timing":
        """Return the timing that runs from a beat on at a sample."""
        return replace(self, since=position, beat=beat, runs=True)

    def halted(self, position: int, rate: float) -> "Timing":
        """Return the timing that stands still from a sample on."""
        return replace(self, since=position, beat=self.beat_at(position, rate), runs=False)

    @property
    def numbers(self) -> list[float]:
        """The numbers by which kernels read it, as `numbered` says."""
        return [self.tempo, float(self.since), self.beat, float(self.runs)]
