"""The sweep lens in words: what moves."""

from inner_tone.core.analysis.sentences.words import note_text, time_text
from inner_tone.core.analysis.track import Glide, Vibrato
from inner_tone.core.units import trimmed

MOVES_OCTAVES = 0.45


def describe_sweep(
    note: float | None, vibrato: Vibrato | None, glide: Glide | None, brightness: tuple[float, float, float] | None
) -> str:
    """Return a sentence about pitch and brightness over time.

    `note` is the pitch as a fractional MIDI note; `brightness` the lowest and the highest centre of the spectrum in Hz,
    and which of them comes later: above 0 the highest.
    """
    if brightness is None:
        return "Silence: nothing moves."
    return f"{pitch_words(note, vibrato, glide)}; {brightness_words(*brightness)}."


def pitch_words(note: float | None, vibrato: Vibrato | None, glide: Glide | None) -> str:
    """Return what the pitch does."""
    if note is None:
        return "No pitch that can be followed"
    if vibrato:
        how = f"{trimmed(vibrato.rate_hz)} Hz, ±{trimmed(vibrato.depth_cents, 2)} cents"
        return f"{note_text(note)} with a vibrato of {how}"
    if glide:
        return f"Glides from {note_text(glide.from_note)} to {note_text(glide.to_note)} in {time_text(glide.seconds)}"
    return f"{note_text(note)} throughout"


def brightness_words(low_hz: float, high_hz: float, later: float) -> str:
    """Return what the brightness does."""
    if high_hz < low_hz * 2.0**MOVES_OCTAVES:
        return f"its brightness stays, its middle at {trimmed((low_hz * high_hz) ** 0.5, 2)} Hz"
    first, last = (low_hz, high_hz) if later > 0 else (high_hz, low_hz)
    way = "rises" if later > 0 else "falls"
    return f"its brightness {way}, its middle from {trimmed(first, 2)} to {trimmed(last, 2)} Hz"
