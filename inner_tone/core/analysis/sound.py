"""A signal with what all lenses need to know of it, each thing found out once: passage, pitch, spectrum."""

from dataclasses import dataclass
from functools import cached_property

from inner_tone.core.analysis import describe, passage, pitch, spectrum, wave
from inner_tone.core.modules.kernel import Floats


@dataclass(frozen=True)
class Sound:
    """One tap of a render: its signal, shape (n,), and its sampling rate in Hz."""

    signal: Floats
    rate: float

    @cached_property
    def start(self) -> int:
        """The first sample of the steadiest half second, where lenses look unless told otherwise."""
        return passage.steadiest(self.signal, self.rate, spectrum.WINDOW_SECONDS)

    @cached_property
    def rough_hz(self) -> float | None:
        """The fundamental in Hz as the ear would first name it, from the passage's repetition."""
        size = spectrum.window_size(self.rate) // 2
        return pitch.fundamental_hz(self.signal[self.start : self.start + size], self.rate)

    @cached_property
    def spectrum(self) -> spectrum.Spectrum:
        """The spectrum of the steadiest passage, its partials numbered."""
        return spectrum.spectrum(self.signal, self.rate, self.start, fundamental_hz=self.rough_hz)

    @cached_property
    def fundamental_hz(self) -> float | None:
        """The fundamental in Hz, as the partials together give it."""
        return spectrum.refined_fundamental(self.spectrum.partials)

    def cycles(self, count: int, held_by: "Sound | None" = None) -> wave.Wave:
        """Return `count` cycles, held still; or the stretch that shows as many cycles of another sound."""
        if held_by is None or held_by is self:
            return wave.cycles(self.signal, self.rate, count, self.start, self.fundamental_hz)
        return wave.stretch(self.signal, self.rate, held_by.cycles(count))

    @cached_property
    def course(self) -> wave.Wave:
        """The outline of the whole signal."""
        return wave.outline(self.signal, self.rate)

    def say_course(self) -> str:
        """Return what the wave lens shows of the whole phrase, as a sentence."""
        return describe.describe_course(self.course.lows, self.course.highs, self.course.seconds)

    def say_spectrum(self) -> str:
        """Return what the spectrum lens shows, as a sentence."""
        return describe.describe_spectrum(self.spectrum, self.fundamental_hz)
