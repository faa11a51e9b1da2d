"""How near one's own sound is to a target: a patch of one's own, or what another instrument has played."""

import math
from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from inner_tone.core.advice import Advice, Search, nearer
from inner_tone.core.analysis.compare import (
    EXACT,
    RECORDED,
    Comparison,
    Reason,
    Target,
    Tolerances,
    compared,
    fitted,
    loud_offset,
    spectrum_apart,
    target_of,
)
from inner_tone.core.analysis.portrait import HOP, RATE, Portrait, at_common_rate, partials_of, portrait
from inner_tone.core.analysis.recording import Fit, cannot_tell, compared_recording, fit, is_cut, noise_of
from inner_tone.core.analysis.transposition import transpositions
from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import events_of
from inner_tone.core.engine.playing import Playing
from inner_tone.core.engine.recorder import Recorder
from inner_tone.core.engine.render import Watch, heard_taps, render, unwatched
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.otherwise import makes, tuned
from inner_tone.core.phrase import Phrase

LEAST_HEARD_S = 1.2  # so much of a sound is heard at each try
ENOUGH = 0.7  # of its share of the difference
SAME_CENTS = 10.0
MOST_SHARP = 2
FARTHEST_TUNED = 60.0  # cents: what is farther off is another pitch, not another tuning


REASONS: dict[Reason, str] = {
    "silent": "There is nothing to be heard.",
    "clipped": "It is cut off: it was recorded too loud. Turn it down and record it once more.",
    "too-short": "It ends before the phrase does. Record all of it.",
    "other-phrase": "What is played is not this phrase, or it cannot be made out.",
    "other-notes": "Some notes are others than those of the phrase.",
    "several-notes": "Several notes sound at once where the phrase has one.",
}


def sides_of(patch: Patch, phrase: Phrase) -> Floats:
    """Return what a patch gives that plays a phrase, left and right at the common rate: shape (2, n)."""
    done = render(patch, phrase, rate=float(RATE))
    return np.stack([done.left, done.right]).astype(np.float64)


def beginning_of(patch: Patch, phrase: Phrase, seconds: float) -> Floats:
    """Return how the sound of a patch begins, both sides together at the common rate: shape (n,), so many s of it."""
    count = round(seconds * RATE)
    sides = heard_taps(patch)
    recorder = Recorder(count, sides, measured=False)
    playing = Playing(patch, float(RATE), recorder, tempo=phrase.tempo)
    for sample, event in events_of(phrase, float(RATE)):
        if sample >= count:
            break
        playing.advance(sample - playing.position)
        playing.apply(event)
    playing.advance(count - playing.position)
    signals = recorder.tracks.signals[: len(sides), :count]
    return np.clip(middle_of(signals), -1.0, 1.0) if len(sides) else np.zeros(count)


def middle_of(channels: Floats) -> Floats:
    """Return what several channels, shape (channels, n), give together."""
    return np.asarray(np.mean(np.atleast_2d(channels), axis=0))


def target_for(patch: Patch, phrase: Phrase) -> Target:
    """Return what is compared with the sound of a patch that plays a phrase."""
    return target_of(middle_of(sides_of(patch, phrase)), phrase)


def recording_compared(
    patch: Patch, phrase: Phrase, channels: Floats, rate: float, tolerances: Tolerances = RECORDED
) -> Comparison:
    """Return how near a recording is to a patch that plays a phrase, or why that cannot be told.

    It is compared with the patch as it is, and as instruments of other makes have it, tuned as the recording is: what
    every instrument does in its own way is no difference.

    Parameters
    ----------
    patch, phrase
        The target.
    channels
        The recording, shape (channels, n) or (n,).
    rate
        Its sampling rate in Hz.
    tolerances
        What counts as the same.
    """
    target = target_for(patch, phrase)
    if is_cut(middle_of(channels)) and not is_cut(target.signal):
        return cannot_tell("clipped")
    signal = at_common_rate(middle_of(channels), rate)
    found = fit(target, signal)
    if isinstance(found, str):
        return cannot_tell(found)
    cents = found.tuning.cents if abs(found.tuning.cents) <= FARTHEST_TUNED else 0.0
    return min(
        against_makes(patch, phrase, signal, found, cents, tolerances), key=lambda one: one[1].distance(tolerances)
    )[1]


