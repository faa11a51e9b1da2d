"""What a card shows of a signal: two cycles of its wave, and how strong it is from the lows to the highs."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
import scipy

from inner_tone.core.analysis.pitch import Repetition, repetitions
from inner_tone.core.arrays import Floats
from inner_tone.core.engine.render import Measure
from inner_tone.core.patch.port import Port

CYCLES = 2
POINTS = 96
UNPITCHED_S = 0.008  # of what does not repeat
JUMP = 0.4  # of the whole height, from one sample to the next: where such a wave begins
CLEAR = 0.7
BANDS = 40
LOWEST_HZ, HIGHEST_HZ = 40.0, 16_000.0
FLOOR_DB = -120.0


@dataclass(frozen=True)
class Face:
    """What a card shows: `cycle` has so many points of the wave, `hertz` is 0 where nothing repeats.

    `bands_db` is the level in bands of equal ratio from 40 Hz to 16 kHz.
    """

    cycle: tuple[float, ...]
    hertz: float
    bands_db: tuple[float, ...]


UNSEEN = Face((), 0.0, ())


def faces(signals: Mapping[Port, Floats], rate: float) -> dict[Port, Face]:
    """Return what cards show of some signals, shape (n,) each, all of the same moment."""
    passages = np.stack(list(signals.values())) if signals else np.zeros((0, 0))
    if passages.shape[1] < POINTS:
        return {}
    found = repetitions(passages, rate)
    bands = bands_db(passages, rate)
    return {
        name: face(passages[n], one, rate, bands[n]) for n, (name, one) in enumerate(zip(signals, found, strict=True))
    }


def on_cards(measures: Mapping[str, Measure], close: Mapping[Port, Floats], rate: float) -> dict[str, dict[str, Any]]:
    """Return the measures of each port for a page, with what cards show closely of those of which more was kept."""
    seen = faces(close, rate)
    found = {}
    for port, one in measures.items():
        shown = seen.get(Port(port), UNSEEN)
        found[port] = {**vars(one), "cycle": shown.cycle, "cycle_hz": shown.hertz, "bands": shown.bands_db}
    return found


def face(passage: Floats, repetition: Repetition | None, rate: float, bands: Floats) -> Face:
    """Return what a card shows of a passage that repeats so."""
    if repetition is None or repetition.clarity < CLEAR:
        return Face(points(passage[: round(UNPITCHED_S * rate)]), 0.0, rounded(bands, 1))
    period = rate / repetition.hertz
    length = min(len(passage) - 1.0, CYCLES * period)
    begin = min(start_of_cycle(passage, period), len(passage) - 1.0 - length)
    at = begin + np.linspace(0.0, length, POINTS, endpoint=False)
    wave = np.interp(at, np.arange(len(passage)), passage)
    return Face(rounded(wave, 4), repetition.hertz, rounded(bands, 1))


def start_of_cycle(passage: Floats, period: float) -> float:
    """Return the sample within the first cycle at which it is drawn from: behind its jump, or where it rises."""
    count = min(len(passage), int(period) + 3)  # the jump may be the step behind its last sample
    cycle = passage[:count]
    steps, least = np.diff(cycle), JUMP * float(np.ptp(cycle))
    if np.max(np.abs(steps)) > least:
        rises = np.max(steps) > least
        return float(np.argmax(steps if rises else -steps) + 1)
    angles = 2.0 * np.pi * np.arange(count) / period
    fundamental = np.sum((cycle - np.mean(cycle)) * np.exp(-1j * angles))
    rising = (-np.angle(fundamental) - np.pi / 2.0) % (2.0 * np.pi)
    return float(rising / (2.0 * np.pi) * period)


def points(passage: Floats) -> tuple[float, ...]:
    """Return so many points of a passage."""
    at = np.linspace(0.0, len(passage) - 1.0, POINTS)
    return rounded(np.interp(at, np.arange(len(passage)), passage), 4)


def rounded(values: Floats, digits: int) -> tuple[float, ...]:
    """Return numbers as they are sent."""
    return tuple(np.round(values, digits).tolist())


@lru_cache(maxsize=8)
def edges(size: int, rate: float) -> tuple[Floats, Floats]:
    """Return a window, shape (size,), and the bins at which the bands begin and end, shape (BANDS + 1,)."""
    window: Floats = scipy.signal.get_window("hann", size)
    hertz = np.geomspace(LOWEST_HZ, min(HIGHEST_HZ, rate / 2.0), BANDS + 1)
    return window, hertz * size / rate


def bands_db(passages: Floats, rate: float) -> Floats:
    """Return the level of passages, shape (passages, n), in each band; of a sine of amplitude 1 they add up to 0 dB.

    A band that is narrower than a bin has what lies between the bins' powers, so none is empty.
    """
    size = passages.shape[1]
    window, cuts = edges(size, rate)
    # Parseval's theorem: twice the sum of the powers of a sine's bins is half the square of its amplitude
    powers = 4.0 * np.abs(np.fft.rfft(passages * window, axis=1)) ** 2 / (size * np.sum(window**2))
    sums = np.concatenate([np.zeros((len(passages), 1)), np.cumsum(powers, axis=1)], axis=1)
    whole = np.arange(sums.shape[1]) - 0.5
    at = np.stack([np.interp(cuts, whole, row) for row in sums])
    found: Floats = 10.0 * np.log10(np.maximum(np.diff(at, axis=1), 10.0 ** (FLOOR_DB / 10.0)))
    return found
