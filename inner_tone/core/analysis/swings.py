"""Swings: what swells and fades all through a sound, and the partials that it takes longer to part."""

import numpy as np

from inner_tone.core.analysis import spectrum
from inner_tone.core.analysis.beating import Beating, beating
from inner_tone.core.analysis.envelope import Envelope
from inner_tone.core.analysis.given import Given, in_blocks
from inner_tone.core.analysis.stages import Stages
from inner_tone.core.analysis.thresholds import COARSE, LONGEST_PARTED_S, SAME_RATE, TURNS
from inner_tone.core.analysis.window import Window
from inner_tone.core.arrays import Floats


def held_power(given: Given, stages: Stages | None) -> Floats:
    """Return the course of the power, in steps of COARSE samples, from the first attack's end until it is let go."""
    power = np.asarray(np.mean(in_blocks(given.signal**2), axis=1))
    coarse = given.rate / COARSE
    if stages is None:
        return power[:0]
    begin = stages.begin_s + (0.0 if stages.wavers else stages.attack_s or 0.0)
    closing = stages.closing_s
    return power[round(begin * coarse) : len(power) if closing is None else round(closing * coarse)]


def swelling(given: Given, power: Floats, envelope: Envelope | None, cycle_hz: float | None) -> Beating | None:
    """Return a regular swelling and fading, if there is any; how deep it is, an exact envelope tells better."""
    found = beating(power, given.rate / COARSE, cycle_hz)
    if found is None or envelope is None:
        return found
    closely = beating(envelope.levels**2, 1.0 / envelope.step_s, None)
    is_same = closely is not None and abs(closely.rate_hz / found.rate_hz - 1.0) < SAME_RATE
    return closely if is_same else found


def parted(given: Given, window: Window, beats: Beating) -> tuple[spectrum.Partial, ...]:
    """Return the partials of as long a stretch around a passage as it takes to part those that beat."""
    wanted = min(LONGEST_PARTED_S, TURNS / beats.rate_hz)
    more = max(0, round(0.5 * (wanted * given.rate - (window.last - window.first))))
    first, last = max(0, window.first - more), min(len(given.signal), window.last + more)
    return spectrum.partials_of(given.signal[first:last], given.rate)
