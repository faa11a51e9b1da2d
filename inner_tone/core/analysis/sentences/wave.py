"""The wave lens in words."""

import numpy as np

from inner_tone.core.analysis.clipping import clipping
from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.analysis.sentences.spectrum import vibrato_clause
from inner_tone.core.analysis.sentences.words import about, clipping_clause
from inner_tone.core.analysis.thresholds import SILENT
from inner_tone.core.analysis.wave import Wave
from inner_tone.core.message import Number, Pitch, say

GAP_SECONDS = 0.05
LOUD = 0.01


def cycles_clauses(seen: Excerpt, shown: Wave) -> list[Clause]:
    """Return what there is to say of a few cycles."""
    if shown.highs.size == 0 or seen.is_silent:
        return [Clause("silence", say("say.silence-the-line-stays"))]
    least, greatest = float(np.min(shown.lows)), float(np.max(shown.highs))
    if greatest - least < SILENT:
        return [Clause("level line", say("say.a-level-line-at", greatest=Number(greatest)), {"value": greatest})]
    low, high = Number(least, 2), Number(greatest, 2)
    facts = {"least": least, "greatest": greatest}
    flat = clipping_clause(clipping(seen.passage)) if not seen.is_noise else []
    if shown.frequency_hz is None:
        return [Clause("no cycle", say("say.nothing-that-repeats-clearly", low=low, high=high), facts), *flat]
    if seen.is_driven:
        pitch = Clause("about", about(shown.frequency_hz), {**facts, "about_hz": shown.frequency_hz})
        return [pitch, Clause("changing", say("say.its-wave-changes-and", low=low, high=high), {}, ": "), *flat]
    period = 1.0 / shown.frequency_hz
    said = say("say.one-cycle-takes-ms", period=Number(1000.0 * period), low=low, high=high)
    facts = {**facts, "pitch_hz": shown.frequency_hz, "cycle_s": period}
    return [
        Clause("pitch", say("say.pitch", pitch=Pitch(shown.frequency_hz)), {}),
        *vibrato_clause(seen.melody.vibrato if seen.window.moving else None),
        Clause("cycle", said, facts, ": "),
        *flat,
    ]


def course_clauses(seen: Excerpt, shown: Wave) -> list[Clause]:
    """Return what there is to say of the course of a signal over a time, given its outline."""
    lows, highs, seconds = shown.lows, shown.highs, shown.seconds
    if highs.size == 0 or seen.is_silent:
        return [Clause("silence", say("say.silence-from-beginning-to"))]
    size = np.maximum(np.abs(lows), np.abs(highs))
    loud = np.flatnonzero(size > LOUD * np.max(size))
    step = seconds / len(size)
    begin, end = shown.start_s + loud[0] * step, shown.start_s + (loud[-1] + 1) * step
    gaps = int(np.sum(np.diff(loud) * step > GAP_SECONDS))
    parts = say("say.stretches", gaps=gaps + 1) if gaps else say("say.without-a-break")
    unending = end > shown.start_s + seconds - 2 * step
    peak = float(np.max(size))
    text = say("say.from-s-to-s", parts=parts, begin=Number(begin, 2), end=Number(end))
    if unending:
        text = say("say.not-ended-there", text=text)
    facts = {"stretches": gaps + 1, "begin_s": begin, "end_s": end, "ended": not unending}
    return [Clause("course", text, facts), Clause("peak", say("say.peak", peak=Number(peak, 2)), {"peak": peak})]
