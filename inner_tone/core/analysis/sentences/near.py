"""What is said of a sound that is compared with a target: in what it differs, each claim from what was measured."""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from inner_tone.core.analysis.compare import Apart, Comparison, Target, Tolerances
from inner_tone.core.analysis.portrait import LOWEST_HZ, PER_OCTAVE, STRIDE
from inner_tone.core.analysis.portrait import RATE as COMMON_RATE
from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.analysis.sentences.words import ordinal
from inner_tone.core.arrays import Floats
from inner_tone.core.message import Listed, Message, Number, Quantity, say
from inner_tone.core.units import frequency_of, interval_text, trimmed

CLEARLY_DB = 3.0
MOST_NAMED = 3
FUNDAMENTAL = say("say.near.fundamental")
HIGHEST_NAMED = 16
AS_HARMONIC = 0.02  # of its number: so near to a multiple of the note's pitch, a partial has that number
LEAST_BANDS = 4
REACHED_DB = 3.0
SLOWER = 1.3
LEAST_LATER_S = 0.015


def near_clauses(target: Target, found: Comparison, tolerances: Tolerances) -> list[Clause]:
    """Return in what a sound differs from a target, the plainest first; nothing where it cannot be told."""
    if found.cannot_tell is not None or found.apart is None:
        return []
    return [
        *pitch_clause(found, tolerances),
        *partial_clauses(target, found, tolerances),
        *attack_clause(target, found),
        *band_clause(found.apart, found, tolerances),
        *level_clause(found),
    ]


def pitch_clause(found: Comparison, tolerances: Tolerances) -> Iterator[Clause]:
    """Yield how much too high or too low it is."""
    cents = found.pitch_cents
    if cents is None or abs(cents) <= tolerances.pitch_cents:
        return
    yield Clause("near-pitch", say("say.it-is", off=off_pitch(cents)), {"pitch_cents": cents})


def off_pitch(cents: float) -> Message:
    """Return how far a note is off: an octave too high."""
    return (
        say("say.too-high", interval=interval_text(cents))
        if cents > 0.0
        else say("say.too-low", interval=interval_text(cents))
    )


def partial_clauses(target: Target, found: Comparison, tolerances: Tolerances) -> Iterator[Clause]:
    """Yield which harmonics are clearly too strong or too weak."""
    assert found.apart is not None
    if found.partials_db is None or found.partials_db <= tolerances.partials_db or not found.apart.partials:
        return
    span, hz, louder = max(found.apart.partials, key=lambda one: float(np.max(np.abs(one[2]), initial=0.0)))
    place = target.notes.index(span)
    pitch = frequency_of(target.pitches[place]) if place < len(target.pitches) else None
    if pitch is None:
        return
    numbers = hz / pitch
    for way, here in (("strong", louder >= CLEARLY_DB), ("weak", louder <= -CLEARLY_DB)):
        whole = np.round(numbers)
        named = here & (np.abs(numbers - whole) < AS_HARMONIC * np.maximum(whole, 1.0)) & (whole >= 1)
        named &= whole <= HIGHEST_NAMED
        chosen = sorted(np.flatnonzero(named), key=lambda one: -abs(float(louder[one])))[:MOST_NAMED]
        if not chosen:
            continue
        chosen.sort(key=lambda one: float(hz[one]))
        words = [FUNDAMENTAL if whole[one] == 1 else ordinal(int(whole[one])) for one in chosen]
        much = float(np.mean(np.abs(louder[chosen])))
        several = "partials" if len(chosen) > 1 else "partial" if words != [FUNDAMENTAL] else "fundamental"
        said = say(f"say.near.{several}.{way}", partials=Listed(words), much=Number(much, 2))
        facts = {f"{way}_partials": [int(whole[one]) for one in chosen], f"{way}_db": float(trimmed(much, 2))}
        yield Clause(f"near-{way}", said, facts)


def attack_of(course: Floats, begin: float, end: float) -> float | None:
    """Return how long a note takes to come within 3 dB of the highest it reaches, in s, by its course in dB."""
    step = STRIDE / COMMON_RATE
    part = course[round(begin / step) : max(round(begin / step) + 2, round(end / step))]
    if len(part) < 4 or float(np.max(part)) - float(part[0]) < 6.0:
        return None
    return float(np.argmax(part >= float(np.max(part)) - REACHED_DB)) * step


