"""The course of a pitch that is known from what steers it: what it holds, where it glides, swings and leaps.

Nothing is tracked here: the course is read, and only whether the signal bears it out is measured.
"""

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
import scipy

from inner_tone.core.analysis.melody import SETTLED, STILL_SECONDS, STILL_SLOPE, Glide, Held, Melody, Trill, Vibrato
from inner_tone.core.analysis.straightened import read_at
from inner_tone.core.analysis.thresholds import (
    BORNE_CYCLES,
    BORNE_S,
    EVEN,
    GAP_S,
    HALF,
    LEAP_ST,
    LEAP_TIMES,
    LEAST_LEAPS,
    LEAST_TOLD_ST,
    LEAST_TURN_ST,
    LEAST_TURNS,
    LOBE_BINS,
    MONOTONE,
    MOST_TURNS_A_SECOND,
    NEAR,
    SAME_LEVEL_ST,
    SLOW_HZ,
)
from inner_tone.core.analysis.track import HOP_SECONDS, QUIET, Track
from inner_tone.core.arrays import Floats

STEP_S = 0.001


@dataclass(frozen=True)
class Part:
    """A stretch without leaps: when it begins in s, and its notes at steps of `STEP_S`."""

    begin_s: float
    notes: Floats

    @property
    def end_s(self) -> float:
        """When it ends."""
        return self.begin_s + len(self.notes) * STEP_S


def notes_of(hertz: Floats) -> Floats:
    """Return frequencies as fractional MIDI notes."""
    return np.asarray(69.0 + 12.0 * np.log2(hertz / 440.0))


def is_course(hertz: Floats, rate: float) -> bool:
    """Tell whether a frequency is high enough for a pitch, and moves as slowly as one does that is followed by ear."""
    if len(hertz) == 0 or float(np.min(hertz)) < SLOW_HZ:
        return False
    steps = np.diff(hertz)
    steps = steps[np.abs(steps) > 1e-9 * hertz[:-1]]
    turns = int(np.count_nonzero(np.diff(np.sign(steps))))
    return turns < MOST_TURNS_A_SECOND * len(hertz) / rate + LEAST_TURNS


