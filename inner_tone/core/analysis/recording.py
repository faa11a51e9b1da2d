"""Compares what another instrument plays, as it was recorded, with a target.

The recording is first aligned: in time, by the lag at which its spectrum over time is most like the target's; in pitch,
note by note; in level, by what both have in common. What goes on all through it, hum and hiss, is measured where the
target is silent and taken away. Then both are compared as they are remembered, over longer moments, since no other
instrument sings in the same phase. Where what was recorded cannot be compared, that is said and nothing else.
"""

import math
from dataclasses import dataclass, replace

import numpy as np
import scipy

from inner_tone.core.analysis.clipping import clipping
from inner_tone.core.analysis.compare import (
    RECORDED,
    Comparison,
    Reason,
    Target,
    Tolerances,
    fitted,
    measured,
)
from inner_tone.core.analysis.portrait import (
    FLOOR_DB,
    HOP,
    RATE,
    STRIDE,
    Span,
    band_powers,
    course_of,
    in_db,
    portrait,
)
from inner_tone.core.arrays import Floats

REACH_STRIDES = 20
SILENT = 1e-3  # of full scale
SILENT_BELOW_DB = 50.0  # a frame of the target under its loudest: there only noise is heard
CLIPPED_SHARE = 0.02
EARLIEST_S = 0.3
LEAST_LIKENESS, SURE_LIKENESS = 0.45, 0.8
CENT_STEP = 5.0
FARTHEST_CENTS = 1300.0
OTHER_NOTE_CENTS = 70.0
NEAR_CENTS = 45.0
STRAY_DB = 10.0  # above what the note itself has there
LEAST_STRAY, LEAST_EXPLAINED, LEAST_STRAYS = 0.18, 0.5, 2
LEAST_PITCHED = 0.35
NOTE_LOW_HZ, NOTE_HIGH_HZ = 40.0, 6000.0


@dataclass(frozen=True)
class Heard:
    """Where a note of the target stands in a recording: how sharp it is in cents, and how like it is, 0 to 1."""

    cents: float
    likeness: float


@dataclass(frozen=True)
class Fit:
    """How a recording stands to a target: the sample at which it begins, how like both are, and how sharp it is."""

    begin: int
    likeness: float
    tuning: "Tuning"


def fit(target: Target, signal: Floats) -> Fit | Reason:
    """Return how a recording stands to a target, or why that cannot be told.

    Parameters
    ----------
    target
        What it is compared with.
    signal
        The recording at the common rate, shape (n,), of the same phrase; it may begin and end whenever.
    """
    reason = unfit(target, signal)
    if reason is not None:
        return reason
    begin, likeness = aligned(target, signal)
    if likeness < LEAST_LIKENESS:
        return "other-phrase"
    other = fitted(signal, len(target.signal), begin)
    notes = [heard_at(target.signal, other, note) for note in target.notes]
    both = zip(target.notes, notes, strict=True)
    pitched = [(note[0], one) for note, one in both if one and one.likeness >= LEAST_PITCHED]
    tuning = tuning_of([(begins, one.cents) for begins, one in pitched])
    if any(abs(one.cents - tuning(begins)) > OTHER_NOTE_CENTS for begins, one in pitched):
        return "other-notes"
    if several_at_once(target, other, tuning):
        return "several-notes"
    return Fit(begin, likeness, tuning)


def several_at_once(target: Target, other: Floats, tuning: "Tuning") -> bool:
    """Tell whether other notes sound beside those of a phrase: the same tone once more, and not always as far away.

    A patch may well have a second tone at a distance that stays the same; a hand that plays chords does not keep it.
    """
    found = [beside_it(target.signal, other, note, tuning(note[0])) for note in target.notes]
    strays = [cents for cents in found if cents is not None]
    alone = len(target.notes) == 1 and len(strays) == 1
    return alone or (len(strays) >= LEAST_STRAYS and max(strays) - min(strays) > OTHER_NOTE_CENTS)


