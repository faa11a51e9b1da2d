"""The wave lens in words."""

import numpy as np
from numpy.typing import NDArray

from inner_tone.core.analysis.sentences.words import SILENT, pitch_text
from inner_tone.core.analysis.wave import Wave
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.units import trimmed

Flags = NDArray[np.bool_]

FLAT = 2e-3  # of the greatest value: so near to it, the wave stands at its top
LEAST_CLIPPED, MOST_CLIPPED = 0.02, 0.85  # of the time; a square stands at its tops always, and is not clipped
LEAST_RUN = 4
GAP_SECONDS = 0.05


def describe_cycles(wave: Wave) -> str:
    """Return a sentence about a few cycles."""
    if wave.highs.size == 0 or max(np.max(wave.highs), -np.min(wave.lows)) < SILENT:
        return "Silence: the line stays at zero."
    least, greatest = float(np.min(wave.lows)), float(np.max(wave.highs))
    if greatest - least < SILENT:
        return f"A level line at {trimmed(greatest)}: nothing moves."
    swing = f"between {trimmed(least, 2)} and {trimmed(greatest, 2)}"
    if wave.frequency_hz is None:
        return f"No pitch that repeats; it moves {swing}."
    period = trimmed(1000.0 / wave.frequency_hz)
    return f"{pitch_text(wave.frequency_hz)}: one cycle takes {period} ms and swings {swing}{clipping(wave.highs)}."


def clipping(values: Floats) -> str:
    """Return whether flat tops tell of clipping, as a part of a sentence."""
    share, sides = clipped(values)
    if share == 0.0:
        return ""
    return f"; flat {sides}, for {trimmed(100.0 * share, 2)} % of the time: it is clipped"


def clipped(values: Floats) -> tuple[float, str]:
    """Return for which share of the time a wave is clipped, and on which sides; 0 where it is not."""
    top = float(np.max(np.abs(values)))
    high, low = values > (1.0 - FLAT) * float(np.max(values)), values < (1.0 - FLAT) * float(np.min(values))
    high = high & (np.max(values) > 0.3 * top)
    low = low & (np.min(values) < -0.3 * top)
    flat_high, flat_low = (share_of(values, side) for side in (high, low))
    share = flat_high + flat_low
    if not LEAST_CLIPPED < share < MOST_CLIPPED:
        return 0.0, ""
    return share, "on both sides" if flat_high and flat_low else "on top" if flat_high else "at the bottom"


def share_of(values: Floats, side: Flags) -> float:
    """Return for which share of the time a wave stands on a side, if it has been cut off there."""
    return float(np.mean(side)) if longest(side) >= LEAST_RUN and is_cut(values, side) else 0.0


def is_cut(values: Floats, side: Flags) -> bool:
    """Tell whether the wave comes to a flat side with a corner, as no sine at its crest does."""
    edges = np.flatnonzero(np.diff(side.astype(int)) == 1)
    edges = edges[(edges > 2) & (edges < len(values) - 3)]
    if len(edges) == 0:
        return False
    before = np.abs(values[edges] - values[edges - 2])
    after = np.abs(values[edges + 3] - values[edges + 1])
    return bool(np.median(before) > 4.0 * np.median(after) + 1e-9)


def longest(here: Flags) -> int:
    """Return the length of the longest run of what is true."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], here.astype(int), [0]])))
    return int(np.max(edges[1::2] - edges[::2], initial=0))


def describe_course(wave: Wave) -> str:
    """Return a sentence about the course of a signal over a time, given its outline."""
    lows, highs, seconds = wave.lows, wave.highs, wave.seconds
    if highs.size == 0 or max(np.max(highs), -np.min(lows)) < SILENT:
        return "Silence from beginning to end."
    size = np.maximum(np.abs(lows), np.abs(highs))
    loud = np.flatnonzero(size > 0.01 * np.max(size))
    step = seconds / len(size)
    begin, end = wave.start_s + loud[0] * step, wave.start_s + (loud[-1] + 1) * step
    gaps = int(np.sum(np.diff(loud) * step > GAP_SECONDS))
    parts = f"{gaps + 1} stretches" if gaps else "Without a break"
    unending = ", and it has not ended there" if end > wave.start_s + seconds - 2 * step else ""
    return f"{parts} from {trimmed(begin, 2)} s to {trimmed(end)} s{unending}; peak {trimmed(float(np.max(size)), 2)}."