def is_borne_out(signal: Floats, hertz: Floats, rate: float) -> bool:
    """Tell whether most of the power around the loudest moment lies on the harmonics of a course."""
    step, least_s = round(STEP_S * rate), max(BORNE_S, BORNE_CYCLES / float(np.median(hertz)))
    size = min(len(signal), round(least_s * rate))
    if size < 2 * step:
        return False
    powers = np.sum(signal[: len(signal) // step * step].reshape(-1, step) ** 2, axis=1)
    around = np.convolve(powers, np.ones(size // step), "valid")
    first = min(int(np.argmax(around)) * step, len(signal) - size)
    straight, mean_hz = read_at(signal[first : first + size], hertz[first : first + size])
    bins = np.abs(np.fft.rfft(straight * scipy.signal.windows.blackmanharris(len(straight)))) ** 2
    numbers = np.fft.rfftfreq(len(straight), 1.0 / rate) / mean_hz
    within = max(NEAR, LOBE_BINS * rate / len(straight) / mean_hz)
    near = (np.abs(numbers - np.round(numbers)) < within) & (numbers > 0.5)
    return float(np.sum(bins[near])) > HALF * float(np.sum(bins[1:]))


def loud_in(signal: Floats, rate: float) -> Floats:
    """Return for each step whether there is sound, as 0 or 1."""
    step = round(STEP_S * rate)
    blocks = np.abs(np.pad(signal, (0, -len(signal) % step))).reshape(-1, step).max(axis=1)
    near = scipy.ndimage.maximum_filter1d(blocks, round(GAP_S / STEP_S), mode="nearest")
    return np.asarray(near > QUIET * np.max(blocks, initial=0.0))


def track_along(signal: Floats, hertz: Floats, rate: float) -> Track:
    """Return a known course as a track."""
    hop = round(HOP_SECONDS * rate)
    notes = notes_of(hertz[::hop])
    loud = loud_in(signal, rate)[:: round(HOP_SECONDS / STEP_S)][: len(notes)].astype(bool)
    loud = np.pad(loud, (0, len(notes) - len(loud)), mode="edge")
    return Track(np.asarray(np.arange(len(notes)) * HOP_SECONDS), np.where(loud, notes, np.nan), STEP_S, loud)


def parts_of(signal: Floats, hertz: Floats, rate: float) -> list[Part]:
    """Return the stretches between leaps and silences."""
    notes, step = notes_of(hertz), round(STEP_S * rate)
    steps = np.abs(np.diff(notes))
    beside = np.maximum(np.pad(steps, (1, 0))[:-1], np.pad(steps, (0, 1))[1:])
    leaps = np.flatnonzero((steps > LEAP_ST) & (steps > LEAP_TIMES * beside)) + 1
    loud = loud_in(signal, rate)
    edges = np.flatnonzero(np.diff(loud.astype(int))) + 1
    cuts = np.unique(np.concatenate([[0], leaps, edges * step, [len(notes)]]).astype(int))
    found = []
    for first, last in pairwise(cuts):
        if loud[min(len(loud) - 1, (first + last) // (2 * step))] and last - first > 1:
            found.append(Part(first / rate, notes[first:last:step]))
    return found


def melody_along(signal: Floats, hertz: Floats, rate: float) -> Melody:
    """Return what a pitch does whose course in Hz is known, sample by sample, shapes (n,)."""
    parts = parts_of(signal, hertz, rate)
    if not parts:
        return Melody()
    trill = trill_in(parts)
    if trill is not None:
        return Melody(held=tuple(one for part in parts for one in held_in(part)), trill=trill, share=1.0)
    longest = max(parts, key=lambda part: len(part.notes))
    heard = sum(len(part.notes) for part in parts)
    swing = vibrato_in(longest) if 2 * len(longest.notes) > heard else None
    if swing is not None:
        return Melody(vibrato=swing, share=1.0)
    held, glides = [], []
    for part in parts:
        stays = held_in(part)
        held += stays
        glides += glides_in(part, stays)
    return Melody(tuple(held), tuple(glides), None, 1.0)


def turns_in(notes: Floats) -> list[int]:
    """Return where a course turns, by more than is nothing."""
    found = [scipy.signal.find_peaks(side * notes, prominence=LEAST_TURN_ST)[0] for side in (1.0, -1.0)]
    return sorted(int(at) for at in np.concatenate(found))


def ratio_of(values: Floats) -> float:
    """Return the greatest of some values over the least."""
    return float(np.max(values) / max(1e-9, float(np.min(values))))


def one_way(values: Floats) -> bool:
    """Tell whether values go only up or only down, but for a little."""
    later, earlier = values[1:], values[:-1]
    return bool(np.all(later > MONOTONE * earlier) or np.all(earlier > MONOTONE * later))


def vibrato_in(part: Part) -> Vibrato | None:
    """Return how a stretch swings to and fro: evenly, growing or fading, quicker or slower; or nothing."""
    at = turns_in(part.notes)
    if len(at) < LEAST_TURNS:
        return None
    places = part.notes[at]
    depths = 0.5 * np.abs(np.diff(places))
    rates = 1.0 / (np.diff(at)[:-1] + np.diff(at)[1:]) / STEP_S
    whole = slice(at[0], at[-1 - (len(at) - 1) % 2])  # whole turns
    middle = float(np.mean(part.notes[whole]))
    cents, is_even_rate = 100.0 * depths, ratio_of(rates) < EVEN
    steady = Vibrato(float(np.mean(rates)), float(np.mean(cents)), middle, part.begin_s, part.end_s)
    if is_even_rate and ratio_of(cents) < EVEN:
        return steady
    if is_even_rate and one_way(cents):
        return replace(steady, depth_cents=float(np.max(cents)), grows_cents=(float(cents[0]), float(cents[-1])))
    if ratio_of(cents) < EVEN and one_way(rates):
        return replace(steady, rates_hz=(float(rates[0]), float(rates[-1])))
    return None


def held_in(part: Part) -> list[Held]:
    """Return the notes that a stretch stands on."""
    if len(part.notes) < 3:
        return []
    slopes = np.gradient(part.notes, STEP_S)
    flat = np.flatnonzero(np.abs(slopes) < STILL_SLOPE)
    if len(flat) == 0:
        return []
    runs = np.split(flat, np.flatnonzero(np.diff(flat) > 1) + 1)
    return [
        Held(
            part.begin_s + int(run[0]) * STEP_S,
            part.begin_s + int(run[-1]) * STEP_S,
            float(np.median(part.notes[run])),
        )
        for run in runs
        if len(run) * STEP_S >= STILL_SECONDS
    ]


def glides_in(part: Part, held: list[Held]) -> list[Glide]:
    """Return how a stretch goes on its way from one note to another, turn by turn."""
    turns = [part.begin_s + at * STEP_S for at in turns_in(part.notes)]
    edges = sorted({part.begin_s, part.end_s, *turns, *(at for one in held for at in (one.begin_s, one.end_s))})
    resting = {one.begin_s for one in held}
    found = []
    for begin_s, end_s in pairwise(edges):
        first, last = (round((at - part.begin_s) / STEP_S) for at in (begin_s, end_s))
        notes = part.notes[first : last + 1]
        if begin_s in resting or len(notes) < 3 or abs(notes[-1] - notes[0]) < LEAST_TOLD_ST:
            continue
        # what comes to rest has gone nearly all of its way before it stands: the way ends where that does
        late = next((one for one in held if abs(one.begin_s - end_s) < 2 * STEP_S), None)
        goal = late.note if late is not None else float(notes[-1])
        later = part.notes[first : round((late.end_s - part.begin_s) / STEP_S)] if late is not None else notes
        gone = (later - notes[0]) / (goal - notes[0])
        seconds = float(np.argmax(gone >= 1.0 - SETTLED) - np.argmax(gone > SETTLED)) * STEP_S / (1.0 - 2.0 * SETTLED)
        found.append(Glide(begin_s, seconds, float(notes[0]), goal))
    return found


def trill_in(parts: list[Part]) -> Trill | None:
    """Return between which two notes a pitch leaps to and fro, and how often, if it does regularly."""
    if len(parts) < LEAST_LEAPS or any(float(np.ptp(part.notes)) > SAME_LEVEL_ST for part in parts):
        return None
    notes = np.array([part.notes[0] for part in parts])
    if np.ptp(notes[::2]) > SAME_LEVEL_ST or np.ptp(notes[1::2]) > SAME_LEVEL_ST or abs(notes[0] - notes[1]) < LEAP_ST:
        return None
    turns = np.array([late.begin_s - early.begin_s for early, late in zip(parts[:-2], parts[2:], strict=True)])
    if ratio_of(turns) > EVEN:
        return None
    return Trill(1.0 / float(np.mean(turns)), float(min(notes[:2])), float(max(notes[:2])))
