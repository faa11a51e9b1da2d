"""The notes that are held one after the other, each in the octave of its partials rather than of its cycles."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from inner_tone.core.analysis import spectrum
from inner_tone.core.analysis.given import Given
from inner_tone.core.analysis.melody import Held
from inner_tone.core.analysis.thresholds import (
    LOWEST_HZ,
    MOST_CHECKED,
    MULTIPLE_SHARE,
    SAME_NOTE_ST,
    UNHEARD_DB,
    WITHIN,
)
from inner_tone.core.analysis.window import Window, within
from inner_tone.core.arrays import Floats
from inner_tone.core.units import frequency_of, midi_of

# Returns the fundamental in Hz of a stretch of samples, where it has one and is no noise.
Pitching = Callable[[Floats], float | None]


def audible(given: Given, held: tuple[Held, ...]) -> tuple[Held, ...]:
    """Return notes without those that lie so low beside others that they are only how these swing."""
    if any(frequency_of(one.note) > LOWEST_HZ for one in held):
        return tuple(one for one in held if frequency_of(one.note) > LOWEST_HZ or has_own(given, one))
    return held


def by_partials(
    given: Given, held: tuple[Held, ...], window: Window, fundamental_hz: float, pitching: Pitching
) -> tuple[Held, ...]:
    """Return held notes as the partials bear them out, given the fundamental of the window."""
    near = [one.note for one in within(window, held, given.rate, WITHIN)]
    # a window that takes in several notes: they are none then, for its partials form one series
    if not held or (len(near) > 1 and float(np.ptp(near)) > SAME_NOTE_ST):
        return (Held(window.first / given.rate, window.last / given.rate, midi_of(fundamental_hz)),)
    if np.ptp([one.note for one in held]) < SAME_NOTE_ST:
        return tuple(replace(one, note=midi_of(fundamental_hz)) for one in held)
    last = len(held) - 1
    kept = tuple(one for n, one in enumerate(held) if not (0 < n < last and is_common(given, *held[n - 1 : n + 2])))
    return tuple(octave_of(given, one, pitching) for one in kept) if len(kept) <= MOST_CHECKED else kept


def is_common(given: Given, early: Held, one: Held, late: Held) -> bool:
    """Tell whether a note is none, but how often two that sound together for a while repeat."""
    own = frequency_of(one.note)
    times = [frequency_of(other.note) / own for other in (early, late)]
    if any(round(n) < 2 or abs(n / round(n) - 1.0) > MULTIPLE_SHARE for n in times):
        return False
    return not has_own(given, one)


def has_own(given: Given, one: Held) -> bool:
    """Tell whether a held note has a partial of its own frequency, rather than only a cycle that is as long."""
    found = spectrum.partials_of(given.between(one.begin_s, one.end_s), given.rate)
    own = frequency_of(one.note)
    firsts = [part.level_db for part in found if abs(part.frequency_hz / own - 1.0) < MULTIPLE_SHARE]
    return max(firsts, default=-np.inf) > max((part.level_db for part in found), default=0.0) - UNHEARD_DB


def octave_of(given: Given, one: Held, pitching: Pitching) -> Held:
    """Return a held note with the pitch that its partials bear out: lower by whole multiples, where there are more.

    What repeats in a cycle has no fundamental above it, however weak its lower partials are.
    """
    fundamental = pitching(given.between(one.begin_s, one.end_s))
    if fundamental is None:
        return one
    times = frequency_of(one.note) / fundamental
    fits = round(times) >= 1 and abs(times / round(times) - 1.0) < MULTIPLE_SHARE
    return replace(one, note=midi_of(fundamental)) if fits else one
