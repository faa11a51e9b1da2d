"""Cycles beside each other in words."""

import numpy as np

from inner_tone.core.analysis.cycles import Cycles
from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.message import Number, say

ALIKE, CHANGED = 0.02, 0.05  # of a cycle's RMS; a steady saw's cycles, laid out, differ by less than 0.012
STILL_DB = 0.3
STILL_CENTS = 4.0


def cycle_clauses(found: Cycles) -> list[Clause]:
    """Return whether cycles are alike in form, breathe in level, and how their lengths differ."""
    if len(found) < 2:
        return [Clause("no cycle", say("say.no-cycle-comes-back"), {})]
    apart, level_db = float(np.max(found.apart)), float(np.ptp(found.levels_db))
    cents = 1200.0 * float(np.log2(np.max(found.often_hz) / np.min(found.often_hz)))
    facts = {"cycles": len(found), "apart": round(apart, 4), "level_db": round(level_db, 2)}
    return [form_clause(len(found), apart, facts), *level_clause(level_db), *length_clause(found, cents)]


def form_clause(count: int, apart: float, facts: dict[str, float]) -> Clause:
    """Return whether the form of cycles stays."""
    if apart < ALIKE:
        return Clause("alike", say("say.cycles-alike", count=count), facts)
    if apart < CHANGED:
        return Clause("nearly alike", say("say.cycles-nearly-alike", count=count), facts)
    share = Number(100.0 * apart, 2)
    text = say("say.cycles-change", count=count, share=share)
    return Clause("form changes", text, facts)


def level_clause(level_db: float) -> list[Clause]:
    """Return how far the level of cycles moves."""
    if level_db < STILL_DB:
        return [Clause("level stays", say("say.equally-strong"), {}, ", ")]
    return [Clause("breathes", say("say.they-breathe-the-strongest", level=Number(level_db, 2)))]


def length_clause(found: Cycles, cents: float) -> list[Clause]:
    """Return how far the length of cycles moves."""
    if cents < STILL_CENTS:
        return []
    shortest, longest = (1000.0 / float(one) for one in (np.max(found.often_hz), np.min(found.often_hz)))
    facts = {"shortest_ms": shortest, "longest_ms": longest}
    return [
        Clause(
            "length moves",
            say("say.the-shortest-lasts-ms", shortest=Number(shortest, 4), longest=Number(longest, 4)),
            facts,
        )
    ]
