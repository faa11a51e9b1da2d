"""The response lens in words."""

import numpy as np

from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.arrays import Floats
from inner_tone.core.message import Message, Number, Quantity, say

PEAK_DB = 1.0
DEEP_DB, DEEP_ENOUGH_DB, DEEPEST_DB = -12.0, -17.5, -50.0
LEAST_POINTS = 8
BENT_HZ = 14_000.0  # above it, half of the sampling rate bends every fall
LEVEL_SLOPE = 1.5  # dB per octave: towards that end, all passes alike
DIFFERENT_DB = 3.0
ALIKE_DB = 6.0  # below the top: an end that passes too
NEAR_END = 40  # points: an octave


def response_clauses(frequencies_hz: Floats, gains_db: Floats, theory_db: Floats | None) -> list[Clause]:
    """Return which frequencies pass, where 3 dB are lost, and how steeply it falls beyond."""
    return [*passing(frequencies_hz, gains_db), *beside_theory(gains_db, theory_db)]


def teeth_clauses(
    frequencies_hz: Floats, gains_db: Floats, theory_db: Floats | None, apart_hz: float, first_hz: float
) -> list[Clause]:
    """Return a row of teeth: how far they stand apart, where the first one is, how high they are."""
    lowest = frequencies_hz < 8.0 * apart_hz  # farther up the picture has fewer points than there are teeth
    high, low = float(np.max(gains_db[lowest])), float(np.min(gains_db[lowest]))
    text = say(
        "say.teeth-hz-apart-the",
        apart=Number(apart_hz, 4),
        first=Number(first_hz, 4),
        high=Number(high, 2),
        low=Number(low, 2),
    )
    facts = {"apart_hz": apart_hz, "first_hz": first_hz, "high_db": high, "low_db": low}
    return [Clause("teeth", text, facts), *beside_theory(gains_db, theory_db)]


def beside_theory(gains_db: Floats, theory_db: Floats | None) -> list[Clause]:
    """Return how near a response is to theory, if there is one."""
    if theory_db is None:
        return []
    near = theory_db > np.max(theory_db) - 60.0
    apart = float(np.max(np.abs(gains_db - theory_db)[near]))
    text = say("say.as-theory-has-it", apart=Number(max(apart, 0.01), 1))
    return [Clause("theory", text, {"theory_within_db": apart})]


def passing(frequencies_hz: Floats, gains_db: Floats) -> list[Clause]:
    """Return what passes: where a response is level towards one end of hearing, that side does."""
    low, high, top = float(gains_db[0]), float(gains_db[-1]), float(np.max(gains_db))
    at, dip = float(frequencies_hz[np.argmax(gains_db)]), int(np.argmin(gains_db))
    lows = abs(slope_at(frequencies_hz, gains_db, 0)) < LEVEL_SLOPE and low > DEEPEST_DB
    highs = abs(slope_at(frequencies_hz, gains_db, -1)) < LEVEL_SLOPE and high > DEEPEST_DB
    if min(low, high) > top - ALIKE_DB and gains_db[dip] < min(low, high) + DEEP_DB:
        notch = float(frequencies_hz[dip])
        return [
            Clause("notch", say("say.a-notch-all-but", notch=Number(notch)), {"passes": "notch", "notch_hz": notch})
        ]
    if lows and highs and abs(low - high) < DIFFERENT_DB:
        return [Clause("passes", say("say.nearly-all-passes"), {"passes": "all"}), *lifted(top - max(low, high), at)]
    if lows and low > high:
        return side_clauses(frequencies_hz, gains_db - low, 1, top - low, at)
    if highs:
        return side_clauses(frequencies_hz, gains_db - high, -1, top - high, at)
    edges = frequencies_hz[gains_db > top - 3.0103]
    low_edge, high_edge = float(edges[0]), float(edges[-1])
    facts = {"passes": "band", "from_hz": low_edge, "to_hz": high_edge, "most_hz": at}
    return [
        Clause(
            "band",
            say("say.a-band-passes-from", low_edge=Number(low_edge), high_edge=Number(high_edge), at=Number(at)),
            facts,
        )
    ]


def slope_at(frequencies_hz: Floats, gains_db: Floats, end: int) -> float:
    """Return how many dB per octave a response moves at one end of hearing."""
    part = slice(0, NEAR_END) if end == 0 else slice(-NEAR_END, None)
    return float(np.polyfit(np.log2(frequencies_hz[part]), gains_db[part], 1)[0])


