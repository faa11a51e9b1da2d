"""The frequency lens in words."""

import numpy as np

from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.analysis.running import Running, centred
from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.analysis.sentences.words import LOWEST_NOTE_HZ, note_text
from inner_tone.core.arrays import Floats
from inner_tone.core.units import midi_of, trimmed

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
        return [Clause("nothing", "Nothing to see: the moment is empty")]
    low, high = float(np.min(found.frequencies_hz)), float(np.max(found.frequencies_hz))
    rest = found.rest_hz
    facts = {"rest_hz": rest, "low_hz": low, "high_hz": high}
    begun = [Clause("anew", "each cycle may be begun anew from outside, which is not shown here")] if anew else []
    if is_steady(found):
        return [Clause("steady", f"{named(high)}, and nothing moves it", facts), *begun]
    often = rate_of(moved)
    text = f"Moved between {trimmed(low, 4)} and {trimmed(high, 4)} Hz"
    if often is not None:
        text += f", {trimmed(often, 4)} times a second"
        facts["often_hz"] = often
    clauses = [Clause("rest", f"At rest {named(rest)}", {}), Clause("moved", text[0].lower() + text[1:], facts)]
    return [*clauses, *phase_clauses(found, often), *backwards(found), *begun]


def is_steady(found: Running) -> bool:
    """Tell whether a cycle's frequency stays as good as the same."""
    return len(found.frequencies_hz) == 0 or bool(np.ptp(found.frequencies_hz) < STILL * abs(found.rest_hz))


def named(hertz: float) -> str:
    """Return a frequency with its note, if it has one."""
    return (
        f"{trimmed(hertz, 4)} Hz ({note_text(midi_of(hertz))})"
        if hertz >= LOWEST_NOTE_HZ
        else f"{trimmed(hertz, 4)} Hz"
    )


def rate_of(moved: Excerpt) -> float | None:
    """Return how often in a second a movement comes back, if it does."""
    return moved.slow_hz or (moved.fundamental_hz if moved.has_pitch else None)


def phase_clauses(found: Running, often: float | None) -> list[Clause]:
    """Return how far the phase is pushed ahead and held back where the movement comes back: the index."""
    if often is None:
        return []
    index = swing_of(found.ahead_rad)
    text = f"the phase runs up to {trimmed(index, 2)} rad ahead and behind, which is the index"
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
    text = f"for {trimmed(100.0 * share, 2)} % of the time it runs backwards"
    return [Clause("backwards", text, {"backwards_share": share})]
