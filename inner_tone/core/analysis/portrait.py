"""The portrait of a sound: what is compared of it, on one grid of time and frequency.

Bands of a sixth of an octave every 20 ms, their level in dB as it is heard above a floor; the course of the whole level
every 5 ms; and of each note the partials of its steady part. A portrait can be taken as if the sound stood at another
pitch, and without a noise that goes on through all of it.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import scipy

from inner_tone.core.arrays import Floats

RATE = 32_000  # Hz at which all is compared: up to 10 kHz
WINDOW, HOP = 2048, 640
STRIDE = 160  # of the course of the level
SMOOTH_STRIDES = 6
MEMORY_FRAMES = 2
LOWEST_HZ, HIGHEST_HZ = 45.0, 9_600.0
PER_OCTAVE = 6
FLOOR_DB = 45.0  # under the loudest band: what is softer is not compared
RECORDED_COURSE_DB = 30.0  # of a recording's course of level: where it dies away, each instrument does so in its way
LEAST_POWER = 1e-14
LOWEST_PARTIAL_HZ, HIGHEST_PARTIAL_HZ = 0.6 * LOWEST_HZ, HIGHEST_HZ
MOST_PARTIALS = 24
PROMINENT_DB = 13.0
WEAKEST_DB = 40.0  # a partial under the strongest
NEAR = 0.023  # 40 cents: as far from where it should be, a partial is looked for
MAIN_LOBE, SIDE_LOBE, SIDE_LOBE_DB = 2.2, 2.5, -20.0  # bins, and how far under its peak
LONGEST_NOTE = 1.2  # s of a note that are looked at for its partials
ATTACK_S = 0.06

Span = tuple[float, float]  # s


@dataclass(frozen=True)
class Partials:
    """The partials of a note's steady part: frequencies in Hz and levels in dB, from low to high.

    `spectrum` is what they were found in, in dB, every `step` Hz.
    """

    hz: Floats
    db: Floats
    spectrum: Floats
    step: float

    def level_at(self, hz: Floats) -> Floats:
        """Return how strong what sounds near frequencies is, in dB."""
        reach = np.maximum(1, np.round(hz * NEAR / self.step)).astype(int)
        at = np.round(hz / self.step).astype(int)
        most = len(self.spectrum)
        return np.array(
            [
                np.max(self.spectrum[max(0, one - n) : min(most, one + n + 1)], initial=-200.0)
                for one, n in zip(at, reach, strict=True)
            ]
        )


@dataclass(frozen=True)
class Portrait:
    """A sound at `RATE`: its signal, shape (n,); bands in dB, shape (frames, bands); the course of its level in dB."""

    signal: Floats
    bands: Floats
    course: Floats

    @property
    def seconds(self) -> float:
        """How long it lasts."""
        return len(self.signal) / RATE


def at_common_rate(channels: Floats, rate: float) -> Floats:
    """Return channels, shape (channels, n) or (n,), at the rate at which all is compared."""
    if rate == RATE:
        return np.asarray(channels, dtype=np.float64)
    common = math.gcd(RATE, round(rate))
    return np.asarray(
        scipy.signal.resample_poly(channels, RATE // common, round(rate) // common, axis=-1), dtype=np.float64
    )


@lru_cache(maxsize=512)
def band_matrix(cents: int) -> Floats:
    """Return how much each bin of a spectrum counts for each band, shape (bins, bands), for a sound that is sharp."""
    count = int(PER_OCTAVE * math.log2(HIGHEST_HZ / LOWEST_HZ)) + 1
    hz = np.arange(1, WINDOW // 2 + 1) * RATE / WINDOW
    place = PER_OCTAVE * (np.log2(hz / LOWEST_HZ) - cents / 1200.0)
    # low down a band is narrower than what a spectrum can tell: it is as wide as a bin then
    width = np.maximum(1.0, PER_OCTAVE * (RATE / WINDOW) / hz / math.log(2.0))
    weights = np.maximum(0.0, 1.0 - np.abs(place[:, None] - np.arange(count)) / width[:, None]) / width[:, None]
    return np.concatenate([np.zeros((1, count)), weights])


@lru_cache(maxsize=4)
def window(size: int) -> Floats:
    """Return a Hann window whose sum of squares is 1."""
    shape = np.hanning(size + 1)[:-1]
    return np.asarray(shape / math.sqrt(float(np.sum(shape**2))))


def frames_of(signal: Floats) -> Floats:
    """Return the power spectra of a signal, shape (frames, bins), every 20 ms, the first around its beginning."""
    padded = np.concatenate([np.zeros(WINDOW // 2), signal, np.zeros(WINDOW)])
    count = max(1, math.ceil(len(signal) / HOP))
    parts = np.lib.stride_tricks.sliding_window_view(padded, WINDOW)[: count * HOP : HOP][:count]
    spectra = scipy.fft.rfft(parts * window(WINDOW), axis=1)
    return np.asarray(spectra.real**2 + spectra.imag**2)


def band_powers(signal: Floats, cents: Sequence[float] | Floats | float = 0.0) -> Floats:
    """Return the power of each band, shape (frames, bands), of a sound so sharp, all along or by frame."""
    power = frames_of(signal)
    if isinstance(cents, int | float):
        return np.asarray(power @ band_matrix(round(cents)))
    sharp = np.round(np.resize(np.asarray(cents, dtype=np.float64), len(power)) / 5.0).astype(int) * 5
    found = np.empty((len(power), band_matrix(0).shape[1]))
    for one in np.unique(sharp):
        here = sharp == one
        found[here] = power[here] @ band_matrix(int(one))
    return found


def heard(db: Floats) -> Floats:
    """Return how much levels weigh for the ear: as loudness grows, with power to 0.3 (Stevens)."""
    return np.asarray(10.0 ** (0.03 * db))


def in_db(power: Floats, peak: float, floor_db: float = FLOOR_DB) -> Floats:
    """Return powers in dB, those far under a peak at the floor."""
    return np.asarray(10.0 * np.log10(power + max(peak, LEAST_POWER) * 10.0 ** (-0.1 * floor_db)))


def course_of(signal: Floats, smooth: int = 1) -> Floats:
    """Return the power of a signal every 5 ms, over so many times 5 ms."""
    count = max(1, math.ceil(len(signal) / STRIDE))
    padded = np.zeros(count * STRIDE)
    padded[: len(signal)] = signal
    power = np.mean(padded.reshape(count, STRIDE) ** 2, axis=1)
    if smooth > 1:
        power = np.convolve(power, np.hanning(2 * smooth + 1)[1:-1] / smooth, mode="same")
    return np.asarray(power)


def remembered(power: Floats) -> Floats:
    """Return bands as they are remembered: over a tenth of a second, and a third of an octave."""
    size = len(power)
    wide = power.copy()
    wide[:, 1:] += power[:, :-1]
    wide[:, :-1] += power[:, 1:]
    total = np.concatenate([np.zeros((1, wide.shape[1])), np.cumsum(wide, axis=0)])
    first = np.maximum(0, np.arange(size) - MEMORY_FRAMES)
    last = np.minimum(size, np.arange(size) + MEMORY_FRAMES + 1)
    return np.asarray((total[last] - total[first]) / (last - first)[:, None])


def portrait(
    signal: Floats, cents: Floats | float = 0.0, *, noise: Floats | None = None, recorded: bool = False
) -> Portrait:
    """Return the portrait of a signal at the common rate.

    Parameters
    ----------
    signal
        Shape (n,).
    cents
        How sharp it is against what it is compared with: all along, or at each frame.
    noise
        The power in each band of what goes on all through it, shape (bands,); it is taken away.
    recorded
        Whether it is as it is compared with recordings: as it is remembered, rather than moment by moment.
    """
    power = band_powers(signal, cents)
    course = course_of(signal, SMOOTH_STRIDES if recorded else 1)
    if noise is not None:
        power = np.maximum(power - noise, 0.0)
        course = np.maximum(course - float(np.min(course)), 0.0)
    if recorded:
        power = remembered(power)
    floor = RECORDED_COURSE_DB if recorded else FLOOR_DB
    return Portrait(signal, in_db(power, float(np.max(power))), in_db(course, float(np.max(course)), floor))


def stands_apart(bins: float, louder: float) -> bool:
    """Tell whether a peak so many bins from a stronger one, and so much louder in dB, is none of its side lobes.

    Those of a Hann window lie 31 dB under the main lobe, 18 dB less with every octave (F. J. Harris, "On the use of
    windows for harmonic analysis with the discrete Fourier transform", Proc. IEEE 66, 1978); a note that swells or
    dies away brings them up by some dB.
    """
    return bins > MAIN_LOBE and louder > SIDE_LOBE_DB - 18.0 * math.log2(bins / SIDE_LOBE)


def partials_of(signal: Floats, span: Span) -> Partials | None:
    """Return the partials of a note's steady part, if it lasts long enough to have any."""
    begin, end = span
    begin += min(ATTACK_S, 0.3 * (end - begin))
    end = min(end, begin + LONGEST_NOTE)
    part = signal[round(begin * RATE) : round(end * RATE)]
    if len(part) < 0.05 * RATE or float(np.max(np.abs(part), initial=0.0)) < 1e-6:
        return None
    size = 2 ** math.ceil(math.log2(2 * len(part)))
    shape = np.hanning(len(part))
    level = np.abs(scipy.fft.rfft(part * shape, size)) / (0.5 * float(np.sum(shape)))
    db = 20.0 * np.log10(level + 1e-9)
    step = RATE / size
    wide = max(2, round(MAIN_LOBE / (len(part) / RATE) / step))  # half a main lobe
    inner = np.arange(wide, len(db) - wide)
    inner = inner[(inner * step > LOWEST_PARTIAL_HZ) & (inner * step < HIGHEST_PARTIAL_HZ)]
    top = float(np.max(db[inner], initial=-200.0))
    peaks = inner[(db[inner] >= db[inner - 1]) & (db[inner] > db[inner + 1]) & (db[inner] > top - WEAKEST_DB)]
    around = max(8, round(len(db) / 200))
    smooth = np.convolve(db, np.ones(2 * around + 1) / (2 * around + 1), mode="same")
    peaks = peaks[db[peaks] > smooth[peaks] + PROMINENT_DB]  # what noise brings forth is no partial
    kept: list[int] = []
    bin_width = size / len(part)
    for place in sorted(peaks, key=lambda one: -db[one]):
        if all(stands_apart(abs(place - other) / bin_width, db[place] - db[other]) for other in kept):
            kept.append(int(place))
        if len(kept) == MOST_PARTIALS:
            break
    if not kept:
        return None
    at = np.array(sorted(kept))
    left, middle, right = db[at - 1], db[at], db[at + 1]
    bend = left - 2.0 * middle + right
    offset = np.where(bend < 0.0, 0.5 * (left - right) / np.where(bend < 0.0, bend, 1.0), 0.0)
    return Partials((at + offset) * step, middle - 0.25 * (left - right) * offset, db, step)