def against_makes(
    patch: Patch, phrase: Phrase, signal: Floats, found: Fit, cents: float, tolerances: Tolerances
) -> Iterator[tuple[Patch, Comparison]]:
    """Yield the patch as every make has it, tuned by so many cents, and how near a recording is to each."""
    for make in makes(patch):
        built = tuned(make, cents)
        one = compared_recording(target_for(built, phrase), signal, found, tolerances, cents)
        one = replace(one, pitch_cents=None if one.pitch_cents is None else one.pitch_cents + cents)
        yield built, replace(one, same=one.distance(tolerances) <= 1.0)


def closest_make(patch: Patch, phrase: Phrase, signal: Floats, found: Fit, cents: float) -> Patch:
    """Return the patch as the make that a recording is nearest to has it."""
    return min(against_makes(patch, phrase, signal, found, cents, RECORDED), key=lambda one: one[1].distance(RECORDED))[
        0
    ]


def render_compared(target: Target, patch: Patch, phrase: Phrase, tolerances: Tolerances = EXACT) -> Comparison:
    """Return how near the sound of a patch is to a target that plays the same phrase."""
    return compared(target, middle_of(sides_of(patch, phrase)), tolerances)


def advice_for(target: Target, patch: Patch, phrase: Phrase, watch: Watch = unwatched) -> list[Advice]:
    """Return what to turn in a patch so that it comes nearer to a target that plays the same phrase, the best first.

    `watch` is told how much of the search is done, 0 to 1; where it raises, the search ends.
    """
    mine = middle_of(sides_of(patch, phrase))
    seconds = enough_of(target, mine)
    wanted = fitted(target.signal, round(seconds * RATE))
    sharp = sharp_by(target, fitted(mine, len(target.signal)))
    return nearer(wanted, patch, lambda one: beginning_of(one, phrase, seconds), watch, sharp)


def sharp_by(target: Target, signal: Floats) -> list[float]:
    """Return by how many cents the notes of a sound, or one of their tones, seem to be too high, the farthest first."""
    found: list[float] = []
    for span, wanted in zip(target.notes, target.partials, strict=True):
        there = partials_of(signal, span) if wanted is not None else None
        if wanted is not None and there is not None:
            found += [
                one for one in transpositions(wanted, there) if all(abs(one - other) > SAME_CENTS for other in found)
            ]
    return sorted(found, key=abs, reverse=True)[:MOST_SHARP]


def enough_of(target: Target, mine: Floats) -> float:
    """Return how much of two sounds, from their beginning in s, has its share of what differs between them."""
    other = portrait(fitted(mine, len(target.signal)))
    _, apart, weights = spectrum_apart(
        target.portrait.bands, other.bands, loud_offset(target.portrait.bands, other.bands)
    )
    lies = np.cumsum(np.sum(weights * apart**2, axis=1))
    weighs = np.cumsum(np.sum(weights, axis=1))
    if lies[-1] <= 0.0:
        return target.portrait.seconds
    share = (lies / lies[-1]) / np.maximum(weighs / max(weighs[-1], 1e-12), 1e-12)
    first = math.ceil(LEAST_HEARD_S * RATE / HOP)
    enough = np.flatnonzero(share[first:] >= ENOUGH)
    return min(
        target.portrait.seconds, (first + int(enough[0]) + 1) * HOP / RATE if len(enough) else target.portrait.seconds
    )


def advice_for_recording(
    patch: Patch, phrase: Phrase, channels: Floats, rate: float, watch: Watch = unwatched
) -> list[Advice]:
    """Return what to turn on another instrument whose recording is not like the patch, the best first.

    It is found out what would have to be turned in the patch for it to sound as what was recorded; the advice is the
    way back. The recording must be one that `recording_compared` can tell of.
    """
    signal = at_common_rate(middle_of(channels), rate)
    found = fit(target_for(patch, phrase), signal)
    if isinstance(found, str):
        return []
    cents = found.tuning.cents if abs(found.tuning.cents) <= FARTHEST_TUNED else 0.0
    base = closest_make(patch, phrase, signal, found, cents)
    target = target_for(base, phrase)
    noise = noise_of(target, signal, found.begin)
    wanted = portrait(fitted(signal, len(target.signal), found.begin), noise=noise, recorded=True)

    def hear(one: Patch) -> Portrait:
        there = beginning_of(one, phrase, target.portrait.seconds)
        return portrait(fitted(there, len(target.signal)), recorded=True)

    return Search(wanted, base, hear, watch, way_back=True).found()
