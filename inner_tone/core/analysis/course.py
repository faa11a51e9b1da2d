"""The course of the pitch: what a track of it comes to, where gates are known and two tones may beat."""

from dataclasses import replace

import numpy as np
import scipy

from inner_tone.core.analysis import spectrum
from inner_tone.core.analysis.given import Given, in_blocks
from inner_tone.core.analysis.melody import Glide, Held, Melody, Vibrato, melody_of
from inner_tone.core.analysis.thresholds import (
    BEATEN_DB,
    BEATEN_S,
    BEATEN_SHARE,
    COARSE,
    DRIVEN_CENTS,
    FASTEST_BEAT_HZ,
    LONGEST_S,
    MOST_BEATEN_CENTS,
    STRUCK_S,
)
from inner_tone.core.analysis.track import Track
from inner_tone.core.units import frequency_of


def melody_in(given: Given, track: Track) -> Melody:
    """Return what a pitch does, by its track: what is struck on its way is no glide, what beats is no vibrato."""
    found = melody_of(track)
    if found.glides and given.gates_s:
        found = replace(found, glides=tuple(one for one in found.glides if not is_struck_on_way(given, track, one)))
    swing = found.vibrato
    # behind a filter that moves, as much may be its doing
    unsure = swing is not None and track.driven and swing.depth_cents < DRIVEN_CENTS
    if swing is not None and (unsure or (swing.depth_cents < MOST_BEATEN_CENTS and is_beaten(given, swing))):
        return Melody((Held(swing.begin_s, swing.end_s, swing.note),), (), None, found.share)
    return found


def is_struck_on_way(given: Given, track: Track, one: Glide) -> bool:
    """Tell whether something is struck on the way of what looks like a glide: before that there was no pitch."""
    begin_s = given.begin_s + one.begin_s
    end_s = begin_s + one.seconds
    # what glides is struck where that begins, if at all; behind a filter that opens, its pitch is not clear at once
    least_s = STRUCK_S if track.driven else max(STRUCK_S, track.window_s)
    first_s = min(begin_s + least_s, end_s - STRUCK_S)
    return any(first_s < opens < end_s + STRUCK_S for opens, _ in given.gates_s)


def is_beaten(given: Given, swing: Vibrato) -> bool:
    """Tell whether two tones side by side make a pitch tremble: then there are just these two."""
    first, last = (round(at * given.rate) for at in (swing.begin_s, swing.end_s))
    middle, half = (first + last) // 2, round(0.5 * LONGEST_S * given.rate)
    found = spectrum.partials_of(given.signal[max(first, middle - half) : min(last, middle + half)], given.rate)
    near = [one for one in found if abs(one.frequency_hz - frequency_of(swing.note)) < 1.5 * FASTEST_BEAT_HZ]
    top = max((one.level_db for one in near), default=0.0)
    levels = np.sqrt(np.mean(in_blocks(given.signal[first:last] ** 2), axis=1))
    levels = scipy.ndimage.uniform_filter1d(levels, max(1, round(BEATEN_S * given.rate / COARSE)))
    swells = float(np.std(levels)) > BEATEN_SHARE * float(np.mean(levels))
    return swells and sum(one.level_db > top - BEATEN_DB for one in near) == 2


def note_at(melody: Melody, driven: bool, middle_s: float, margin_s: float) -> float | None:
    """Return the pitch that a course has at a time in s, as a fractional MIDI note: what moves has its middle."""
    if melody.vibrato is not None:
        return melody.vibrato.note
    near = [one for one in melody.held if one.begin_s - margin_s <= middle_s <= one.end_s + margin_s]
    if not near and driven:
        near = [min(melody.held, key=lambda one: abs(0.5 * (one.begin_s + one.end_s) - middle_s))]
    return near[0].note if near else None
