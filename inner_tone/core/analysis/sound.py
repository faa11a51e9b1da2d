"""A signal with what all lenses need to know of it, each thing found out once: passage, pitch, spectrum."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from inner_tone.core.analysis import (
    beating,
    loudness,
    passage,
    pitch,
    sentences,
    shape,
    spectrum,
    stages,
    sweep,
    track,
    wave,
)
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.units import decibels

NOISY = 0.5
COARSE = 8  # samples: a sixth of a millisecond
NOISE_SECONDS = 2.0
GRAIN_CYCLES = 1.5
LEAST_GRAIN_S = 0.004


def in_blocks(values: Floats) -> Floats:
    """Return values in blocks that the coarse rate takes for one, shape (blocks, COARSE); the last is filled up."""
    return np.pad(values, (0, -len(values) % COARSE)).reshape(-1, COARSE)


@dataclass(frozen=True)
class Sound:
    """One tap of a render: its signal, shape (n,), and its sampling rate in Hz."""

    signal: Floats
    rate: float

    @cached_property
    def start(self) -> int:
        """The first sample of the steadiest half second, where lenses look unless told otherwise."""
        return passage.steadiest(self.signal, self.rate, spectrum.WINDOW_SECONDS)

    def passage(self, seconds: float) -> Floats:
        """Return the steadiest passage, or what there is of it in a shorter sound."""
        return self.signal[self.start : self.start + round(seconds * self.rate)]

    @cached_property
    def rough_hz(self) -> float | None:
        """The fundamental in Hz as the ear would first name it, from the passage's repetition."""
        return pitch.fundamental_hz(self.passage(0.5 * spectrum.WINDOW_SECONDS), self.rate)

    @cached_property
    def partials(self) -> tuple[spectrum.Partial, ...]:
        """The partials of the steadiest passage, numbered."""
        return spectrum.partials_of(self.passage(spectrum.WINDOW_SECONDS), self.rate, self.rough_hz)

    @cached_property
    def fundamental_hz(self) -> float | None:
        """The fundamental in Hz, as the partials together give it."""
        return spectrum.refined_fundamental(self.partials)

    def cycles(self, count: int, held_by: "Sound | None" = None) -> wave.Wave:
        """Return `count` cycles, held still; or the stretch that shows as many cycles of another sound."""
        if held_by is None or held_by is self:
            return wave.cycles(self.signal, self.rate, count, self.start, self.fundamental_hz)
        return wave.stretch(self.signal, self.rate, held_by.cycles(count))

    @cached_property
    def bins_db(self) -> Floats:
        """The levels in dB of the bins of the steadiest passage."""
        size = spectrum.window_size(self.rate)
        return spectrum.levels(self.signal[self.start : self.start + size], size)

    @cached_property
    def shape(self) -> shape.Shape:
        """How the partials fall, where they are cut off and where they are lifted."""
        return shape.shape_of([partial for partial in self.partials if partial.number])

    @cached_property
    def is_noise(self) -> bool:
        """Whether hardly anything of it is explained by partials."""
        return shape.tonal_share(self.passage(spectrum.WINDOW_SECONDS), self.partials) < NOISY

    @property
    def coarse_rate(self) -> float:
        """The rate in Hz at which the course of its level is followed."""
        return self.rate / COARSE

    @cached_property
    def amplitude(self) -> Floats:
        """The course of the amplitude at the coarse rate: the greatest value within a cycle."""
        sizes = np.max(in_blocks(np.abs(self.signal)), axis=1)
        return stages.amplitude_of(sizes, self.coarse_rate, self.rough_hz)

    @cached_property
    def power(self) -> Floats:
        """The course of the power at the coarse rate."""
        return np.asarray(np.mean(in_blocks(self.signal**2), axis=1))

    @cached_property
    def stages(self) -> stages.Stages | None:
        """The attack, decay, sustain and release that it goes through until it first falls silent."""
        cycle = 1.0 / self.rough_hz if self.rough_hz else 0.0
        grain_s = max(LEAST_GRAIN_S, GRAIN_CYCLES * cycle)
        first = stages.first_stretch(self.amplitude, self.coarse_rate)
        power = stages.mean_over_cycle(self.power, self.coarse_rate, self.rough_hz)
        return stages.stages(first, self.coarse_rate, grain_s=grain_s, power=np.where(first > 0.0, power, 0.0))

    @cached_property
    def held_power(self) -> Floats:
        """The course of the power from the end of the first attack until the sound is let go."""
        if self.stages is None:
            return self.power[:0]
        begin = self.stages.begin_s + self.stages.attack_s
        closing = self.stages.closing_s
        end = len(self.power) if closing is None else round(closing * self.coarse_rate)
        return self.power[round(begin * self.coarse_rate) : end]

    @cached_property
    def beating(self) -> beating.Beating | None:
        """Its regular swelling and fading, if it has any."""
        return beating.beating(self.held_power, self.coarse_rate, self.rough_hz)

    @cached_property
    def weighted_power(self) -> Floats:
        """Its power as the ear weighs it, shape (n,)."""
        return loudness.weighted_power(self.signal[np.newaxis], self.rate)

    @cached_property
    def loudness_lufs(self) -> float:
        """Its integrated loudness in LUFS, as of one channel."""
        return loudness.integrated(self.weighted_power, self.rate)

    @cached_property
    def track(self) -> track.Track:
        """Its pitch over time."""
        return track.track(self.signal, self.rate)

    @cached_property
    def brightness(self) -> tuple[Floats, Floats]:
        """The middle of its spectrum in Hz over time in s, where it is loud enough to have one."""
        return sweep.brightness(self.usual_sweep)

    @cached_property
    def usual_sweep(self) -> sweep.Sweep:
        """Its short-time spectra as the sweep lens shows them unless it is set otherwise."""
        return sweep.sweep(self.signal, self.rate, low_hz=sweep.USUAL_LOW_HZ, high_hz=sweep.USUAL_HIGH_HZ)

    def say_partials(self) -> str:
        """Return what the spectrum lens shows, as a sentence."""
        if len(self.signal) and self.is_noise and np.max(np.abs(self.signal)) > sentences.words.SILENT:
            passage = self.passage(NOISE_SECONDS)
            rms = float(np.sqrt(np.mean(passage**2)))
            return sentences.spectrum.describe_noise(shape.colour_of(passage, self.rate), decibels(rms))
        frequencies, levels = spectrum.drawn(self.bins_db, self.rate, spectrum.LOWEST_HZ, spectrum.HIGHEST_HZ)
        last = sentences.spectrum.last_hz(frequencies, levels)
        return sentences.spectrum.describe_partials(self.partials, self.fundamental_hz, self.shape, last, self.beating)
