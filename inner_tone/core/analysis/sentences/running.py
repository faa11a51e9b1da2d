"""The frequency lens in words."""

import numpy as np

from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.analysis.running import Running, centred
from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.arrays import Floats
from inner_tone.core.message import Number, Pitch, say

STILL = 5e-4  # of the frequency: less than a cent


def running_clauses(found: Running, moved: Excerpt, *, anew: bool) -> list[Clause]:
    """Return where a cycle's frequency rests, how far and how often it is moved, and how far the phase.

    Parameters
    ----------
    found
        The run of the cycle in the passage that is looked at.
    moved
        By how many Hz it runs faster than at rest, in the same passage.
    anew
        Whether something begins the cycle anew, which is no part of its frequency.
    """
    if len(found.frequencies_hz) == 0:
        return [Clause("nothing", say("say.nothing-to-see-the"))]
    low, high = float(np.min(found.frequencies_hz)), float(np.max(found.frequencies_hz))
    rest = found.rest_hz
    facts = {"rest_hz": rest, "low_hz": low, "high_hz": high}
    begun = [Clause("anew", say("say.each-cycle-may-be"))] if anew else []
    if is_steady(found):
        return [Clause("steady", say("say.and-nothing-moves-it", high=Pitch(high)), facts), *begun]
    often = rate_of(moved)
    text = say("say.moved-between-and-hz", low=Number(low, 4), high=Number(high, 4))
    if often is not None:
        text = say("say.times-a-second", text=text, often=Number(often, 4))
        facts["often_hz"] = often
    clauses = [Clause("rest", say("say.at-rest", rest=Pitch(rest)), {}), Clause("moved", text, facts)]
    return [*clauses, *phase_clauses(found, often), *backwards(found), *begun]


def is_steady(found: Running) -> bool:
    """Tell whether a cycle's frequency stays as good as the same."""
    return len(found.frequencies_hz) == 0 or bool(np.ptp(found.frequencies_hz) < STILL * abs(found.rest_hz))


def rate_of(moved: Excerpt) -> float | None:
    """Return how often in a second a movement comes back, if it does."""
    return moved.slow_hz or (moved.fundamental_hz if moved.has_pitch else None)


def phase_clauses(found: Running, often: float | None) -> list[Clause]:
    """Return how far the phase is pushed ahead and held back where the movement comes back: the index."""
    if often is None:
        return []
    index = swing_of(found.ahead_rad)
    text = say("say.the-phase-runs-up", index=Number(index, 2))
    return [Clause("index", text, {"index_rad": index})]


def swing_of(ahead_rad: Floats) -> float:
    """Return half of the way from the farthest behind to the farthest ahead, in radians."""
    swing = centred(ahead_rad)
    return 0.5 * float(np.max(swing) - np.min(swing))


def backwards(found: Running) -> list[Clause]:
    """Return that the cycle runs backwards at times, if it does."""
    against = found.frequencies_hz * np.sign(found.rest_hz) < 0.0
    share = float(np.mean(against))
    if share == 0.0 or found.rest_hz == 0.0:
        return []
    text = say("say.for-of-the-time", share=Number(100.0 * share, 2))
    return [Clause("backwards", text, {"backwards_share": share})]
