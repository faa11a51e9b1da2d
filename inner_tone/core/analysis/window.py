"""The window: the passage that says most. A note that is held, or else what changes least, and never two notes."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from inner_tone.core.analysis import passage as passages
from inner_tone.core.analysis import series as serial
from inner_tone.core.analysis import spectrum
from inner_tone.core.analysis.given import Given, in_blocks
from inner_tone.core.analysis.melody import Held, Melody, bridged, moves, voiced
from inner_tone.core.analysis.pitch import repetition
from inner_tone.core.analysis.thresholds import (
    COARSE,
    EDGE_WINDOWS,
    HUSHED,
    LEAST_MOVED_CENTS,
    LEAST_PITCHED,
    LEAST_SILENCE_S,
    LEAST_STANDING_S,
    LONGEST_S,
    MARGIN_S,
    SAME_NOTE_ST,
    SAME_SHARE,
    SILENT_CYCLES,
)
from inner_tone.core.analysis.track import Track
from inner_tone.core.arrays import Floats
from inner_tone.core.units import frequency_of

Stretch = tuple[float, float]  # from when to when, in s


@dataclass(frozen=True)
class Window:
    """The samples that are looked at, from one to before another, and whether the pitch moves meanwhile."""

    first: int
    last: int
    moving: bool = False


def telling_window(given: Given, track: Track, melody: Melody, *, sure: bool) -> Window:
    """Return the passage that says most: a held note, a vibrato or a glide, or what changes least.

    `sure` is whether the track is known not to have been led astray.
    """
    stretches = Stretches(given, melody)
    if melody.vibrato is None and is_restless(melody) and not sure:
        steady = stretches.calmest_of_all()
        if stands(given, steady):
            return steady
    if melody.held:
        return stretches.calmest_held(track)
    swing = melody.vibrato
    if swing and swing.depth_cents > LEAST_MOVED_CENTS:
        return calmest(given, (swing.begin_s, swing.end_s), moving=True)
    runs = voiced(track)
    if runs and melody.share > LEAST_PITCHED and not swing:
        first, last = max(runs, key=lambda run: run[1] - run[0])
        if moves(bridged(track.notes[first:last])):
            return calmest(given, (float(track.times_s[first]), float(track.times_s[last - 1])), moving=True)
    return stretches.calmest_of_all()


def is_restless(melody: Melody) -> bool:
    """Tell whether the track of a pitch does not hold one note: then it may have been led astray."""
    return not melody.held or float(np.ptp([one.note for one in melody.held])) > SAME_NOTE_ST


def stands(given: Given, window: Window) -> bool:
    """Tell whether both halves of a passage have partials of one and the same fundamental: its pitch stands."""
    part = given.signal[window.first : window.last]
    if len(part) < LEAST_STANDING_S * given.rate or not passages.is_calm(part, given.rate):
        return False
    found = [fundamental_in(half, given.rate) for half in np.array_split(part, 2)]
    return found[0] is not None and found[1] is not None and abs(found[0] / found[1] - 1.0) < SAME_SHARE


def fundamental_in(part: Floats, rate: float) -> float | None:
    """Return the fundamental of which all partials of a stretch are exact multiples, if there is one."""
    rough = repetition(part, rate)
    known = serial.exactness(rate / len(part), False)
    found = serial.series_of(spectrum.partials_of(part, rate), known, rough.hertz if rough else None)
    return found.fundamental_hz


def calmest(given: Given, part: Stretch, *, moving: bool = False) -> Window:
    """Return the passage between two times in which least changes."""
    first, last = (max(0, min(len(given.signal), round(at * given.rate))) for at in part)
    start, size = passages.calmest(given.signal[first:last], given.rate)
    return Window(first + start, first + start + size, moving)


class Stretches:
    """The parts of a sound between which something begins or ends."""

    def __init__(self, given: Given, melody: Melody) -> None:
        self.given, self.held = given, melody.held
        known = {at - given.begin_s for gate in given.gates_s for at in gate}
        self.cuts_s = sorted({*known, *silence_edges(given, melody)})

    def calmest_held(self, track: Track) -> Window:
        """Return the passage within the longest and loudest of the held notes."""
        edge_s = EDGE_WINDOWS * track.window_s if len(self.held) > 1 else 0.0
        trimmed = [(one.begin_s + edge_s, one.end_s - edge_s) for one in self.held if one.seconds > 4.0 * edge_s]
        whole = trimmed or [(one.begin_s, one.end_s) for one in self.held]
        return calmest(self.given, max((part for one in whole for part in self.unbroken(*one)), key=self.worth))

    def calmest_of_all(self) -> Window:
        """Return the passage in which least changes of the stretch that is worth most."""
        return calmest(self.given, max(self.unbroken(0.0, self.given.seconds), key=self.worth))

    def worth(self, part: Stretch) -> float:
        """Return how much there is to be heard between two times in s: its RMS by its time."""
        samples = self.given.between(max(0.0, part[0]), max(0.0, part[1]))
        rms = float(np.sqrt(np.mean(samples**2))) if len(samples) else 0.0
        return rms * min(LONGEST_S, part[1] - part[0])

    def unbroken(self, begin_s: float, end_s: float) -> list[Stretch]:
        """Return the parts of a time between which something begins or ends."""
        cuts = [at for at in self.cuts_s if begin_s < at < end_s]
        parts = [
            (early + (MARGIN_S if n else 0.0), late - (MARGIN_S if n < len(cuts) else 0.0))
            for n, (early, late) in enumerate(pairwise([begin_s, *cuts, end_s]))
        ]
        return [part for part in parts if part[1] > part[0]] or [(begin_s, end_s)]


def silence_edges(given: Given, melody: Melody) -> list[float]:
    """Return where a sound stops and begins again, in s, for longer than one of its cycles could be silent."""
    heard = np.flatnonzero(np.max(in_blocks(np.abs(given.signal)), axis=1) > HUSHED * given.peak)
    notes = [one.note for one in melody.held]
    longest_s = max(LEAST_SILENCE_S, SILENT_CYCLES / frequency_of(min(notes)) if notes else 0.0)
    gaps = np.flatnonzero(np.diff(heard) * COARSE > longest_s * given.rate)
    edges = np.concatenate([heard[gaps] + 1, heard[gaps + 1]]) if len(gaps) else np.zeros(0)
    return [float(at * COARSE / given.rate) for at in edges]


def within(window: Window, held: tuple[Held, ...], rate: float, least_share: float) -> list[Held]:
    """Return those of some notes that take up at least a share of a window."""
    first, last = window.first / rate, window.last / rate
    least_s = least_share * (last - first)
    return [one for one in held if min(last, one.end_s) - max(first, one.begin_s) > least_s]
