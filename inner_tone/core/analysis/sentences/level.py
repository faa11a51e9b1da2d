"""The level lens in words."""

from inner_tone.core.analysis.clipping import clipping
from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.analysis.loudness import SILENT_LUFS
from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.analysis.sentences.words import beating_clause, clipping_clause
from inner_tone.core.analysis.stages import Stages
from inner_tone.core.message import Number, Quantity, say
from inner_tone.core.units import decibels

SILENT_DB = -90.0
NEVER_DB = -55.0  # below the top: what a decay comes to is silence
AT_ONCE_S = 0.001
LOOKS, ROUGH_LOOKS = 1.6, 4.0
ZERO_DB = 0.005


def level_clauses(seen: Excerpt, lufs: float | None) -> list[Clause]:
    """Return what there is to say of loudness and peak, and of the stages that the sound goes through.

    Without a loudness it is no sound but a course of values.
    """
    peak_db = decibels(seen.peak)
    if seen.is_silent or peak_db < SILENT_DB or seen.stages is None:
        return [Clause("silence", say("say.silence-nothing-rises"))]
    found = loud_clauses(seen, peak_db, lufs)
    flat = clipping_clause(clipping(seen.passage)) if lufs is not None and not seen.is_noise else []
    # where it swells and fades all the time, there is no telling its stages
    if seen.slow_hz and not seen.is_course:
        again = say("say.it-comes-back-times", slow=Number(seen.slow_hz))
        return [*found, Clause("slow", again, {"repeats_hz": seen.slow_hz}), *flat]
    stages = beating_clause(seen.beating) if seen.beating else stage_clauses(seen.stages)
    return [*found, *stages, *flat]


def loud_clauses(seen: Excerpt, peak_db: float, lufs: float | None) -> list[Clause]:
    """Return how loud it is, and how high it rises."""
    if lufs is None:
        risen = Number(seen.peak)
        return [
            Clause(
                "peak",
                say("say.up-to", risen=risen) if seen.stages and seen.stages.up else say("say.rises-to", risen=risen),
                {"peak": seen.peak},
            )
        ]
    shown = 0.0 if abs(peak_db) < ZERO_DB else peak_db
    top = Clause("peak", say("say.peak-beside", shown=Number(shown)), {"peak_db": peak_db}, ", ")
    if lufs <= SILENT_LUFS:
        return [Clause("peak", say("say.peak-alone", shown=Number(shown)), {"peak_db": peak_db})]
    return [Clause("loudness", say("say.lufs", lufs=Number(lufs)), {"lufs": lufs}), top]


def stage_clauses(found: Stages) -> list[Clause]:
    """Return the stages, those that can be told."""
    if found.wavers:
        return [Clause("wavers", say("say.its-level-goes-up"), {}, ": "), *ending(found)]
    clauses = attack_clauses(found)
    if found.decay_s > AT_ONCE_S and found.settles:
        clauses.append(decay_clause(found))
    elif found.decay_s > AT_ONCE_S:
        clauses.append(
            Clause("falling", say("say.still-falling-when-it") if found.closing_s else say("say.falling"), {}, ", ")
        )
    return [*clauses, *release_clauses(found)]


def attack_clauses(found: Stages) -> list[Clause]:
    """Return the attack: a time, or that it is shorter than can be told, or that it was up before."""
    if found.up:
        return [Clause("attack", say("say.already-there"), {}, ": ")]
    if found.attack_s is None:
        return []
    facts = {"attack_s": found.attack_s}
    least = shortest(found)
    if found.attack_s < least:
        if found.attack_s == 0.0 or least <= AT_ONCE_S:
            return [Clause("attack", say("say.there-at-once"), {"attack_below_s": least}, ": ")]
        return [Clause("attack", say("say.there-within", least=Quantity(least, "s")), {"attack_below_s": least}, ": ")]
    return [Clause("attack", say("say.attack", attack=Quantity(found.attack_s, "s")), facts, ": ")]


def shortest(found: Stages) -> float:
    """Return the shortest time in s that a stage must take to be told, rather than only that it is shorter."""
    return max(AT_ONCE_S, (LOOKS if found.exact else ROUGH_LOOKS) * found.look_s)


def decay_clause(found: Stages) -> Clause:
    """Return the decay and what it comes to."""
    facts = {"decay_s": found.decay_s, "sustain_db": found.sustain_db}
    if found.sustain_db < NEVER_DB:
        return Clause("decay", say("say.dying-away-in", decay=Quantity(found.decay_s, "s")), facts, ", ")
    below = Number(-found.sustain_db, 2)
    return Clause("decay", say("say.decay-to-db-below", decay=Quantity(found.decay_s, "s"), below=below), facts, ", ")


def ending(found: Stages) -> list[Clause]:
    """Return that it does not end, if it is known that it does not."""
    if found.ended or found.held:
        return []
    said = say("say.not-ended-here") if found.closing_s is not None else say("say.and-it-does-not")
    return [Clause("unending", said, {"ended": False}, ", ")]


def release_clauses(found: Stages) -> list[Clause]:
    """Return how it ends."""
    if found.sustain_db < NEVER_DB:
        return []
    if not found.ended:
        return ending(found)
    if found.release_s is None:
        return []
    facts, least = {"release_s": found.release_s}, shortest(found)
    if found.release_s < least:
        told = say("say.gone-at-once") if least <= AT_ONCE_S else say("say.gone-within", least=Quantity(least, "s"))
        return [Clause("release", told, {"release_below_s": least}, ", ")]
    return [Clause("release", say("say.release", release=Quantity(found.release_s, "s")), facts, ", ")]
