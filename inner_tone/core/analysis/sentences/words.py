"""Stretches of sentences that several lenses need."""

from inner_tone.core.analysis.beating import Beating
from inner_tone.core.units import midi_of, note_name, trimmed

SILENT = 1e-5


def pitch_text(frequency_hz: float) -> str:
    """Return a frequency with its nearest note."""
    return f"{trimmed(frequency_hz, 4)} Hz ({note_text(midi_of(frequency_hz))})"


def note_text(midi: float) -> str:
    """Return the nearest note, and the distance from it in cents."""
    cents = round(100.0 * (midi - round(midi)))
    if cents == 0:
        return note_name(midi)
    return f"{note_name(midi)} {'+' if cents > 0 else '−'}{abs(cents)} cent{'' if abs(cents) == 1 else 's'}"


def time_text(seconds: float) -> str:
    """Return a time in ms below a second."""
    return f"{trimmed(seconds * 1000.0)} ms" if seconds < 1.0 else f"{trimmed(seconds)} s"


def beating_text(found: Beating | None) -> str:
    """Return how a sound swells and fades, as a part of a sentence."""
    if found is None:
        return ""
    return f"; it beats {trimmed(found.rate_hz)} times a second, by {trimmed(found.depth_db, 2)} dB"
