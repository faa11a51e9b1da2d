"""The spectrum lens in words."""

from collections.abc import Sequence, Set

import numpy as np

from inner_tone.core.analysis.beating import Beating
from inner_tone.core.analysis.sentences.words import beating_text, pitch_text
from inner_tone.core.analysis.shape import Colour, Cut, Peak, Shape, only_odd
from inner_tone.core.analysis.spectrum import Partial
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.units import trimmed

SILENT_DB = -90.0
GONE_DB = -60.0
HIGH_ENOUGH_HZ = 10_000.0
COLOURS = {"white": 0.0, "pink": -3.0, "brown": -6.0, "blue": 3.0}
COLOUR_WITHIN_DB = 0.7
MOST_OF_THEM = 0.7  # a pulse without every fourth still has all that one expects
MOST_NAMED = 8


def describe_partials(
    partials: Sequence[Partial], fundamental_hz: float | None, shape: Shape, last_hz: float, beats: Beating | None
) -> str:
    """Return a sentence about partials: which, how they fall off, and where they end.

    `last_hz` is above which frequency nothing is stronger than 60 dB below the strongest.
    """
    if not partials or max(partial.level_db for partial in partials) < SILENT_DB:
        return "Silence: no partial is heard."
    series = [partial for partial in partials if partial.number]
    if not fundamental_hz:
        return f"{tones(partials)}{beating_text(beats)}."
    if len(series) == 1:
        return f"{pitch_text(series[0].frequency_hz)}: a single partial, a sine{beating_text(beats)}."
    if {partial.number for partial in series} == {1}:
        apart = series[-1].frequency_hz - series[0].frequency_hz
        return f"{pitch_text(fundamental_hz)}: {len(series)} tones within {trimmed(apart, 2)} Hz{beating_text(beats)}."
    which = "odd partials only" if only_odd(series) else which_of({partial.number for partial in series})
    parts = [fall(shape), peak_text(shape.peak), cut_text(shape.cut), top(last_hz, shape.cut)]
    return f"{pitch_text(fundamental_hz)}: {which}{''.join(parts)}{beating_text(beats)}."


def which_of(numbers: Set[int]) -> str:
    """Return which numbers of a harmonic series are there: all, or a few by name."""
    if len(numbers) > MOST_NAMED or len(numbers) >= MOST_OF_THEM * max(numbers):
        return "all partials"
    *first, last = map(str, sorted(numbers))
    return f"partials {', '.join(first)} and {last} only"


def tones(partials: Sequence[Partial]) -> str:
    """Return what there is to say of partials without a common fundamental."""
    loudest = max(partials, key=lambda partial: partial.level_db)
    if len(partials) == 1:
        return f"{pitch_text(loudest.frequency_hz)}: a single partial, a sine"
    if len(partials) == 2:
        low, high = partials[0].frequency_hz, partials[1].frequency_hz
        return f"Two tones, {pitch_text(low)} and {pitch_text(high)}"
    return f"{len(partials)} partials that form no harmonic series; the strongest at {pitch_text(loudest.frequency_hz)}"


def fall(shape: Shape) -> str:
    """Return how many dB per octave the partials fall, where a straight line says it well."""
    if shape.slope_db is None:
        return ""
    if abs(shape.slope_db) < 0.3:
        return ", all equally strong"
    way = "falling" if shape.slope_db > 0 else "rising"
    return f", {way} {trimmed(abs(shape.slope_db), 2)} dB per octave"


def cut_text(cut: Cut | None) -> str:
    """Return where a filter cuts the partials off."""
    if cut is None:
        return ""
    steep = f" by {trimmed(round(cut.slope_db), 3)} dB per octave more" if cut.slope_db else ""
    return f"; cut off above {trimmed(cut.frequency_hz, 2)} Hz{steep}"


def peak_text(peak: Peak | None) -> str:
    """Return where a resonance lifts the partials, and how far."""
    if peak is None:
        return ""
    return f"; lifted by {trimmed(peak.height_db, 2)} dB around {trimmed(peak.frequency_hz, 2)} Hz"


def top(last_hz: float, cut: Cut | None) -> str:
    """Return above which frequency nothing is heard, where that says more than has been said."""
    return "" if cut or last_hz > HIGH_ENOUGH_HZ else f"; nothing above {trimmed(last_hz, 2)} Hz"


def last_hz(frequencies_hz: Floats, levels_db: Floats) -> float:
    """Return above which frequency nothing is stronger than 60 dB below the strongest."""
    return float(frequencies_hz[np.flatnonzero(levels_db > np.max(levels_db) + GONE_DB)[-1]])


def describe_noise(colour: Colour, level_db: float) -> str:
    """Return a sentence about a noise: its colour, or where it is strongest."""
    heard = f"at {trimmed(level_db, 2)} dB RMS"
    if colour.slope_db is None:
        return f"Noise without a pitch, {heard}, strongest around {trimmed(colour.strongest_hz, 2)} Hz."
    for name, slope in COLOURS.items():
        if abs(colour.slope_db - slope) < COLOUR_WITHIN_DB:
            even = "as strong at every frequency" if slope == 0.0 else f"{moving(slope)} dB per octave"
            return f"{name.capitalize()} noise, {heard}: no pitch, {even}."
    return f"Noise without a pitch, {heard}, {moving(colour.slope_db)} dB per octave."


def moving(slope_db: float) -> str:
    """Return which way and how far a noise goes per octave."""
    return f"{'rising' if slope_db > 0 else 'falling'} {trimmed(abs(slope_db), 2)}"
