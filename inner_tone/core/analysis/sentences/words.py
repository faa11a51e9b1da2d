"""Stretches of sentences that several lenses need."""

from collections.abc import Sequence

from inner_tone.core.analysis.beating import Beating
from inner_tone.core.analysis.clipping import Clipping
from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.message import Listed, Message, Number, Pitch, Pitched, Quantity, say, words
from inner_tone.core.units import midi_of, note_name

ORDINALS = range(2, 10)


def pitch_text(frequency_hz: float) -> str:
    """Return a frequency, with its nearest note where there is a name for it."""
    return words(Pitch(frequency_hz))


def about(frequency_hz: float) -> Message:
    """Return the note that a frequency is nearest to, and about how high that is."""
    return say("say.about", note=note_name(midi_of(frequency_hz)), frequency=Number(frequency_hz, 2))


def note_text(midi: float) -> str:
    """Return the nearest note, and the distance from it in cents."""
    return words(Pitched(midi))


def time_text(seconds: float) -> str:
    """Return a time in ms below a second."""
    return words(Quantity(seconds, "s"))


def listed(several: Sequence[object]) -> str:
    """Return words as a list is read out: a, b and c."""
    return words(Listed([str(one) for one in several]))


def ordinal(number: int) -> Message:
    """Return a number as a place in a row: third, 12th."""
    return say(f"say.ordinal.{number}") if number in ORDINALS else say("say.ordinal", number=number)


def beating_clause(found: Beating | None, are_tones: bool = False) -> list[Clause]:
    """Return how a sound swells and fades, if it does so regularly; that it beats, where tones are known to do it."""
    if found is None:
        return []
    rate, depth = Number(found.rate_hz), Number(found.depth_db, 2)
    text = say("say.beats" if are_tones else "say.swells", rate=rate, depth=depth)
    return [Clause("beating", text, {"beats_hz": found.rate_hz, "beats_db": found.depth_db})]


def clipping_clause(found: Clipping | None) -> list[Clause]:
    """Return that its tops are cut off flat, if they are."""
    if found is None:
        return []
    text = say(f"say.flat.{found.sides}", level=Number(found.level, 2), share=Number(100.0 * found.share, 2))
    return [Clause("clipped", text, {"clipped": found.share, "clipped_at": found.level})]
