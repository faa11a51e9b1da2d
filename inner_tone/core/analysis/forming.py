"""What the partials of a passage form: one series, though its level swings; several tones that nearly agree; or not."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from inner_tone.core.analysis import passage as passages
from inner_tone.core.analysis import series as serial
from inner_tone.core.analysis import spectrum
from inner_tone.core.analysis.harmonics import harmonics_of
from inner_tone.core.analysis.pitch import Repetition
from inner_tone.core.analysis.thresholds import (
    BLUR_BINS,
    BLURRED,
    CLEARLY,
    COMBED,
    FIRST_SHARE,
    PARTS,
    STRONG_FIRST,
    SWUNG_HZ,
    SWUNG_SHARE,
    UNEXPLAINED,
    UNISON_HZ,
    UNISON_SHARE,
)
from inner_tone.core.analysis.tonal import tonal_share
from inner_tone.core.arrays import Floats

UNISON = serial.Exactness(UNISON_HZ, UNISON_SHARE)


@dataclass(frozen=True)
class Straight:
    """A passage whose pitch stands still, or was made to, shape (n,); how it repeats; its partials, and how exact."""

    signal: Floats
    rate: float
    repetition: Repetition | None
    partials: tuple[spectrum.Partial, ...]
    exactness: serial.Exactness

    @cached_property
    def is_blurred(self) -> bool:
        """Whether its level or the balance of its octaves moves."""
        parts = np.array_split(self.signal, PARTS)
        levels = np.array([np.sqrt(np.mean(part**2)) if len(part) else 0.0 for part in parts])
        moves = float(np.std(levels)) > BLURRED * float(np.mean(levels))
        cycle_s = 1.0 / self.repetition.hertz if self.repetition else 0.0
        return moves or passages.is_changing(self.signal, self.rate, cycle_s)


def series_in(straight: Straight) -> serial.Series:
    """Return what the partials form.

    Those of a tone whose level or brightness swings are blurred, each as much as any other: that is borne, where it
    clearly repeats.
    """
    rough = straight.repetition
    found = serial.series_of(straight.partials, straight.exactness, rough.hertz if rough else None)
    if rough is None or rough.clarity < CLEARLY or not straight.is_blurred:
        return found
    explained = tonal_share(straight.signal, straight.rate, straight.partials)
    if found.fundamental_hz is not None and explained > UNEXPLAINED:
        return found
    judged = serial.dominant(straight.partials, rough.hertz)
    width_hz = straight.rate / len(straight.signal)
    bearable = [(BLUR_BINS * width_hz, False)] if judged else []
    if has_first(judged, rough.hertz):
        bearable.append((min(SWUNG_HZ, SWUNG_SHARE * rough.hertz), True))
    for hertz, is_swung in bearable:
        blurred = serial.Exactness(hertz, straight.exactness.share)
        again = serial.fundamental_of(*serial.arrays(judged), blurred, rough.hertz)
        taken = rough.hertz if is_swung and again is not None else again
        if taken is not None and is_combed(straight, taken):
            return serial.Series(taken)
    if explained < UNEXPLAINED and is_combed(straight, rough.hertz):
        return serial.Series(rough.hertz)
    return found


def is_combed(straight: Straight, hertz: float) -> bool:
    """Tell whether nearly all of a passage lies around the multiples of a fundamental."""
    comb = harmonics_of(straight.signal, straight.rate, hertz)
    return comb is not None and comb.tonal_share > COMBED


def has_first(judged: list[spectrum.Partial], hertz: float) -> bool:
    """Tell whether the first partial of a fundamental is there, and strong."""
    if not judged:
        return False
    frequencies, weights = serial.arrays(judged)
    first = weights[np.abs(frequencies / hertz - 1.0) < FIRST_SHARE]
    return len(first) > 0 and bool(np.max(first) > STRONG_FIRST * np.max(weights))


def is_unison(
    found: serial.Series, partials: tuple[spectrum.Partial, ...], rough: Repetition | None, *, moving: bool
) -> bool:
    """Tell whether several tones of nearly the same pitch sound together, where no series was found."""
    if moving or found.fundamental_hz is not None or found.notes_hz or rough is None or rough.clarity < CLEARLY:
        return False
    judged = serial.dominant(partials, rough.hertz)
    if not has_first(judged, rough.hertz):
        return False
    frequencies, weights = serial.arrays(judged)
    return serial.fundamental_of(frequencies, weights, UNISON, rough.hertz) is not None
