"""How near two sounds are that play the same phrase: pitch, partials, envelope, spectrum over time, loudness.

Two renders begin at the same sample and sing in the same phase, so what differs is measured moment by moment, and
brought to one figure as it weighs for the ear. How recordings are aligned first is told in `recording`.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
import scipy

from inner_tone.core.analysis.portrait import (
    FLOOR_DB,
    NEAR,
    RATE,
    WEAKEST_DB,
    Partials,
    Portrait,
    Span,
    heard,
    partials_of,
    portrait,
)
from inner_tone.core.analysis.transposition import transposition
from inner_tone.core.arrays import Floats
from inner_tone.core.phrase import Phrase

CLOSE_CENTS = 50.0
LEAST_CLOSE = 0.3  # of a note's partials: where fewer stand close, how far they do says nothing of the pitch

Reason = Literal["silent", "clipped", "too-short", "other-phrase", "other-notes", "several-notes"]


@dataclass(frozen=True)
class Tolerances:
    """How far each figure may be off: cents, and dB."""

    pitch_cents: float = 6.0
    partials_db: float = 1.2
    envelope_db: float = 0.7
    spectrum_db: float = 0.3

    def wider(self, factor: float) -> "Tolerances":
        """Return tolerances that many times as wide."""
        return Tolerances(
            self.pitch_cents * factor,
            self.partials_db * factor,
            self.envelope_db * factor,
            self.spectrum_db * factor,
        )


EXACT = Tolerances()
RECORDED = Tolerances(pitch_cents=40.0, partials_db=3.25, envelope_db=2.0, spectrum_db=2.0)


@dataclass(frozen=True)
class Comparison:
    """How far a sound is from a target.

    `pitch_cents` is how much sharper it is, the note that is farthest off; the others are how different it is, as it
    weighs for the ear: None where there is nothing to measure it by. `level_db` is how much louder it is, which does
    not count. `confidence` is 0 to 1. Where it cannot be told, `cannot_tell` is why and nothing else is said.
    """

    same: bool
    confidence: float = 1.0
    cannot_tell: Reason | None = None
    pitch_cents: float | None = None
    partials_db: float | None = None
    envelope_db: float | None = None
    spectrum_db: float | None = None
    level_db: float = 0.0
    begins_s: float = 0.0
    apart: "Apart | None" = None

    def distance(self, tolerances: Tolerances) -> float:
        """Return how far it is, 1 at the edge of what counts as the same."""
        pairs = (
            (abs(self.pitch_cents) if self.pitch_cents is not None else None, tolerances.pitch_cents),
            (self.partials_db, tolerances.partials_db),
            (self.envelope_db, tolerances.envelope_db),
            (self.spectrum_db, tolerances.spectrum_db),
        )
        return max((value / limit for value, limit in pairs if value is not None), default=0.0)


@dataclass(frozen=True)
class Apart:
    """Where two sounds differ: by band and by frame in dB, weighed; by partial of each note; by the course of level."""

    bands_db: Floats
    weights: Floats
    course_db: Floats
    partials: tuple[tuple[Span, Floats, Floats], ...]  # of each note: Hz in the target, how much stronger in dB


@dataclass(frozen=True)
class Target:
    """What a sound is compared with: its signal at the common rate, shape (n,), and the notes that it plays, in s."""

    signal: Floats
    notes: tuple[Span, ...]
    pitches: tuple[float, ...] = ()

    @cached_property
    def portrait(self) -> Portrait:
        """Its portrait."""
        return portrait(self.signal)

    @cached_property
    def smooth(self) -> Portrait:
        """Its portrait as it is compared with recordings."""
        return portrait(self.signal, recorded=True)

    @cached_property
    def partials(self) -> tuple[Partials | None, ...]:
        """The partials of each note."""
        return tuple(partials_of(self.signal, note) for note in self.notes)


def notes_of(phrase: Phrase) -> tuple[tuple[Span, ...], tuple[float, ...]]:
    """Return when the notes of a phrase begin and end in s, and their pitches; of those at once only the first."""
    beat = 60.0 / phrase.tempo
    spans: list[Span] = []
    pitches: list[float] = []
    for note in sorted(phrase.notes, key=lambda one: (one.start, one.pitch)):
        span = note.start * beat, (note.start + note.length) * beat
        if spans and span[0] < spans[-1][1] - 1e-3:
            if span[0] - spans[-1][0] < 0.08:
                continue
            spans[-1] = spans[-1][0], span[0]
        spans.append(span)
        pitches.append(note.pitch)
    return tuple(spans), tuple(pitches)


def target_of(signal: Floats, phrase: Phrase) -> Target:
    """Return what others are compared with: a signal at the common rate that plays a phrase."""
    return Target(signal, *notes_of(phrase))


def fitted(signal: Floats, count: int, begin: int = 0) -> Floats:
    """Return a signal cut or filled up with silence to so many samples, from a sample on that may be before it."""
    found = np.zeros(count)
    first = max(0, -begin)
    part = signal[max(0, begin) : max(0, begin) + count - first]
    found[first : first + len(part)] = part
    return found


def loud_offset(target: Floats, other: Floats) -> float:
    """Return how much louder the other is, in dB, where both are well above their floors."""
    strong = (target > np.max(target) - 0.6 * FLOOR_DB) & (other > np.max(other) - 0.6 * FLOOR_DB)
    if not np.any(strong):
        return float(np.max(other) - np.max(target))
    weights = heard(target[strong])
    return float(np.sum(weights * (other - target)[strong]) / np.sum(weights))


def middle_offset(target: Floats, other: Floats) -> float:
    """Return how much louder the other is, in dB, by the middle one of its partials as they weigh for the ear."""
    louder = other - target
    order = np.argsort(louder)
    share = np.cumsum(heard(target)[order])
    return float(louder[order][np.searchsorted(share, 0.5 * share[-1])])


def weighed(apart: Floats, weights: Floats) -> float:
    """Return the root of the weighed mean of squares."""
    total = float(np.sum(weights))
    return math.sqrt(float(np.sum(weights * apart**2)) / total) if total else 0.0


def levelled(target: Floats, other: Floats, offset: float) -> tuple[Floats, Floats]:
    """Return two sets of levels in dB on one scale and with one floor, which is the higher of both."""
    moved = other - offset
    floor = max(float(np.max(target)), float(np.max(moved))) - FLOOR_DB
    return np.maximum(target, floor), np.maximum(moved, floor)


def spectrum_apart(target: Floats, other: Floats, offset: float) -> tuple[float, Floats, Floats]:
    """Return how different bands are in dB, and where: the differences and their weights, shape (frames, bands)."""
    one, two = levelled(target, other, offset)
    weights = heard(np.maximum(one, two) - float(np.max(one)))
    floor = float(np.min(one))
    weights = np.where(np.maximum(one, two) <= floor + 1.0, 0.0, weights)
    return weighed(two - one, weights), two - one, weights


def envelope_apart(target: Floats, other: Floats, offset: float) -> tuple[float, Floats]:
    """Return how different the courses of level are in dB, above all where either moves."""
    one, two = levelled(target, other, offset)
    moving = np.maximum(np.abs(np.gradient(one)), np.abs(np.gradient(two)))
    loud = heard(np.maximum(one, two) - float(np.max(one)))
    weights = loud * (0.15 + np.minimum(moving, 6.0))
    return weighed(two - one, weights), two - one


def partials_apart(
    target: Target, signal: Floats, cents: Sequence[float] | None
) -> tuple[float | None, float | None, tuple[tuple[Span, Floats, Floats], ...]]:
    """Return how sharp the note that is farthest off is, in cents; how different partials are in dB; and which.

    `cents` is, for each note, where its partials are looked for; None where the note itself is to say so.
    """
    sharps: list[float] = []
    squares, total = 0.0, 0.0
    found: list[tuple[Span, Floats, Floats]] = []
    for number, (span, wanted) in enumerate(zip(target.notes, target.partials, strict=True)):
        there = partials_of(signal, span) if wanted is not None else None
        if wanted is None or there is None:
            continue
        moved = transposition(wanted, there) if cents is None else cents[number]
        sharp = 1200.0 * np.log2(there.hz[None, :] / wanted.hz[:, None])
        nearest = np.argmin(np.abs(sharp - moved), axis=1)
        off = sharp[np.arange(len(nearest)), nearest]
        close = np.abs(off - moved) < CLOSE_CENTS
        weights = heard(wanted.db - float(np.max(wanted.db)))
        if float(np.sum(weights[close])) > LEAST_CLOSE * float(np.sum(weights)):
            weights = weights[close]
            order = np.argsort(off[close])
            share = np.cumsum(weights[order])
            sharps.append(float(off[close][order][np.searchsorted(share, 0.5 * share[-1])]))
        shift = 2.0 ** (moved / 1200.0)
        hz = np.unique(np.concatenate([wanted.hz, there.hz / shift]))
        hz = hz[np.concatenate([[True], np.diff(np.log2(hz)) > 2.0 * NEAR])]  # one of both stands for what is near
        level, goal = there.level_at(hz * shift), wanted.level_at(hz)
        level -= middle_offset(goal, level)
        floor = max(float(np.max(level)), float(np.max(goal))) - WEAKEST_DB
        louder = np.maximum(level, floor) - np.maximum(goal, floor)
        weights = heard(np.maximum(level, goal) - float(np.max(goal)))
        squares += float(np.sum(weights * louder**2))
        total += float(np.sum(weights))
        found.append((span, hz, louder))
    worst = max(sharps, key=abs) if sharps else None
    return worst, math.sqrt(squares / total) if total else None, tuple(found)


def compared(target: Target, signal: Floats, tolerances: Tolerances = EXACT) -> Comparison:
    """Return how far a render is from a target: both play the same phrase and begin with it.

    Parameters
    ----------
    target
        What it is compared with.
    signal
        The render at the common rate, shape (n,); it may begin up to half a second late or early.
    tolerances
        What counts as the same.
    """
    if float(np.max(np.abs(signal), initial=0.0)) < 1e-5:
        silent = float(np.max(np.abs(target.signal), initial=0.0)) < 1e-5
        return Comparison(silent, cannot_tell=None if silent else "silent")
    begin = late_by(target.signal, signal)
    other = portrait(fitted(signal, len(target.signal), begin))
    return measured(target, target.portrait, other, None, tolerances, begin / RATE)


def measured(
    target: Target,
    wanted: Portrait,
    other: Portrait,
    cents: Sequence[float] | None,
    tolerances: Tolerances,
    begins_s: float,
) -> Comparison:
    """Return the comparison of two portraits on one grid; `cents` as for `partials_apart`."""
    offset = loud_offset(wanted.bands, other.bands)
    spectrum, bands, weights = spectrum_apart(wanted.bands, other.bands, offset)
    envelope, course = envelope_apart(wanted.course, other.course, loud_offset(wanted.course, other.course))
    pitch, partials, notes = partials_apart(target, other.signal, cents)
    found = Comparison(
        same=False,
        pitch_cents=pitch,
        partials_db=partials,
        envelope_db=envelope,
        spectrum_db=spectrum,
        level_db=offset,
        begins_s=begins_s,
        apart=Apart(bands, weights, course, notes),
    )
    distance = found.distance(tolerances)
    sure = min(1.0, abs(math.log2(max(distance, 1e-3))))
    return Comparison(**{**found.__dict__, "same": distance <= 1.0, "confidence": round(0.5 + 0.5 * sure, 3)})


LATEST_S = 0.5


def late_by(target: Floats, signal: Floats) -> int:
    """Return by how many samples a render begins later than a target: 0 unless it is clearly so."""
    reach = round(LATEST_S * RATE)
    count = len(target)
    part = fitted(signal, count + 2 * reach, -reach)
    found = scipy.signal.fftconvolve(part, target[::-1], mode="valid")
    best = int(np.argmax(found))
    energy = float(np.sum(target**2)) * float(np.sum(part[best : best + count] ** 2))
    here = float(found[reach])
    if energy <= 0.0 or float(found[best]) < 0.5 * math.sqrt(energy) or here > 0.98 * float(found[best]):
        return 0
    return best - reach