def beside_it(target: Floats, other: Floats, span: Span, cents: float) -> float | None:
    """Return how far above or below a note another of the same tone sounds, in cents, if one does as loud."""
    wanted, there = log_spectrum(target, span), log_spectrum(other, span)
    if wanted is None or there is None:
        return None
    wanted = np.roll(wanted, round(cents / CENT_STEP))
    near = scipy.ndimage.maximum_filter1d(wanted, 2 * round(NEAR_CENTS / CENT_STEP) + 1)
    rest = np.where(there > near + STRAY_DB, there, 0.0)
    reach = round(FARTHEST_CENTS / CENT_STEP)
    lags = np.arange(-reach, reach + 1)
    found = scipy.signal.fftconvolve(rest, wanted[::-1], mode="full")[len(wanted) - 1 - reach : len(wanted) + reach]
    found = np.where(np.abs(lags * CENT_STEP) < OTHER_NOTE_CENTS, 0.0, found)
    best = int(np.argmax(found))
    moved = np.roll(wanted, int(lags[best]))
    explained = float(np.sum(rest * (moved > 0.0) * (near < STRAY_DB))) / max(float(np.sum(rest)), 1e-9)
    strong = float(np.sum(rest)) / max(float(np.sum(there)), 1e-9)
    return float(lags[best] * CENT_STEP) if explained > LEAST_EXPLAINED and strong > LEAST_STRAY else None


def compared_recording(
    target: Target, signal: Floats, found: Fit, tolerances: Tolerances = RECORDED, cents: float = 0.0
) -> Comparison:
    """Return how far a recording that fits is from a target, which may have been tuned after it, by so many cents."""
    begin, tuning = finely(target, signal, found.begin), found.tuning  # another curve is aligned otherwise
    noise = noise_of(target, signal, begin)
    other = fitted(signal, len(target.signal), begin)
    sharp = [tuning(note[0]) - cents for note in target.notes]
    frames = np.array([tuning(frame * HOP / RATE) - cents for frame in range(math.ceil(len(other) / HOP))])
    there = portrait(other, frames, noise=noise, recorded=True)
    result = measured(target, target.smooth, there, sharp, tolerances, begin / RATE)
    sure = min(1.0, (found.likeness - LEAST_LIKENESS) / (SURE_LIKENESS - LEAST_LIKENESS))
    return replace(result, confidence=round(result.confidence * (0.6 + 0.4 * sure), 3))


def cannot_tell(reason: Reason) -> Comparison:
    """Return that it cannot be told, and why."""
    return Comparison(False, 0.0, reason)


def is_cut(signal: Floats) -> bool:
    """Tell whether a recording, at its own rate, was cut off: at another one its flat tops would not be flat."""
    cut = clipping(signal)
    return cut is not None and cut.share > CLIPPED_SHARE


def unfit(target: Target, signal: Floats) -> Reason | None:
    """Return why a recording cannot be compared at all, if that is so."""
    if float(np.max(np.abs(signal), initial=0.0)) < SILENT:
        return "silent"
    last = max((end for _, end in target.notes), default=target.portrait.seconds)
    if len(signal) / RATE < 0.8 * last:
        return "too-short"
    return None


def shapes(signal: Floats) -> Floats:
    """Return bands in dB above the floor, shape (frames, bands), for an alignment."""
    power = band_powers(signal)
    db = in_db(power, float(np.max(power)))
    return np.asarray(db - float(np.max(db)) + FLOOR_DB).clip(0.0)


def aligned(target: Target, signal: Floats) -> tuple[int, float]:
    """Return at which sample of a recording a target begins, and how like both are there, 0 to 1."""
    wanted, there = shapes(target.signal), shapes(signal)
    early = round(EARLIEST_S * RATE / HOP)
    count = len(wanted)
    padded = np.concatenate([np.zeros((early, there.shape[1])), there, np.zeros((count, there.shape[1]))])
    centred = wanted - np.mean(wanted)
    products = scipy.signal.fftconvolve(padded, centred[::-1], mode="valid", axes=0).sum(axis=1)
    ones = np.ones(count)
    total = scipy.signal.fftconvolve(padded.sum(axis=1), ones, mode="valid")
    squares = scipy.signal.fftconvolve((padded**2).sum(axis=1), ones, mode="valid")
    size = count * wanted.shape[1]
    spread = np.sqrt(np.maximum(squares - total**2 / size, 1e-9) * float(np.sum(centred**2)))
    likeness = products / np.maximum(spread, 1e-9)
    best = int(np.argmax(likeness))
    coarse = (best - early) * HOP
    return finely(target, signal, coarse), float(likeness[best])


