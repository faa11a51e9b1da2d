"""The wave lens in words."""

import numpy as np

from inner_tone.core.analysis.clipping import clipping
from inner_tone.core.analysis.excerpt import SILENT, Excerpt
from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.analysis.sentences.spectrum import vibrato_clause
from inner_tone.core.analysis.sentences.words import about_text, clipping_clause, pitch_text
from inner_tone.core.analysis.wave import Wave
from inner_tone.core.units import trimmed

GAP_SECONDS = 0.05
LOUD = 0.01


def cycles_clauses(seen: Excerpt, shown: Wave) -> list[Clause]:
    """Return what there is to say of a few cycles."""
    if shown.highs.size == 0 or seen.is_silent:
        return [Clause("silence", "Silence: the line stays at zero")]
    least, greatest = float(np.min(shown.lows)), float(np.max(shown.highs))
    if greatest - least < SILENT:
        return [Clause("level line", f"A level line at {trimmed(greatest)}: nothing moves", {"value": greatest})]
    swing = f"between {trimmed(least, 2)} and {trimmed(greatest, 2)}"
    facts = {"least": least, "greatest": greatest}
    flat = clipping_clause(clipping(seen.passage)) if not seen.is_noise else []
    if shown.frequency_hz is None:
        return [Clause("no cycle", f"Nothing that repeats clearly; it moves {swing}", facts), *flat]
    if seen.is_driven:
        pitch = Clause("about", about_text(shown.frequency_hz), {**facts, "about_hz": shown.frequency_hz})
        return [pitch, Clause("changing", f"its wave changes, and swings {swing}", {}, ": "), *flat]
    period = 1.0 / shown.frequency_hz
    said = f"one cycle takes {trimmed(1000.0 * period)} ms and swings {swing}"
    facts = {**facts, "pitch_hz": shown.frequency_hz, "cycle_s": period}
    return [
        Clause("pitch", pitch_text(shown.frequency_hz), {}),
        *vibrato_clause(seen.melody.vibrato if seen.window.moving else None),
        Clause("cycle", said, facts, ": "),
        *flat,
    ]


def course_clauses(seen: Excerpt, shown: Wave) -> list[Clause]:
    """Return what there is to say of the course of a signal over a time, given its outline."""
    lows, highs, seconds = shown.lows, shown.highs, shown.seconds
    if highs.size == 0 or seen.is_silent:
        return [Clause("silence", "Silence from beginning to end")]
    size = np.maximum(np.abs(lows), np.abs(highs))
    loud = np.flatnonzero(size > LOUD * np.max(size))
    step = seconds / len(size)
    begin, end = shown.start_s + loud[0] * step, shown.start_s + (loud[-1] + 1) * step
    gaps = int(np.sum(np.diff(loud) * step > GAP_SECONDS))
    parts = f"{gaps + 1} stretches" if gaps else "Without a break"
    unending = ", and it has not ended there" if end > shown.start_s + seconds - 2 * step else ""
    peak = float(np.max(size))
    text = f"{parts} from {trimmed(begin, 2)} s to {trimmed(end)} s{unending}"
    facts = {"stretches": gaps + 1, "begin_s": begin, "end_s": end, "ended": not unending}
    return [Clause("course", text, facts), Clause("peak", f"peak {trimmed(peak, 2)}", {"peak": peak})]
