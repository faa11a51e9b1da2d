"""Two sounds at once, in thirds of an octave: where one stands free, where it is covered, and where it covers.

The bands are those of IEC 61260-1 (2014), base 10. A band is covered when the other sound hides it: by the spreading of
M. R. Schroeder, B. S. Atal and J. L. Hall, "Optimizing digital speech coders by exploiting masking properties of the
human ear", JASA 66 (1979), over the Bark scale of H. Traunmüller, "Analytical expressions for the tonotopic sensory
scale", JASA 88 (1990), less 5.5 dB as for noise that hides a tone (J. D. Johnston, "Transform coding of audio signals
using perceptual noise criteria", IEEE J. Sel. Areas Commun. 6, 1988).
"""

from dataclasses import dataclass
from itertools import groupby
from typing import Literal

import numpy as np

from inner_tone.core.arrays import Floats

FIRST, LAST = 14, 43  # 25 Hz … 20 kHz
CENTRES_HZ = 10.0 ** (np.arange(FIRST, LAST + 1) / 10.0)
EDGES_HZ = 10.0 ** ((np.arange(FIRST, LAST + 2) - 0.5) / 10.0)
LONGEST = 1 << 15  # samples that are looked at together
OFFSET_DB = 5.5
UNHEARD_DB = 55.0  # beneath the strongest band of both
NOTHING = 1e-16

Standing = Literal["free", "covers", "shared", "covered", "absent", "silent"]


@dataclass(frozen=True)
class Region:
    """Neighbouring bands in which a sound stands the same way to another: from where to where, and its power there."""

    standing: Standing
    low_hz: float
    high_hz: float
    own: float
    other: float
    first: int
    last: int

    @property
    def share(self) -> float:
        """How much of the power is its own, 0 to 1."""
        return self.own / (self.own + self.other) if self.own + self.other > 0.0 else 0.0


def band_powers(channels: Floats, rate: float) -> Floats:
    """Return the mean power of channels, shape (channels, n), in each band, shape (bands,).

    Over passages that overlap by half (Welch 1967) under a Hann window; a bin that lies across an edge is shared.
    """
    size = min(LONGEST, max(2, channels.shape[1]))
    window = np.hanning(size)
    starts = range(0, max(1, channels.shape[1] - size // 2), max(1, size // 2))
    spans = [
        np.pad(part, (0, size - len(part)))
        for start in starts
        for one in channels
        for part in [one[start : start + size]]
    ]
    squares = np.abs(np.fft.rfft(np.stack(spans) * window, axis=1)) ** 2
    scale = 2.0 / (size * np.sum(window**2))
    power = np.sum(squares, axis=0) * scale / len(spans)
    width = rate / size
    running = np.concatenate([[0.0], np.cumsum(power)])
    edges = np.interp(EDGES_HZ / width + 0.5, np.arange(len(running)), running)
    return np.asarray(np.maximum(np.diff(edges), NOTHING))


def hidden_below(power: Floats) -> Floats:
    """Return the power below which another sound is hidden in each band, shape (bands,), given that of what hides."""
    bark = 26.81 * CENTRES_HZ / (1960.0 + CENTRES_HZ) - 0.53
    apart = bark[:, np.newaxis] - bark[np.newaxis, :] + 0.474
    spread_db = 15.81 + 7.5 * apart - 17.5 * np.sqrt(1.0 + apart**2)
    return np.asarray(10.0 ** ((spread_db - OFFSET_DB) / 10.0) @ power)


def standings(own: Floats, other: Floats) -> list[Standing]:
    """Return how a sound stands to another in each band, given the powers of both, shape (bands,)."""
    floor = max(float(np.max(own)), float(np.max(other))) * 10.0 ** (-UNHEARD_DB / 10.0)
    there, others_there = own > floor, other > floor
    heard, others_heard = there & (own > hidden_below(other)), others_there & (other > hidden_below(own))
    return [
        standing(*(bool(one) for one in four)) for four in zip(there, others_there, heard, others_heard, strict=True)
    ]


def standing(there: bool, other_there: bool, heard: bool, other_heard: bool) -> Standing:
    """Return how a sound stands in a band, given who is there and who is heard."""
    if not there:
        return "absent" if other_there else "silent"
    if not heard:
        return "covered"
    if other_heard:
        return "shared"
    return "covers" if other_there else "free"


def regions(own: Floats, other: Floats) -> list[Region]:
    """Return the stretches of neighbouring bands in which a sound stands the same way, from the lowest."""
    found: list[Region] = []
    at = 0
    for name, bands in groupby(standings(own, other)):
        end = at + len(list(bands))
        powers = float(np.sum(own[at:end])), float(np.sum(other[at:end]))
        found.append(Region(name, float(EDGES_HZ[at]), float(EDGES_HZ[end]), *powers, at, end))
        at = end
    return found


def in_db(power: Floats) -> Floats:
    """Return powers in dB, 0 for a full square wave."""
    return np.asarray(10.0 * np.log10(power))
