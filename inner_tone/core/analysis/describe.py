"""What a lens shows, said in a sentence: its text alternative, and the draft of a caption."""

import numpy as np

from inner_tone.core.analysis.spectrum import Partial, Spectrum
from inner_tone.core.analysis.wave import Wave
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.units import midi_of, note_name, trimmed

SILENT = 1e-5
STEADY_LEAST_PARTIALS = 5
WEAK_DB = -40.0
GONE_DB = -60.0


def describe_wave(wave: Wave) -> str:
    """Return a sentence about a few cycles or about a whole phrase."""
    if wave.highs.size == 0 or max(np.max(wave.highs), -np.min(wave.lows)) < SILENT:
        return "Silence: the line stays at zero."
    least, greatest = float(np.min(wave.lows)), float(np.max(wave.highs))
    if greatest - least < SILENT:
        return f"A level line at {trimmed(greatest)}: nothing moves."
    swing = f"between {trimmed(least, 2)} and {trimmed(greatest, 2)}"
    if wave.frequency_hz is None:
        return f"No pitch that repeats; it moves {swing}."
    period = trimmed(1000.0 / wave.frequency_hz)
    return f"{pitch_text(wave.frequency_hz)}: one cycle takes {period} ms and swings {swing}."


def describe_course(lows: Floats, highs: Floats, seconds: float) -> str:
    """Return a sentence about the course of a signal over the whole phrase, given its outline."""
    if highs.size == 0 or max(np.max(highs), -np.min(lows)) < SILENT:
        return "Silence from beginning to end."
    size = np.maximum(np.abs(lows), np.abs(highs))
    loud = np.flatnonzero(size > 0.01 * np.max(size))
    step = seconds / len(size)
    begin, end = loud[0] * step, (loud[-1] + 1) * step
    gaps = int(np.sum(np.diff(loud) * step > 0.05))
    parts = f"{gaps + 1} stretches" if gaps else "Without a break"
    unending = ", and it has not ended there" if end > seconds - 2 * step else ""
    return f"{parts} from {trimmed(begin, 2)} s to {trimmed(end)} s{unending}; peak {trimmed(float(np.max(size)), 2)}."


def describe_spectrum(spectrum: Spectrum, fundamental_hz: float | None) -> str:
    """Return a sentence about the partials: which, how they fall off, and where they end."""
    found = spectrum.partials
    if not found or max(partial.level_db for partial in found) < -90.0:
        return "Silence: no partial is heard."
    series = [partial for partial in found if partial.number]
    if not fundamental_hz:
        return f"{len(found)} partials that form no harmonic series; the strongest at {strongest(found)}."
    if len(series) == 1:
        return f"{pitch_text(series[0].frequency_hz)}: a single partial, a sine."
    return f"{pitch_text(fundamental_hz)}: {which(series)}{fall(series)}{top(spectrum)}."


def pitch_text(frequency_hz: float) -> str:
    """Return a frequency with its nearest note."""
    midi = midi_of(frequency_hz)
    cents = round(100.0 * (midi - round(midi)))
    off = "" if cents == 0 else f" {'+' if cents > 0 else '−'}{abs(cents)} cents"
    return f"{trimmed(frequency_hz, 4)} Hz ({note_name(midi)}{off})"


def strongest(found: tuple[Partial, ...]) -> str:
    """Return where the strongest partial lies."""
    return pitch_text(max(found, key=lambda partial: partial.level_db).frequency_hz)


def which(series: list[Partial]) -> str:
    """Return whether a series has all its partials or only the odd ones."""
    loudest = max(partial.level_db for partial in series)
    even = [p for p in series if p.number % 2 == 0 and p.level_db > loudest + WEAK_DB]
    odd = [p for p in series if p.number % 2 == 1 and p.number > 1]
    return "odd partials only" if odd and not even else "all partials"


def fall(series: list[Partial]) -> str:
    """Return how many dB per octave the partials fall, where a straight line says it well."""
    if len(series) < STEADY_LEAST_PARTIALS:
        return ""
    octaves = np.log2([partial.number for partial in series])
    values = np.array([partial.level_db for partial in series])
    slope, offset = np.polyfit(octaves, values, 1)
    if np.sqrt(np.mean((values - slope * octaves - offset) ** 2)) > 1.0:
        return ""
    return f", falling {trimmed(-slope, 2)} dB per octave"


def top(spectrum: Spectrum) -> str:
    """Return above which frequency nothing is stronger than 60 dB below the strongest."""
    audible = np.flatnonzero(spectrum.levels_db > np.max(spectrum.levels_db) + GONE_DB)
    last = float(spectrum.frequencies_hz[audible[-1]])
    return "" if last > 10_000.0 else f"; nothing above {trimmed(last, 2)} Hz"
