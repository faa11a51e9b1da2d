"""What lenses say of the taps that they listen to: one sentence for each, and the facts that it rests on."""

from collections.abc import Callable, Sequence
from typing import Any

from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.analysis.glance import Glance
from inner_tone.core.analysis.sentences.clause import Clause, facts_of, sentence
from inner_tone.core.lens.chart import Seen, seen_in
from inner_tone.core.lens.source import Source, excerpt
from inner_tone.core.message import say


def told(source: Source, taps: Sequence[str], clauses: Callable[[str], list[Clause]]) -> tuple[str, dict[str, Any]]:
    """Return what there is to say of some taps, each under its name where there are several, and the facts.

    Of what is looked at in passing nothing is said.
    """
    if isinstance(excerpt(source, taps[0]), Glance):
        return "", {}
    said = {tap: [*clauses(tap), *voice_clause(source, tap)] for tap in taps}
    first = facts_of(said[taps[0]])
    if len(taps) == 1:
        return sentence(said[taps[0]]), first
    together = " ".join(f"{source.words(tap)}: {sentence(found)}" for tap, found in said.items())
    return together, {**first, "taps": {tap: facts_of(found) for tap, found in said.items()}}


def voice_clause(source: Source, tap: str) -> list[Clause]:
    """Return which of several voices is looked at."""
    voices = source.voices(tap)
    if voices < 2:
        return []
    return [Clause("voice", say("say.voice", voices=voices), {"voices": voices})]


def seen_of(source: Source, tap: str, passage: Excerpt | None = None) -> Seen:
    """Return the moment that is shown, and the passage within it that is looked at closely."""
    looked = excerpt(source, tap)
    found = seen_in(source.span, source.span.begin_s + looked.seconds)
    if passage is None or len(passage.signal) == 0:
        return found
    first, last = (source.span.begin_s + at / looked.rate for at in (passage.window.first, passage.window.last))
    return found.model_copy(update={"passage_begin_s": first, "passage_end_s": last})
