"""The wave lens: a signal over time, either the whole phrase or a few cycles of its pitch, held still."""

from dataclasses import dataclass

import numpy as np
import scipy

from inner_tone.core.arrays import Floats

PITCH_SECONDS = 0.25
UNPITCHED_SECONDS = 0.02
PLOT_POINTS = 1000
STILL_CYCLES = 8.0  # with fewer points than this in a cycle, cycles cannot be drawn


@dataclass(frozen=True)
class Wave:
    """A stretch of a signal, ready to be drawn.

    `start_s` is where in the render it begins; `lows` and `highs` are equal where every point is one sample.
    """

    start_s: float
    seconds: float
    frequency_hz: float | None
    lows: Floats
    highs: Floats


def cycles(signal: Floats, rate: float, count: int, start: int, frequency_hz: float | None) -> Wave:
    """Return `count` cycles of a pitch in Hz, from where the fundamental next rises after sample `start`.

    Without a pitch, a fiftieth of a second; never more than there is.
    """
    passage = signal[start : start + round(PITCH_SECONDS * rate)]
    seconds = min(count / frequency_hz if frequency_hz else UNPITCHED_SECONDS, (len(signal) - start) / rate)
    begin = start + rising(passage, rate, frequency_hz, round(seconds * rate))
    values = interpolated(signal, np.linspace(begin, begin + seconds * rate, PLOT_POINTS))
    return Wave(begin / rate, seconds, frequency_hz, values, values)


def stretch(signal: Floats, rate: float, like: Wave) -> Wave:
    """Return the moments of a signal that another wave shows of its own."""
    values = interpolated(signal, np.linspace(like.start_s, like.start_s + like.seconds, PLOT_POINTS) * rate)
    return Wave(like.start_s, like.seconds, like.frequency_hz, values, values)


def rising(passage: Floats, rate: float, frequency: float | None, needed: int) -> float:
    """Return where, in samples, the fundamental of a passage first rises through zero; 0 without a pitch.

    Triggering on the fundamental rather than on the signal itself keeps the picture still, however many times
    the wave crosses zero within a cycle.
    """
    if not frequency or len(passage) <= needed:
        return 0.0
    period = rate / frequency
    whole = int(len(passage) / period) * period
    turns = np.exp(-2j * np.pi * np.arange(int(whole)) / period)
    phase = float(np.angle(np.dot(passage[: int(whole)] - np.mean(passage), turns)))
    first = ((-0.5 * np.pi - phase) / (2.0 * np.pi) % 1.0) * period
    return first if first < period - 1e-6 else 0.0


def interpolated(signal: Floats, points: Floats) -> Floats:
    """Return a signal's values at fractional samples, by straight lines; zero beyond its end."""
    return np.interp(points, np.arange(len(signal)), signal, right=0.0) if len(signal) else np.zeros(len(points))


def outline(
    signal: Floats, rate: float, begin_s: float = 0.0, end_s: float | None = None, frequency_hz: float | None = None
) -> Wave:
    """Return the least and the greatest value of each of many equal parts of a signal between two times in s.

    Where a part is shorter than a cycle of the pitch, it takes in a whole cycle: else each part would catch another
    stretch of the cycle, and the picture show a slow movement that is not there.
    """
    first = min(len(signal), max(0, round(begin_s * rate)))
    last = min(len(signal), round(end_s * rate)) if end_s is not None else len(signal)
    if last <= first:
        return Wave(begin_s, 0.0, None, np.zeros(0), np.zeros(0))
    part = signal[first:last]
    starts = np.unique(np.linspace(0, len(part), PLOT_POINTS, endpoint=False).astype(int))
    lows, highs = np.minimum.reduceat(part, starts), np.maximum.reduceat(part, starts)
    step = len(part) / len(starts)
    cycle = rate / frequency_hz if frequency_hz else 0.0
    if STILL_CYCLES * step > cycle > step:  # closer looks show the cycles themselves
        reach = int(np.ceil(cycle / step))
        lows, highs = scipy.ndimage.minimum_filter1d(lows, reach), scipy.ndimage.maximum_filter1d(highs, reach)
    return Wave(first / rate, len(part) / rate, None, lows, highs)
