"""Stretches of sentences that several lenses need."""

from collections.abc import Sequence

from inner_tone.core.analysis.beating import Beating
from inner_tone.core.analysis.clipping import Clipping
from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.units import midi_of, note_name, trimmed

LOWEST_NOTE_HZ = 16.0  # C0: below, there are no names
ORDINALS = {2: "second", 3: "third", 4: "fourth", 5: "fifth", 6: "sixth", 7: "seventh", 8: "eighth", 9: "ninth"}


def pitch_text(frequency_hz: float) -> str:
    """Return a frequency, with its nearest note where there is a name for it."""
    if frequency_hz < LOWEST_NOTE_HZ:
        return f"{trimmed(frequency_hz, 4)} Hz"
    return f"{trimmed(frequency_hz, 4)} Hz ({note_text(midi_of(frequency_hz))})"


def about_text(frequency_hz: float) -> str:
    """Return the note that a frequency is nearest to, and about how high that is."""
    return f"{note_name(midi_of(frequency_hz))}, about {trimmed(frequency_hz, 2)} Hz"


def note_text(midi: float) -> str:
    """Return the nearest note, and the distance from it in cents."""
    cents = round(100.0 * (midi - round(midi)))
    if cents == 0:
        return note_name(midi)
    return f"{note_name(midi)} {'+' if cents > 0 else '−'}{abs(cents)} cent{'' if abs(cents) == 1 else 's'}"


def time_text(seconds: float) -> str:
    """Return a time in ms below a second."""
    return f"{trimmed(seconds * 1000.0)} ms" if seconds < 1.0 else f"{trimmed(seconds)} s"


def listed(words: Sequence[object]) -> str:
    """Return words as a list is read out: a, b and c."""
    *first, last = map(str, words)
    return f"{', '.join(first)} and {last}" if first else last


def ordinal(number: int) -> str:
    """Return a number as a place in a row: third, 12th."""
    return ORDINALS.get(number, f"{number}th")


def beating_clause(found: Beating | None, are_tones: bool = False) -> list[Clause]:
    """Return how a sound swells and fades, if it does so regularly; that it beats, where tones are known to do it."""
    if found is None:
        return []
    does = "beats" if are_tones else "swells and fades"
    text = f"it {does} {trimmed(found.rate_hz)} times a second, by {trimmed(found.depth_db, 2)} dB"
    return [Clause("beating", text, {"beats_hz": found.rate_hz, "beats_db": found.depth_db})]


def clipping_clause(found: Clipping | None) -> list[Clause]:
    """Return that its tops are cut off flat, if they are."""
    if found is None:
        return []
    share = f"for {trimmed(100.0 * found.share, 2)} % of the time"
    text = f"flat {found.sides} at {trimmed(found.level, 2)}, {share}: it is clipped"
    return [Clause("clipped", text, {"clipped": found.share, "clipped_at": found.level})]
