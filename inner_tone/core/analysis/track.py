"""The pitch track: the fundamental over time, and what moves it: vibrato and glide."""

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import median_filter
from scipy.signal import resample_poly

from inner_tone.core.analysis.pitch import fundamentals_hz
from inner_tone.core.analysis.swing import strongest_swing
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.units import frequency_of, midi_of

HOP_SECONDS = 0.005
MOST_LOOKS = 1000
AT_ONCE = 64
FIRST_STRIDE = 8
ROUGH_RATE = 12_000.0
SAMPLES_IN_CYCLE = 90.0
MOST_THINNED = 8
SHORTEST = 64
FIRST_WINDOW_S = 0.05
CYCLES = 3.5
SHORTEST_WINDOW_S, LONGEST_WINDOW_S = 0.008, 0.14
QUIET = 0.01  # of the loudest passage: below, there is no pitch to speak of
JUMP_ST = 7.0  # from one look to the next: not a movement but a mistake or a new note
SETTLED = 0.01  # of a glide's way
LEAST_GLIDE_CENTS = 50.0
LEAST_VIBRATO_CENTS = 3.0
SLOWEST_VIBRATO_HZ, FASTEST_VIBRATO_HZ = 1.0, 15.0
LEAST_TURNS = 2.0
LEAST_SHARE = 0.6
LEAST_LOOKS = 32
STILL_LOOKS = 9  # a note that is shorter was only a mistake of the track


@dataclass(frozen=True)
class Track:
    """The pitch at evenly spaced moments: times in s, fractional MIDI notes, NaN where there is none.

    `window_s` is how long a passage each one was taken from.
    """

    times_s: Floats
    notes: Floats
    window_s: float


@dataclass(frozen=True)
class Vibrato:
    """A regular movement of the pitch: how often a second, and how far to each side in cents."""

    rate_hz: float
    depth_cents: float


@dataclass(frozen=True)
class Glide:
    """A movement from one note to another, as fractional MIDI notes, with its time in s."""

    start_s: float
    seconds: float
    from_note: float
    to_note: float


def track(signal: Floats, rate: float) -> Track:
    """Return the pitch track of a sound, shape (n,).

    A first look with a window of 50 ms tells how low the sound goes; the second takes windows of three and a half of
    its longest cycles, so that fast movements are not blurred, at a rate that still has many samples in a cycle.
    """
    rough_signal, rough_rate = thinned(signal, rate, ROUGH_RATE)
    for seconds in (FIRST_WINDOW_S, LONGEST_WINDOW_S):
        first = looked(rough_signal, rough_rate, seconds, FIRST_STRIDE)
        heard = first.notes[np.isfinite(first.notes)]
        if len(heard):
            lowest_hz = frequency_of(float(np.percentile(heard, 5)))
            window_s = float(np.clip(CYCLES / lowest_hz, SHORTEST_WINDOW_S, LONGEST_WINDOW_S))
            highest_hz = frequency_of(float(np.max(heard)))
            return looked(*thinned(signal, rate, SAMPLES_IN_CYCLE * highest_hz), window_s, 1)
    return first


def thinned(signal: Floats, rate: float, least_rate: float) -> tuple[Floats, float]:
    """Return a signal at the lowest part of its rate that is not below another, and that rate."""
    factor = min(MOST_THINNED, max(1, int(rate / least_rate)))
    if factor == 1 or len(signal) < factor * SHORTEST:
        return signal, rate
    return np.asarray(resample_poly(signal, 1, factor)), rate / factor


def looked(signal: Floats, rate: float, window_s: float, stride: int) -> Track:
    """Return the track through windows of a length, at every `stride`-th hop."""
    size = round(window_s * rate)
    hop = max(1, round(stride * max(HOP_SECONDS, len(signal) / rate / MOST_LOOKS) * rate))
    starts = np.arange(0, max(0, len(signal) - size) + 1, hop)
    squares = np.concatenate([[0.0], np.cumsum(signal**2)])
    ends = np.minimum(starts + size, len(signal))
    powers = squares[ends] - squares[starts]
    loud = powers > QUIET**2 * np.max(powers, initial=0.0)
    notes = np.full(len(starts), np.nan)
    windows = np.lib.stride_tricks.sliding_window_view(signal, size) if len(signal) >= size else signal[np.newaxis]
    for part in np.array_split(np.flatnonzero(loud), 1 + len(starts) // AT_ONCE):
        found = fundamentals_hz(windows[starts[part]], rate)
        notes[part] = [midi_of(one) if one else np.nan for one in found]
    return Track(np.asarray((starts + 0.5 * size) / rate), notes, window_s)


def longest_run(found: Track) -> Track:
    """Return the longest part of a track without a gap and without a jump."""
    notes = found.notes
    here = np.isfinite(notes)
    breaks = np.flatnonzero(~(here[1:] & here[:-1]) | (np.abs(np.diff(notes)) > JUMP_ST)) + 1
    edges = np.concatenate([[0], breaks, [len(notes)]])
    at = int(np.argmax(np.diff(edges)))
    part = slice(int(edges[at]), int(edges[at + 1]))
    return Track(found.times_s[part], notes[part], found.window_s)


def vibrato(found: Track) -> Vibrato | None:
    """Return the vibrato of a track, or None if its pitch does not move regularly.

    Each look is a mean over its window less a cycle, of cycles that are themselves means; a mean over w seconds weakens
    what moves at a rate r by sin(πrw) / πrw, and that is made good.
    """
    run = longest_run(found)
    if len(run.notes) < LEAST_LOOKS:
        return None
    step = float(run.times_s[1] - run.times_s[0])
    swing = strongest_swing(100.0 * run.notes, step, SLOWEST_VIBRATO_HZ, FASTEST_VIBRATO_HZ)
    if swing is None or swing.turns < LEAST_TURNS or swing.share < LEAST_SHARE:
        return None
    cycle = 1.0 / frequency_of(float(np.median(run.notes)))
    weakened = np.sinc(swing.rate_hz * (run.window_s - cycle)) * np.sinc(swing.rate_hz * cycle)
    depth = swing.amplitude / float(weakened)
    return Vibrato(swing.rate_hz, depth) if depth > LEAST_VIBRATO_CENTS else None


def glide(found: Track) -> Glide | None:
    """Return the widest glide of a track: from where it leaves a note to where it has settled on the next."""
    run = longest_run(found)
    if len(run.notes) < STILL_LOOKS:
        return None
    notes = median_filter(run.notes, STILL_LOOKS)
    low, high = int(np.argmin(notes)), int(np.argmax(notes))
    first, last = min(low, high), max(low, high)
    way = notes[last] - notes[first]
    if abs(way) * 100.0 < LEAST_GLIDE_CENTS:
        return None
    gone = (notes[first : last + 1] - notes[first]) / way
    begin = first + int(np.flatnonzero(gone <= SETTLED)[-1])
    end = first + int(np.flatnonzero(gone >= 1.0 - SETTLED)[0])
    seconds = max(0.0, float(run.times_s[end] - run.times_s[begin]))
    return Glide(float(run.times_s[begin]), seconds, float(notes[first]), float(notes[last]))
