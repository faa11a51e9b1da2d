"""The response lens in words."""

import numpy as np

from inner_tone.core.analysis.sentences.words import time_text
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.units import trimmed

PEAK_DB = 1.0
DEEP_DB, DEEPEST_DB = -12.0, -50.0
STOPPED_DB = -30.0


def describe_filter(frequencies_hz: Floats, gains_db: Floats, theory_db: Floats | None) -> str:
    """Return a sentence about which frequencies pass, where 3 dB are lost, and how steeply it falls beyond."""
    return f"{'; '.join([passing(frequencies_hz, gains_db), *beside_theory(gains_db, theory_db)])}."


def describe_teeth(
    frequencies_hz: Floats, gains_db: Floats, theory_db: Floats | None, apart_hz: float, first_hz: float
) -> str:
    """Return a sentence about a row of teeth: how far they stand apart, where the first one is, how high they are."""
    lowest = frequencies_hz < 8.0 * apart_hz  # farther up the picture has fewer points than there are teeth
    high, low = float(np.max(gains_db[lowest])), float(np.min(gains_db[lowest]))
    teeth = f"Teeth {trimmed(apart_hz, 4)} Hz apart, the first at {trimmed(first_hz, 4)} Hz"
    heights = f"up to {trimmed(high, 2)} dB, {trimmed(low, 2)} dB between them"
    return f"{'; '.join([f'{teeth}, {heights}', *beside_theory(gains_db, theory_db)])}."


def beside_theory(gains_db: Floats, theory_db: Floats | None) -> list[str]:
    """Return how near a response is to theory, if it is compared with it."""
    if theory_db is None:
        return []
    near = theory_db > np.max(theory_db) - 60.0
    apart = float(np.max(np.abs(gains_db - theory_db)[near]))
    return [f"as theory has it within {trimmed(max(apart, 0.01), 1)} dB"]


def passing(frequencies_hz: Floats, gains_db: Floats) -> str:
    """Return what passes."""
    low, high, top = float(gains_db[0]), float(gains_db[-1]), float(np.max(gains_db))
    at = float(frequencies_hz[np.argmax(gains_db)])
    dip = int(np.argmin(gains_db))
    peak = (
        f", lifted by {trimmed(top - max(low, high), 2)} dB at {trimmed(at)} Hz"
        if top > max(low, high) + PEAK_DB
        else ""
    )
    if low > top - 6.0 and high > top - 6.0 and gains_db[dip] < STOPPED_DB:
        return f"A notch: all but {trimmed(float(frequencies_hz[dip]))} Hz passes"
    if low < top + DEEP_DB and high < top + DEEP_DB:
        edges = frequencies_hz[gains_db > top - 3.0]
        band = f"from {trimmed(float(edges[0]))} to {trimmed(float(edges[-1]))} Hz"
        return f"A band passes, {band}, most at {trimmed(at)} Hz"
    if high < low - 3.0:
        edge = corner(frequencies_hz, gains_db - low)
        return (
            f"Lows pass up to {trimmed(edge)} Hz, where 3 dB are lost{steep(frequencies_hz, gains_db - low, 1)}{peak}"
        )
    if low < high - 3.0:
        edge = corner(frequencies_hz[::-1], gains_db[::-1] - high)
        beyond = steep(frequencies_hz, gains_db - high, -1)
        return f"Highs pass from {trimmed(edge)} Hz on, where 3 dB are lost{beyond}{peak}"
    return f"Nearly all passes{peak}"


def corner(frequencies_hz: Floats, below_db: Floats) -> float:
    """Return the last frequency in Hz, from the passing side, at which no more than 3 dB are lost."""
    last = int(np.flatnonzero(below_db > -3.0103)[-1])
    if last + 1 >= len(below_db):
        return float(frequencies_hz[last])
    pair = slice(last, last + 2)
    return float(np.exp(np.interp(3.0103, -below_db[pair], np.log(frequencies_hz[pair]))))


def steep(frequencies_hz: Floats, below_db: Floats, way: int) -> str:
    """Return how steeply a response falls, where enough of the fall is seen."""
    falling = (below_db < DEEP_DB) & (below_db > DEEPEST_DB)
    if np.sum(falling) < 8:
        return ""
    slope = -way * float(np.polyfit(np.log2(frequencies_hz[falling]), below_db[falling], 1)[0])
    return f", and {'above' if way > 0 else 'below'} it falls {trimmed(round(slope), 2)} dB per octave"


def describe_curve(xs: Floats, ys: Floats) -> str:
    """Return a sentence about a shaper's curve."""
    at_half, at_one = (float(np.interp(value, xs, ys)) for value in (0.5, 1.0))
    slope = float(np.interp(0.01, xs, ys) - np.interp(-0.01, xs, ys)) / 0.02
    turns = int(np.sum(np.diff(np.sign(np.diff(ys[np.abs(np.gradient(ys)) > 1e-6]))) != 0))
    folded = f"; it turns {turns} times" if turns > 1 else ""
    return (
        f"Small sounds are made {trimmed(abs(slope), 2)} times as large; an input of 0.5 comes out as "
        f"{trimmed(at_half, 2)}, one of 1 as {trimmed(at_one, 2)}{folded}."
    )


def describe_envelope(attack_s: float | None, decay_s: float | None, sustain: float, release_s: float | None) -> str:
    """Return a sentence about the stages of an envelope; those that it does not have are left out."""
    said = f"Rises in {time_text(attack_s or 0.0)}"
    said += f", falls to {trimmed(sustain)} in {time_text(decay_s)}" if decay_s is not None else ""
    return said + (f", and to zero in {time_text(release_s)} when the gate closes." if release_s is not None else ".")