def attack_clause(target: Target, found: Comparison) -> Iterator[Clause]:
    """Yield that its first note comes up more slowly or faster."""
    assert found.apart is not None
    if not target.notes:
        return
    wanted = target.portrait.course
    count = min(len(wanted), len(found.apart.course_db))
    times = [
        attack_of(one, *target.notes[0]) for one in (wanted[:count], wanted[:count] + found.apart.course_db[:count])
    ]
    goal, own = times
    if goal is None or own is None or abs(own - goal) < LEAST_LATER_S:
        return
    if max(own, goal) < SLOWER * max(min(own, goal), 1e-3):
        return
    text = (
        say("say.it-comes-up-more", own=Quantity(own, "s"), goal=Quantity(goal, "s"))
        if own > goal
        else say("say.it-comes-up-faster", own=Quantity(own, "s"), goal=Quantity(goal, "s"))
    )
    yield Clause("near-attack", text, {"attack_s": own, "goal_attack_s": goal})


def band_clause(apart: Apart, found: Comparison, tolerances: Tolerances) -> Iterator[Clause]:
    """Yield above or below which frequency it is brighter, darker, fuller or thinner."""
    if found.spectrum_db is None or found.spectrum_db <= tolerances.spectrum_db:
        return
    weights = np.sum(apart.weights, axis=0)
    heard = weights > 0.01 * float(np.max(weights, initial=0.0))
    if not np.any(heard):
        return
    mean = np.sum(apart.weights * apart.bands_db, axis=0) / np.maximum(weights, 1e-12)
    places = np.flatnonzero(heard)
    upper = edge_of(mean, places[::-1])
    lower = edge_of(mean, places)
    high = float(np.average(mean[upper], weights=weights[upper])) if len(upper) >= LEAST_BANDS else 0.0
    low = float(np.average(mean[lower], weights=weights[lower])) if len(lower) >= LEAST_BANDS else 0.0
    if max(abs(high), abs(low)) < CLEARLY_DB or len(upper) == len(places):
        return
    if abs(high) >= abs(low):
        hz = LOWEST_HZ * 2.0 ** (float(np.min(upper)) / PER_OCTAVE)
        much, where = Number(abs(high), 2), hz_text(hz)
        yield Clause(
            "near-bright",
            say("say.it-is-brighter-db", much=much, where=where)
            if high > 0.0
            else say("say.it-is-darker-db", much=much, where=where),
            {"above_hz": hz, "above_db": high},
        )
    else:
        hz = LOWEST_HZ * 2.0 ** (float(np.max(lower)) / PER_OCTAVE)
        much, where = Number(abs(low), 2), hz_text(hz)
        yield Clause(
            "near-full",
            say("say.it-is-fuller-db", much=much, where=where)
            if low > 0.0
            else say("say.it-is-thinner-db", much=much, where=where),
            {"below_hz": hz, "below_db": low},
        )


def edge_of(mean: Floats, places: NDArray[np.intp]) -> NDArray[np.intp]:
    """Return the places from an edge on that differ clearly, all to the same side."""
    side = np.sign(mean[places[0]])
    clear = (np.abs(mean[places]) >= 0.5 * CLEARLY_DB) & (np.sign(mean[places]) == side)
    stop = len(places) if bool(np.all(clear)) else int(np.argmin(clear))
    return places[:stop]


def level_clause(found: Comparison) -> Iterator[Clause]:
    """Yield how much louder or softer it is, which does not count."""
    if abs(found.level_db) < CLEARLY_DB:
        return
    much = Number(abs(found.level_db), 2)
    text = say("say.it-is-db-louder", much=much) if found.level_db > 0.0 else say("say.it-is-db-softer", much=much)
    yield Clause("near-level", text, {"level_db": found.level_db})


def hz_text(hz: float) -> Message:
    """Return a frequency as people say it roughly."""
    return say("say.khz", hz=Number(hz / 1000.0, 2)) if hz >= 1000.0 else say("say.hz", hz=Number(hz, 2))
