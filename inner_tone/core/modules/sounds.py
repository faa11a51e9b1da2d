"""The sounds that a sampler can play: made once for a sampling rate, from formulas, the same on every run.

Each stands in several versions, each with an octave less of treble, for playing it faster than it was made. Before
and after it there is silence for the interpolation.
"""

from collections.abc import Callable
from functools import lru_cache

import numpy as np

from inner_tone.core.modules.kernel import Floats, Sounds

AUDIBLE_HZ = 20_000.0
VERSIONS = 5  # at its own speed or slower, up to 2, 4, 8 and 16 times as fast
MARGIN = 16
MIDDLE_C_HZ = 440.0 * 2.0 ** (-9.0 / 12.0)


NO_SOUNDS = Sounds(np.zeros(1), np.zeros((1, 1), dtype=np.int64), *(np.zeros(1, dtype=np.int64) for _ in range(3)))


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


# By name: the formula, how long it is, and the stretch that a loop repeats, in seconds; the horn's is whole cycles.
CYCLE = 1.0 / MIDDLE_C_HZ
LIBRARY: dict[str, tuple[Callable[[Floats], Floats], float, float, float]] = {
    "bell": (bell, 2.5, 0.2, 1.2),
    "horn": (horn, 2.0, 220 * CYCLE, 440 * CYCLE),
    "gull": (gull, 1.2, 0.3, 0.8),
    "surf": (surf, 2.5, 0.6, 1.9),
}


@lru_cache(maxsize=4)
def sounds(rate: float) -> Sounds:
    """Return all sounds at a sampling rate in Hz."""
    parts: list[Floats] = []
    begins: list[list[int]] = []
    lengths: list[int] = []
    loops: list[tuple[int, int]] = []
    for formula, seconds, loop_start, loop_end in LIBRARY.values():
        made = formula(np.arange(round(seconds * rate)) / rate)
        made = faded(made / np.max(np.abs(made)), rate)
        begin, end = round(loop_start * rate), round(loop_end * rate)
        made = looped(made, begin, end)
        begins.append([])
        for version in range(VERSIONS):
            begins[-1].append(sum(len(part) for part in parts) + MARGIN)
            parts.append(np.pad(duller(made, AUDIBLE_HZ / 2**version / rate), MARGIN))
        lengths.append(len(made))
        loops.append((begin, end))
    starts, ends = zip(*loops, strict=True)
    return Sounds(
        np.concatenate(parts),
        np.array(begins, dtype=np.int64),
        np.array(lengths, dtype=np.int64),
        np.array(starts, dtype=np.int64),
        np.array(ends, dtype=np.int64),
    )


def faded(sound: Floats, rate: float) -> Floats:
    """Return a sound that ends in silence."""
    count = round(0.05 * rate)
    ramp = np.ones(len(sound))
    ramp[-count:] = 0.5 + 0.5 * np.cos(np.pi * np.arange(count) / count)
    return sound * ramp


def looped(sound: Floats, begin: int, end: int) -> Floats:
    """Return a sound whose loop closes: before its end it fades into what stands before its beginning."""
    done = sound.copy()
    count = min(begin, (end - begin) // 2)
    fade = 0.5 - 0.5 * np.cos(np.pi * np.arange(count) / count)
    done[end - count : end] = sound[end - count : end] * (1.0 - fade) + sound[begin - count : begin] * fade
    done[end : end + MARGIN] = sound[begin : begin + MARGIN]
    return done


def duller(sound: Floats, highest: float) -> Floats:
    """Return a sound without what lies above a frequency, given as a part of the sampling rate."""
    size = 1 << int(np.ceil(np.log2(2 * len(sound))))
    frequency = np.fft.rfftfreq(size)
    taper = np.clip((highest - frequency) / (0.1 * highest), 0.0, 1.0)
    return np.asarray(np.fft.irfft(np.fft.rfft(sound, size) * taper, size)[: len(sound)])