def finely(target: Target, signal: Floats, coarse: int) -> int:
    """Return at which sample a target begins, near one, by the course of the level every 5 ms."""
    wanted = in_db(course_of(target.signal, 2), float(np.max(course_of(target.signal, 2))))
    reach = REACH_STRIDES
    there = course_of(fitted(signal, len(target.signal) + 2 * reach * STRIDE, coarse - reach * STRIDE), 2)
    there = in_db(there, float(np.max(there)))
    count = len(wanted)
    found = [
        float(np.corrcoef(wanted, there[lag : lag + count])[0, 1])
        for lag in range(2 * reach + 1)
        if len(there) >= lag + count
    ]
    return coarse + (int(np.argmax(found)) - reach) * STRIDE if found and not np.any(np.isnan(found)) else coarse


def noise_of(target: Target, signal: Floats, begin: int) -> Floats | None:
    """Return the power of what goes on all through a recording, shape (bands,), from where the target is silent."""
    power = band_powers(signal)
    course = target.portrait.bands.max(axis=1)
    sounding = np.zeros(len(power), dtype=bool)
    first = round(begin / HOP)
    loud = np.flatnonzero(course > float(np.max(course)) - FLOOR_DB + 3.0) + first
    sounding[loud[(loud >= 0) & (loud < len(power))]] = True
    grown = np.convolve(sounding, np.ones(9), mode="same") > 0
    quiet = power[~grown]
    return np.asarray(np.median(quiet, axis=0)) if len(quiet) >= 3 else None


def log_spectrum(signal: Floats, span: Span) -> Floats | None:
    """Return how far the spectrum of a note stands above its surroundings in dB, every 5 cents from low to high."""
    begin, end = span
    begin += min(0.06, 0.3 * (end - begin))
    part = signal[round(begin * RATE) : round(min(end, begin + 1.2) * RATE)]
    if len(part) < 0.05 * RATE:
        return None
    size = 2 ** math.ceil(math.log2(2 * len(part)))
    level = np.abs(scipy.fft.rfft(part * np.hanning(len(part)), size))
    cents = np.arange(0.0, 1200.0 * math.log2(NOTE_HIGH_HZ / NOTE_LOW_HZ), CENT_STEP)
    hz = NOTE_LOW_HZ * 2.0 ** (cents / 1200.0)
    db = 20.0 * np.log10(np.interp(hz * size / RATE, np.arange(len(level)), level) + 1e-9)
    top = float(np.max(db))
    return np.asarray(np.maximum(db, top - 40.0) - (top - 40.0))


def heard_at(target: Floats, other: Floats, span: Span) -> Heard | None:
    """Return where a note of a target stands in an aligned recording; None where it has nothing to go by."""
    wanted, there = log_spectrum(target, span), log_spectrum(other, span)
    if wanted is None or there is None or not np.any(wanted) or not np.any(there):
        return None
    reach = round(FARTHEST_CENTS / CENT_STEP)
    wanted, there = wanted - np.mean(wanted), there - np.mean(there)
    size = math.sqrt(float(np.sum(wanted**2)) * float(np.sum(there**2)))
    found = scipy.signal.fftconvolve(there, wanted[::-1], mode="full")
    middle = len(wanted) - 1
    near = found[middle - reach : middle + reach + 1] / max(size, 1e-9)
    lags = np.arange(-reach, reach + 1) * CENT_STEP
    best = int(np.argmax(near - 0.15 * np.abs(lags) / FARTHEST_CENTS))
    return Heard(float(lags[best]), float(near[best]))


class Tuning:
    """How sharp a recording is, in cents, at a time in s: a straight line through what its notes say."""

    def __init__(self, middle: float, cents: float, slope: float) -> None:
        self.middle, self.cents, self.slope = middle, cents, slope

    def __call__(self, seconds: float) -> float:
        """Return how sharp it is at a time."""
        return self.cents + self.slope * (seconds - self.middle)


MOST_DRIFT = 12.0  # cents per second


def tuning_of(notes: list[tuple[float, float]]) -> Tuning:
    """Return how sharp a recording is, given when notes begin and how sharp each is: the Theil-Sen line."""
    if not notes:
        return Tuning(0.0, 0.0, 0.0)
    times, cents = np.array([one for one, _ in notes]), np.array([one for _, one in notes])
    pairs = [(i, j) for i in range(len(notes)) for j in range(i) if times[i] - times[j] > 0.2]
    slope = (
        float(np.median([(cents[i] - cents[j]) / (times[i] - times[j]) for i, j in pairs])) if len(pairs) > 2 else 0.0
    )
    slope = slope if abs(slope) <= MOST_DRIFT else 0.0
    middle = float(np.median(times))
    return Tuning(middle, float(np.median(cents - slope * (times - middle))), slope)
