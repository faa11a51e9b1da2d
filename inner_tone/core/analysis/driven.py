"""The pitch of a sound through a filter that moves: that of what drives the filter.

A filter that moves turns the phase of every partial, and lifts now one and now another: so the wave repeats in other
times than the oscillator's, and seems to leap by octaves. Where the balance of a sound moves while its pitch stands,
the pitch is taken from the whitened sound.
"""

from dataclasses import replace

import numpy as np

from inner_tone.core.analysis.melody import Melody, melody_of
from inner_tone.core.analysis.spectrum import partials_of
from inner_tone.core.analysis.tonal import tonal_share
from inner_tone.core.analysis.track import Track, thinned, track
from inner_tone.core.analysis.whitened import whitened
from inner_tone.core.arrays import Floats
from inner_tone.core.units import frequency_of

WHITE_RATE = 12_000.0
LEAST_SHARE = 0.3  # of the looks at which the sound as it is has a pitch, the whitened one must have one
SAME_ST, LEAST_APART = 0.05, 0.1
STILL_ST_A_SECOND, AS_LONG, MUCH_LONGER = 2.0, 0.05, 0.08
NEAR_ST, FILLED_ST, OTHERWISE = 1.0, 0.2, 0.4
STEADY, MOSTLY = 0.9, 0.7
FRAME_SECONDS, LEAST_SECONDS = 0.04, 0.08
LOUD, CYCLES = 0.7, 4.0
CENTS_IN_OCTAVE = 1200.0
LEAST_MOVED = 0.06  # octaves, by which the middle of the spectrum leaves its mean while a note is held


def pitch_track(signal: Floats, rate: float) -> Track:
    """Return the pitch track of a sound, shape (n,), that a filter which moves does not lead astray.

    What drives the filter is taken where it has another pitch than the sound as it is, one near to it that stands for
    much longer or clearly swings, or any that stands for as long while the balance of the sound moves. Gaps are filled
    with the pitch of the sound as it is.
    """
    plain = track(signal, rate)
    if not np.any(plain.loud) or is_one_note(plain):
        return plain
    thin, thin_rate = thinned(signal, rate, WHITE_RATE)
    through = track(whitened(thin, thin_rate), thin_rate)
    if through.share <= LEAST_SHARE * plain.share or apart(through, plain) < LEAST_APART:
        return plain
    found = filled(through, plain)
    longer, melody = standing(found) - standing(plain), melody_of(through)
    if longer > -AS_LONG and balance_moves(thin, thin_rate, melody):
        return found
    clearer = longer > MUCH_LONGER or (melody.vibrato is not None and melody_of(plain).vibrato is None)
    is_near = apart(through, plain, NEAR_ST) < OTHERWISE
    return found if clearer and is_near and not is_steady(thin, thin_rate) else plain


def is_one_note(found: Track) -> bool:
    """Tell whether a track stays on one note for nearly as long as there is sound."""
    heard = found.notes[np.isfinite(found.notes)]
    near = np.abs(heard - np.median(heard)) < SAME_ST if len(heard) else heard
    return float(np.sum(near)) > MOSTLY * float(np.sum(found.loud))


def filled(found: Track, other: Track) -> Track:
    """Return a track with its gaps filled by another, where that is near to what is known before or after them.

    The two need not have been looked at in the same moments.
    """
    known = np.flatnonzero(np.isfinite(found.notes))
    at = np.searchsorted(known, np.arange(len(found.notes)))
    sides = [found.notes[known[np.clip(at + side, 0, len(known) - 1)]] for side in (-1, 0)]
    offered = nearest(found, other)
    fits = np.min(np.abs(np.array(sides) - offered), axis=0) < FILLED_ST
    notes = np.where(np.isfinite(found.notes), found.notes, np.where(fits, offered, np.nan))
    return replace(found, notes=notes, window_s=max(found.window_s, other.window_s), driven=True)


def standing(found: Track) -> float:
    """Return for which share of the looks that sound a pitch stands still."""
    steps = np.abs(np.diff(found.notes[np.isfinite(found.notes)]))
    return float(np.sum(steps < STILL_ST_A_SECOND * found.hop_s)) / max(1, int(np.sum(found.loud)))


def apart(found: Track, other: Track, within_st: float = SAME_ST) -> float:
    """Return for which share of the looks at which a track has a pitch the other has none, or one that is not near."""
    there = np.isfinite(found.notes)
    agree = np.abs(found.notes - nearest(found, other)) < within_st
    return 1.0 - float(np.mean(agree[there])) if np.any(there) else 0.0


def nearest(found: Track, other: Track) -> Floats:
    """Return the notes of a track at the moments of another."""
    return np.asarray(other.notes[np.abs(np.subtract.outer(found.times_s, other.times_s)).argmin(axis=1)])


def is_steady(signal: Floats, rate: float) -> bool:
    """Tell whether partials that stand still are nearly all that there is in the middle of a sound."""
    middle, half = len(signal) // 2, round(0.5 * rate)
    part = signal[max(0, middle - half) : middle + half]
    return tonal_share(part, rate, partials_of(part, rate)) > STEADY


def balance_moves(signal: Floats, rate: float, melody: Melody) -> bool:
    """Tell whether the middle of the spectrum moves while notes are held, or by more than a note that swings does."""
    swing = melody.vibrato
    if swing:
        own = swing.depth_cents / CENTS_IN_OCTAVE
        part = signal[round(swing.begin_s * rate) : round(swing.end_s * rate)]
        return moved_within(part, rate, frequency_of(swing.note)) > LEAST_MOVED + own
    held = [one for one in melody.held if one.seconds > LEAST_SECONDS]
    moved = [
        moved_within(signal[round(one.begin_s * rate) : round(one.end_s * rate)], rate, frequency_of(one.note))
        for one in held
    ]
    seconds = np.array([one.seconds for one in held])
    return bool(held) and float(np.sum(seconds * moved) / np.sum(seconds)) > LEAST_MOVED


def moved_within(part: Floats, rate: float, hertz: float) -> float:
    """Return by how many octaves the middle of the spectrum leaves its mean, in the root mean square."""
    size = round(max(FRAME_SECONDS, CYCLES / hertz) * rate)
    if len(part) < size:
        return 0.0
    frames = np.lib.stride_tricks.sliding_window_view(part, size)[:: size // 4]
    levels = np.abs(np.fft.rfft(frames * np.hanning(size)))[:, 1:]
    octaves = np.log2(np.fft.rfftfreq(size, 1.0 / rate)[1:])
    sums = np.sum(levels, axis=1)
    loud = sums > LOUD * np.max(sums)  # not where it begins or ends
    return float(np.std(levels[loud] @ octaves / sums[loud])) if np.any(loud) else 0.0
