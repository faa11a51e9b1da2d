"""The sounds that a sampler can play without being given any: made from formulas, the same on every run."""

from collections.abc import Callable
from functools import lru_cache

import numpy as np

from inner_tone.core.arrays import Floats, Samples

RATE = 48_000.0  # at which every sound is kept, own ones too
FADE_SECONDS = 0.05
MIDDLE_C_HZ = 440.0 * 2.0 ** (-9.0 / 12.0)
CYCLE = 1.0 / MIDDLE_C_HZ


def bell(time: Floats) -> Floats:
    """A ship's bell: partials that are no harmonics, the higher ones sooner gone."""
    partials = ((0.5, 0.5, 1.6), (1.0, 1.0, 1.2), (1.19, 0.7, 0.9), (1.5, 0.4, 0.7), (2.0, 0.6, 0.6), (2.74, 0.4, 0.3))
    higher = ((3.0, 0.3, 0.25), (3.76, 0.2, 0.18), (4.07, 0.2, 0.12), (5.33, 0.15, 0.08), (8.2, 0.1, 0.03))
    tones = [
        level * np.exp(-time / decay) * np.sin(2 * np.pi * ratio * MIDDLE_C_HZ * time)
        for ratio, level, decay in (*partials, *higher)
    ]
    return np.asarray(np.sum(tones, axis=0))


def horn(time: Floats) -> Floats:
    """A reed horn: thirty harmonics that come in one after another, then stand still."""
    rise = 0.08
    tones = [
        (1.0 - np.exp(-time / (rise * (1.0 + 0.1 * n))))
        / (n * (1.0 + (n / 9.0) ** 2))
        * np.sin(2 * np.pi * n * MIDDLE_C_HZ * time)
        for n in range(1, 31)
    ]
    return np.asarray(np.sum(tones, axis=0))


def gull(time: Floats) -> Floats:
    """The cry of a gull: a tone that leaps up and sinks, hoarse with its own half frequency."""
    bend = 12.0 * np.exp(-time / 0.09) * np.sin(2 * np.pi * 3.3 * time) - 5.0 * time
    phase = 2 * np.pi * np.cumsum(2.0 * MIDDLE_C_HZ * 2.0 ** (bend / 12.0)) * (time[1] - time[0])
    level = np.minimum(1.0, time / 0.03) * np.exp(-((time / 0.55) ** 2))
    tones = [np.sin(n * phase + 0.6 * np.sin(0.5 * phase)) / n for n in range(1, 9)]
    return np.asarray(level * np.sum(tones, axis=0))


def surf(time: Floats) -> Floats:
    """Surf: noise that swells and runs out, duller as it goes."""
    noise = np.random.Generator(np.random.PCG64(7)).uniform(-1.0, 1.0, len(time))
    spectrum = np.fft.rfft(noise)
    frequency = np.fft.rfftfreq(len(time), time[1] - time[0])
    bright = np.fft.irfft(spectrum / np.sqrt(1.0 + (frequency / 3000.0) ** 2), len(time))
    dull = np.fft.irfft(spectrum / (1.0 + (frequency / 500.0) ** 2), len(time))
    swell = np.sin(np.pi * np.minimum(1.0, time / time[-1])) ** 2
    return np.asarray(swell * (bright * swell + 2.0 * dull * (1.0 - swell)))


# By name: the formula, how long it is, and the stretch that its loop repeats, in seconds; the horn's is whole cycles.
LIBRARY: dict[str, tuple[Callable[[Floats], Floats], float, float, float]] = {
    "bell": (bell, 2.5, 0.2, 1.2),
    "horn": (horn, 2.0, 220 * CYCLE, 440 * CYCLE),
    "gull": (gull, 1.2, 0.3, 0.8),
    "surf": (surf, 2.5, 0.6, 1.9),
}


@lru_cache(maxsize=len(LIBRARY))
def made(name: str) -> Samples:
    """Return one of them, shape (n,), at RATE, with a peak of 1, ending in silence."""
    formula, seconds, *_ = LIBRARY[name]
    sound = formula(np.arange(round(seconds * RATE)) / RATE)
    count = round(FADE_SECONDS * RATE)
    sound[-count:] *= 0.5 + 0.5 * np.cos(np.pi * np.arange(count) / count)
    return np.asarray(sound / np.max(np.abs(sound)), dtype=np.float32)


def loop_of(name: str) -> tuple[float, float]:
    """Return from where to where the loop of one of them goes, as parts of its length."""
    _, seconds, begin, end = LIBRARY[name]
    return begin / seconds, end / seconds
