"""By how much one note is transposed against another: the interval that brings most of its partials to stand together.

Every pair of strong partials proposes an interval. Of each it is found out how much of both sounds it explains: what
stands together, weighed as the ear weighs it, against all that could. So a tone an octave up, all of whose partials are
partials of the lower one too, is told from the lower one by those that it has not. The two ways of a mismatch are
weighed as in R. C. Maher and J. W. Beauchamp, "Fundamental frequency estimation of musical signals using a two-way
mismatch procedure", J. Acoust. Soc. Am. 95 (1994). Where both notes are harmonic, only the interval of their
fundamentals is believed: another colour of the same note is no other pitch.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from inner_tone.core.analysis.portrait import HIGHEST_PARTIAL_HZ, LOWEST_PARTIAL_HZ, Partials, heard
from inner_tone.core.analysis.series import Exactness, fundamental_of
from inner_tone.core.arrays import Floats

FARTHEST_CENTS = 2_500.0  # two octaves, and a tuning
STRONGEST = 8  # of each sound: those that propose intervals
TOGETHER_CENTS = 30.0  # partials that stand no farther apart may be the same
LEAST_BETTER, LEAST_FARTHER = 0.04, 0.02  # so much more an interval explains than none at all, or than a smaller one
LEAST_SHARE = 0.5  # of both sounds: what explains less is not believed, unless both have a fundamental
PART_OF_IT, MOST_OF_IT = 0.3, 0.75  # where so much stands together untransposed, an interval must explain most
AS_LIKELY = 0.6  # so much of what the best interval explains, that of the fundamentals must
UNTRANSPOSED = 0.85  # where so much stands together as it is, no other interval is looked for
LEAST_IN_VIEW = 0.4  # of each sound
STRONG_DB = 34.0  # under the strongest: what is softer says nothing of the fundamental
HERTZ_OFF, SHARE_OFF = 0.2, 1e-3  # so exactly a partial is known

Flags = NDArray[np.bool_]


@dataclass(frozen=True)
class Note:
    """A note as it is compared: frequencies of its partials in Hz, and their levels in dB under the strongest."""

    hz: Floats
    db: Floats

    @classmethod
    def of(cls, partials: Partials) -> "Note":
        """Return the note that has some partials."""
        return cls(partials.hz, partials.db - float(np.max(partials.db)))

    def only(self, kept: Flags) -> "Note":
        """Return the note with only some of its partials."""
        return Note(self.hz[kept], self.db[kept])

    @property
    def fundamental(self) -> float | None:
        """The frequency in Hz of which all strong partials are multiples, if there is one."""
        strong = self.db > -STRONG_DB
        return fundamental_of(self.hz[strong], 10.0 ** (self.db[strong] / 20.0), Exactness(HERTZ_OFF, SHARE_OFF))


def cents_between(low_hz: Floats | float, high_hz: Floats | float) -> Floats:
    """Return intervals in cents."""
    return np.asarray(1200.0 * np.log2(np.asarray(high_hz) / low_hz))


def transposition(target: Partials, other: Partials) -> float:
    """Return how much higher a note is than that of a target, in cents; 0 where no other interval is clearly it."""
    one, two = Note.of(target), Note.of(other)
    if explained(one, two, np.zeros(1))[0] > UNTRANSPOSED:
        return 0.0
    shares = shares_of(one, two)
    if max(shares.values()) <= shares[0.0] + LEAST_BETTER:
        return 0.0
    fundamentals = one.fundamental, two.fundamental
    if fundamentals[0] is not None and fundamentals[1] is not None:
        interval = float(cents_between(fundamentals[0], fundamentals[1]))
        fitting = {cents: share for cents, share in shares.items() if abs(cents - interval) < TOGETHER_CENTS}
        if max(fitting.values(), default=0.0) > AS_LIKELY * max(shares.values()):
            return chosen(fitting, 0.0)
    return chosen(shares, MOST_OF_IT if shares[0.0] > PART_OF_IT else LEAST_SHARE)


def shares_of(one: Note, two: Note) -> dict[float, float]:
    """Return, for no interval and each that pairs of strong partials propose, in cents, how much it explains."""
    tried = np.concatenate([np.zeros(1), intervals(one, two)])
    return dict(zip(tried.tolist(), explained(one, two, tried).tolist(), strict=True))


def chosen(shares: Mapping[float, float], least: float) -> float:
    """Return the interval that explains most, the smallest ones first: 0 if none explains so much, and clearly more."""
    best, found = shares.get(0.0, 0.0) + LEAST_BETTER, 0.0
    for cents in sorted(shares, key=abs):
        if shares[cents] > max(best, least):
            best, found = shares[cents] + LEAST_FARTHER, cents
    return found


def transpositions(target: Partials, other: Partials) -> list[float]:
    """Return by how much a note may be transposed, in cents, the likeliest first: all of it, or what is left of it.

    Where one of several tones is another, what both notes have stands together, and the rest of the one is the rest of
    the other transposed.
    """
    whole = transposition(target, other)
    if whole:
        return [whole]
    one, two = Note.of(target), Note.of(other)
    apart = np.abs(cents_between(one.hz[:, None], two.hz[None, :]))
    left = one.only(np.min(apart, axis=1) > TOGETHER_CENTS), two.only(np.min(apart, axis=0) > TOGETHER_CENTS)
    if not len(left[0].hz) or not len(left[1].hz):
        return []
    found = chosen(shares_of(*left), LEAST_SHARE)
    return [found] if found else []


def intervals(one: Note, two: Note) -> Floats:
    """Return the intervals in cents that pairs of strong partials propose."""
    strong = [note.hz[np.argsort(-note.db)[:STRONGEST]] for note in (one, two)]
    proposed = cents_between(strong[0][:, None], strong[1][None, :]).ravel()
    return np.asarray(proposed[np.abs(proposed) <= FARTHEST_CENTS])


def explained(one: Note, two: Note, cents: Floats) -> Floats:
    """Return how much of two notes stands together when the first is transposed by intervals, shape (n,), 0 to 1.

    It is a share of all that is in view of both; where most of one is not, nothing is explained.
    """
    ratios = 2.0 ** (cents / 1200.0)
    seen = in_view(one.hz * ratios[:, None]), in_view(two.hz / ratios[:, None])
    weights = heard(one.db), heard(two.db)
    off = cents_between(1.0, one.hz)[None, :, None] + cents[:, None, None] - cents_between(1.0, two.hz)
    partner = np.argmin(np.abs(off), axis=2)
    apart = np.take_along_axis(np.abs(off), partner[:, :, None], axis=2)[:, :, 0]
    together = seen[0] & (apart < TOGETHER_CENTS)
    louder = middle_of(two.db[partner] - one.db, together)
    there = heard(np.minimum(two.db - louder[:, None], 0.0))
    paired = np.minimum(weights[0], np.take_along_axis(there, partner, axis=1)) * (1.0 - apart / TOGETHER_CENTS)
    shared = np.sum(np.where(together, paired, 0.0), axis=1)
    whole = np.sum(weights[0] * seen[0], axis=1) + np.sum(there * seen[1], axis=1)
    shown = [np.sum(each * view, axis=1) / np.sum(each) for each, view in zip(weights, seen, strict=True)]
    return np.asarray(np.where(np.minimum(*shown) < LEAST_IN_VIEW, 0.0, 2.0 * shared / np.maximum(whole, 1e-9)))


def middle_of(values: Floats, kept: Flags) -> Floats:
    """Return the median of what is kept of each row; 0 where nothing is."""
    rows = np.sort(np.where(kept, values, np.inf), axis=1)
    count = np.sum(kept, axis=1)
    places = np.stack([np.maximum(count - 1, 0) // 2, count // 2], axis=1)
    found = np.mean(np.take_along_axis(rows, np.minimum(places, values.shape[1] - 1), axis=1), axis=1)
    return np.where(count > 0, found, 0.0)


def in_view(hz: Floats) -> Flags:
    """Tell of frequencies in Hz whether partials are looked for there."""
    return np.asarray((hz > LOWEST_PARTIAL_HZ) & (hz < HIGHEST_PARTIAL_HZ))
