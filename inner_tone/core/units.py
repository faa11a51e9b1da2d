"""Numbers with their units, as people read them."""

import math
import re
from dataclasses import dataclass

NOTE_NAMES = ("C", "C♯", "D", "D♯", "E", "F", "F♯", "G", "G♯", "A", "A♯", "B")
MINUS = "−"
LARGEST = 1e300


def trimmed(value: float, digits: int = 3) -> str:
    """Return a number with `digits` significant places after rounding, no trailing zeros, a true minus sign."""
    value = math.inf if value > LARGEST else -math.inf if value < -LARGEST else value  # a whole number has no end
    if value == 0 or not math.isfinite(value):
        return "0" if value == 0 else str(value)
    places = max(0, digits - 1 - math.floor(math.log10(abs(value))))
    text = f"{value:,.{places}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return text.replace("-", MINUS)


@dataclass(frozen=True)
class Unit:
    """The words of a unit: as it stands behind a number, behind 1 alone, and as it is spoken of."""

    many: str
    one: str
    spoken: str
    typed: dict[str, float]  # how it may be typed, and how much of the unit that is
    digits: int = 3


def many(*words: str, of: float = 1) -> dict[str, float]:
    """Return a word for one and for several."""
    return {form: of for word in words for form in (word, f"{word}s")}


UNITS = {
    "st": Unit("semitones", "semitone", "semitones", {**many("st", "semitone"), **many("oct", "octave", of=12)}),
    "oct": Unit("octaves", "octave", "octaves", {**many("oct", "octave"), "st": 1 / 12}),
    "cent": Unit("cents", "cent", "cents", {**many("cent"), "st": 100}),
    "beat": Unit("beats", "beat", "beats", many("beat"), 4),
    "note": Unit("", "", "notes", {}),
    "Hz": Unit("Hz", "Hz", "hertz", {"hz": 1, "k": 1000, "khz": 1000}, 4),
    "s": Unit("s", "s", "seconds", {"s": 1, "ms": 0.001}),
    "dB": Unit("dB", "dB", "decibels", {"db": 1}),
    "rad": Unit("rad", "rad", "radians", {"rad": 1, "deg": math.pi / 180, "°": math.pi / 180}),
    "%": Unit("%", "%", "percent", {"%": 1}),
    "": Unit("", "", "", {"%": 0.01, "k": 1000}),
}


EXACT_CENTS = 5.0  # so near to a semitone, an interval is one
CENTS_IN = {"cent": 1.0, "st": 100.0, "oct": 1200.0}


def interval_text(cents: float) -> str:
    """Return how large an interval is, whichever way, in octaves, semitones and cents."""
    size = abs(cents)
    semitones = round(size / 100.0)
    whole = semitones >= 1 and abs(size - 100.0 * semitones) <= EXACT_CENTS
    left = 0 if whole else round(size) % 100
    octaves, rest = divmod(semitones if whole else round(size) // 100, 12)
    parts = [
        "an octave" if octaves == 1 else f"{octaves} octaves" if octaves else "",
        "a semitone" if rest == 1 else f"{rest} semitones" if rest else "",
        "a cent" if left == 1 else f"{left} cents" if left or not (octaves or rest) else "",
    ]
    *first, last = [part for part in parts if part]
    return f"{', '.join(first)} and {last}" if first else last


def plural(unit: str) -> str:
    """Return what a unit is called where one speaks of it; nothing for one that has no name."""
    return UNITS[unit].spoken if unit in UNITS else ""


def with_unit(value: float, unit: str) -> str:
    """Return a value in its unit: 350 ms, 1.5 s, 420 Hz, 2 semitones, 3:2 style ratios are left to the caller."""
    if unit == "s" and abs(value) < 1:
        return f"{trimmed(value * 1000)} ms"
    words = UNITS.get(unit, Unit(unit, unit, unit, {}))
    return f"{trimmed(value, words.digits)} {words.one if abs(value) == 1 else words.many}".rstrip()


def signed(value: float, unit: str) -> str:
    """Return a movement in its unit, always with its sign."""
    return with_unit(value, unit) if value < 0 else f"+{with_unit(value, unit)}"


def capital(words: str) -> str:
    """Return words as a sentence begins."""
    return words[:1].upper() + words[1:]


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
