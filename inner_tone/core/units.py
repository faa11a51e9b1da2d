"""Numbers with their units, as people read them."""

import math
import re

NOTE_NAMES = ("C", "C♯", "D", "D♯", "E", "F", "F♯", "G", "G♯", "A", "A♯", "B")
MINUS = "−"


def trimmed(value: float, digits: int = 3) -> str:
    """Return a number with `digits` significant places after rounding, no trailing zeros, a true minus sign."""
    if value == 0 or not math.isfinite(value):
        return "0" if value == 0 else str(value)
    places = max(0, digits - 1 - math.floor(math.log10(abs(value))))
    text = f"{value:,.{places}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return text.replace("-", MINUS)


def with_unit(value: float, unit: str) -> str:
    """Return a value in its unit: 350 ms, 1.5 s, 420 Hz, 2 semitones, 3:2 style ratios are left to the caller."""
    if unit == "s":
        return f"{trimmed(value * 1000)} ms" if abs(value) < 1 and value != 0 else f"{trimmed(value)} s"
    if unit == "Hz":
        return f"{trimmed(value, 4)} Hz"
    words = {"st": "semitone", "oct": "octave", "cent": "cent"}
    if unit in words:
        return f"{trimmed(value)} {words[unit]}{'' if abs(value) == 1 else 's'}"
    return f"{trimmed(value)} {unit}".rstrip()


def signed(value: float, unit: str) -> str:
    """Return a movement in its unit, always with its sign."""
    return with_unit(value, unit) if value < 0 else f"+{with_unit(value, unit)}"


def note_name(midi: float) -> str:
    """Return the name of the nearest note, with the octave; MIDI note 60 is C4."""
    nearest = round(midi)
    return f"{NOTE_NAMES[nearest % 12]}{nearest // 12 - 1}"


def midi_of(frequency_hz: float) -> float:
    """Return the MIDI note number, with fractions, of a frequency in Hz; A4 = 440 Hz = 69."""
    return 69.0 + 12.0 * math.log2(frequency_hz / 440.0)


def decibels(amplitude: float) -> float:
    """Return an amplitude in dB; what is as good as nothing has -120."""
    return 20.0 * math.log10(max(abs(amplitude), 1e-6))


def midi_of_note(name: str) -> float | None:
    """Return the MIDI note number of a note's name (A2, C#4, E♭3), or None if it is none."""
    match = re.fullmatch(r"([A-Ga-g])([#♯b♭]?)(-?\d)", name.strip())
    if not match:
        return None
    natural = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}[match[1].upper()]
    accidental = {"": 0, "#": 1, "♯": 1, "b": -1, "♭": -1}[match[2]]
    return 12.0 * (int(match[3]) + 1) + natural + accidental


def frequency_of(midi: float) -> float:
    """Return the frequency in Hz of a MIDI note number."""
    return float(440.0 * 2.0 ** ((midi - 69.0) / 12.0))