def side_clauses(frequencies_hz: Floats, below_db: Floats, way: int, lift_db: float, at_hz: float) -> list[Clause]:
    """Return up to where, or from where on, a side passes, and what happens beyond."""
    edge = corner(frequencies_hz[::way], below_db[::way])
    slope = steep(frequencies_hz, below_db, way)
    facts = {"passes": "lows" if way > 0 else "highs", "corner_hz": edge, "slope_db": slope}
    steeply = round(slope) if slope else 0
    if slope:
        text = (
            say("say.lows-pass-and-fall", edge=Number(edge), steeply=Number(steeply, 2))
            if way > 0
            else say("say.highs-pass-and-fall", edge=Number(edge), steeply=Number(steeply, 2))
        )
    else:
        text = say("say.lows-pass", edge=Number(edge)) if way > 0 else say("say.highs-pass", edge=Number(edge))
    return [Clause("passes", text, facts), *lifted(lift_db, at_hz)]


def lifted(by_db: float, at_hz: float) -> list[Clause]:
    """Return how far a response is lifted, where it is."""
    if by_db < PEAK_DB:
        return []
    text = say("say.lifted-by-db-at", by=Number(by_db, 2), at=Number(at_hz))
    return [Clause("lifted", text, {"lift_db": by_db, "lift_hz": at_hz}, ", ")]


def steered_clause(name: str, low: str, high: str, taken: str) -> Clause:
    """Return between which values a setting is steered, and with which one the response was measured."""
    if low == high:
        return Clause("steered", say("say.its-is-steered-to", name=name, taken=taken), {"steered": name})
    return Clause(
        "steered", say("say.its-is-steered-from", name=name, low=low, high=high, taken=taken), {"steered": name}
    )


def corner(frequencies_hz: Floats, below_db: Floats) -> float:
    """Return the last frequency in Hz, from the passing side, at which no more than 3 dB are lost."""
    last = int(np.flatnonzero(below_db > -3.0103)[-1])
    if last + 1 >= len(below_db):
        return float(frequencies_hz[last])
    pair = slice(last, last + 2)
    return float(np.exp(np.interp(3.0103, -below_db[pair], np.log(frequencies_hz[pair]))))


def steep(frequencies_hz: Floats, below_db: Floats, way: int) -> float | None:
    """Return how many dB per octave a response falls, where enough of the fall is seen: in the deeper half of it.

    Nearer to the corner a resonance makes it steeper, and none makes it less steep.
    """
    falling = (below_db < DEEP_DB) & (below_db > DEEPEST_DB) & (frequencies_hz < BENT_HZ)
    if np.sum(falling) < LEAST_POINTS or np.min(below_db[falling]) > DEEP_ENOUGH_DB:
        return None
    deeper = falling & (below_db < 0.5 * (DEEP_DB + float(np.min(below_db[falling]))))
    return -way * float(np.polyfit(np.log2(frequencies_hz[deeper]), below_db[deeper], 1)[0])


def describe_curve(xs: Floats, ys: Floats) -> Message:
    """Return a sentence about a shaper's curve."""
    at_half, at_one = (float(np.interp(value, xs, ys)) for value in (0.5, 1.0))
    slope = float(np.interp(0.01, xs, ys) - np.interp(-0.01, xs, ys)) / 0.02
    turns = int(np.sum(np.diff(np.sign(np.diff(ys[np.abs(np.gradient(ys)) > 1e-6]))) != 0))
    curve = say(
        "say.small-sounds-are-made", slope=Number(abs(slope), 2), at_half=Number(at_half, 2), at_one=Number(at_one, 2)
    )
    return say("say.it-turns-times", curve=curve, turns=turns) if turns > 1 else say("say.end", said=curve)


def describe_envelope(
    attack_s: float | None, decay_s: float | None, sustain: float, release_s: float | None
) -> Message:
    """Return a sentence about the stages of an envelope; those that it does not have are left out."""
    rises = attack_s or 0.0
    said = say("say.rises-in", rises=Quantity(rises, "s"))
    if decay_s is not None:
        said = say("say.falls-to-in", said=said, sustain=Number(sustain), decay=Quantity(decay_s, "s"))
    return (
        say("say.and-to-zero-in", said=said, release=Quantity(release_s, "s"))
        if release_s is not None
        else say("say.end", said=said)
    )
