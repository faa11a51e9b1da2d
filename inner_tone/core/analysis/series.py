"""Which partials belong together: one harmonic series, several notes, a row of equal steps, or none of these.

Frequencies that were fitted to a fraction of a bin leave little room for chance: a fundamental is believed only if
every strong partial lies on one of its multiples as exactly as it was measured, and if its series is filled well enough
not to be an accident. R. C. Maher and J. W. Beauchamp, "Fundamental frequency estimation of musical signals using a
two-way mismatch procedure", J. Acoust. Soc. Am. 95 (1994), weigh misses both ways too.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from inner_tone.core.analysis.spectrum import Partial
from inner_tone.core.arrays import Floats, Ints

LOWEST_HZ = 7.9
HIGHEST_HEARD_HZ = 20_000.0
STRONG_DB = -40.0  # below the strongest
MOST_JUDGED = 32
SIDE_HZ = 18.0  # what is nearer to a stronger partial is its sideband: of a tremolo, a beat, a moving filter
SIDE_SHARE = 0.4
MOST_DIVIDED = 40
STRONGEST_TRIED = 5
LEAST_FILL = 0.08
FEW, FEW_FILL, MANY_FILL = 6, 0.18, 0.12  # without the first partial an accident is likelier
LOWEST_MISSING_HZ = 16.0
MOST_SPARSE = 15  # the highest number that is believed of two partials alone
LEAST_OF_NOTE = 3
MOST_NOTES = 6
NOTE_STRONG_DB = -30.0
LEAST_ROW = 5
LEAST_STEP_HZ = 15.0
SHARP_BINS = 0.1  # so exactly a frequency is known, in bins
SHARP_SHARE = 1.5e-5  # and as a share of itself
ROUGH_SHARE = 1.2e-3  # where the pitch moved and was straightened


@dataclass(frozen=True)
class Row:
    """Partials in equal steps: all of them lie at |centre + n · step| Hz."""

    centre_hz: float
    step_hz: float


@dataclass(frozen=True)
class Series:
    """What the partials are: the multiples of a fundamental, those of several notes, a row, or none of these."""

    fundamental_hz: float | None = None
    notes_hz: tuple[float, ...] = ()
    row: Row | None = None


@dataclass(frozen=True)
class Exactness:
    """How exactly frequencies are known: in Hz, and as a share of themselves."""

    hertz: float
    share: float

    def of(self, frequencies: Floats) -> Floats:
        """Return how far from the truth frequencies may be, in Hz."""
        return self.hertz + self.share * frequencies


def exactness(width_hz: float, moving: bool) -> Exactness:
    """Return how exactly the partials of a passage are known whose bins are so wide."""
    return Exactness(SHARP_BINS * width_hz, ROUGH_SHARE if moving else SHARP_SHARE)


def dominant(partials: Sequence[Partial], rough_hz: float | None = None, strong_db: float = STRONG_DB) -> list[Partial]:
    """Return the strong partials that are heard and no sideband of a stronger one, by frequency.

    Above hearing lies what an oscillator lets fold, since nobody hears it.
    """
    partials = [one for one in partials if one.frequency_hz < HIGHEST_HEARD_HZ] or partials
    side = min(SIDE_HZ, SIDE_SHARE * rough_hz) if rough_hz else SIDE_HZ
    top = max((one.level_db for one in partials), default=0.0)
    kept: list[Partial] = []
    for one in sorted(partials, key=lambda one: -one.level_db):
        if one.level_db < top + strong_db:
            break
        near = min(side, SIDE_SHARE * one.frequency_hz)
        if all(abs(one.frequency_hz - other.frequency_hz) > near for other in kept):
            kept.append(one)
    return sorted(kept[:MOST_JUDGED], key=lambda one: one.frequency_hz)


def series_of(partials: Sequence[Partial], known: Exactness, rough_hz: float | None = None) -> Series:
    """Return what partials form. `rough_hz` is how often a second the sound repeats, if that is known."""
    judged = dominant(partials, rough_hz)
    if not judged:
        return Series()
    frequencies, weights = arrays(judged)
    fundamental = fundamental_of(frequencies, weights, known, rough_hz)
    if fundamental is not None:
        return Series(fundamental)
    notes = notes_of(partials, known)
    if notes:
        return Series(notes_hz=notes)
    return Series(row=row_of(frequencies, weights, known))


def arrays(partials: Sequence[Partial]) -> tuple[Floats, Floats]:
    """Return frequencies in Hz and amplitudes."""
    frequencies = np.array([one.frequency_hz for one in partials])
    return frequencies, np.array([10.0 ** (one.level_db / 20.0) for one in partials])


def fundamental_of(
    frequencies: Floats, weights: Floats, known: Exactness, rough_hz: float | None = None
) -> float | None:
    """Return the highest frequency in Hz of which all others are multiples, or None if there is none."""
    if len(frequencies) == 1:
        return float(frequencies[0])
    for candidate in candidates(frequencies, weights, rough_hz):
        numbers = np.round(frequencies / candidate)
        if np.min(numbers) < 1.0 or not is_filled(numbers.astype(int)):
            continue
        refined = best_fundamental(frequencies, weights * numbers, candidate)
        if refined is None:
            continue
        numbers = np.round(frequencies / refined)
        if refined < LOWEST_MISSING_HZ and np.min(numbers) > 1.0:
            continue
        if is_filled(numbers.astype(int)) and np.all(np.abs(frequencies - numbers * refined) < known.of(frequencies)):
            return refined
    return None


def candidates(frequencies: Floats, weights: Floats, rough_hz: float | None) -> list[float]:
    """Return fundamentals that are worth trying, the highest first."""
    strongest = frequencies[np.argsort(-weights)[:STRONGEST_TRIED]]
    divided = strongest[:, np.newaxis] / np.arange(1, MOST_DIVIDED + 1)
    gaps = np.diff(frequencies)[:, np.newaxis] / np.array([1.0, 2.0])
    found = [*divided.ravel(), *gaps.ravel(), *([rough_hz] if rough_hz else [])]
    return sorted((float(one) for one in found if one >= LOWEST_HZ), reverse=True)


def best_fundamental(frequencies: Floats, weights: Floats, candidate: float) -> float | None:
    """Return the fundamental that fits best, taking in one partial after the other from the lowest numbers on."""
    numbers = np.round(frequencies / candidate)
    for _ in range(4):
        best = float(np.sum(weights * numbers * frequencies) / np.sum(weights * numbers**2))
        again = np.round(frequencies / best)
        if np.array_equal(again, numbers):
            return best
        numbers = again
    return None


def is_filled(numbers: Ints) -> bool:
    """Tell whether numbers of partials are too many for their range to be an accident."""
    different, highest = len(set(numbers.tolist())), int(np.max(numbers))
    if different < len(numbers):
        return False
    if 1 in numbers:
        return different == 2 or different >= LEAST_FILL * highest
    if different == 2:
        return highest <= MOST_SPARSE
    return different >= (FEW_FILL if different <= FEW else MANY_FILL) * highest


def notes_of(partials: Sequence[Partial], known: Exactness) -> tuple[float, ...]:
    """Return the fundamentals in Hz of several harmonic series that share out the strong partials, or nothing.

    From below: the lowest partial that no series has yet begins one. A. P. Klapuri, "Multiple fundamental frequency
    estimation based on harmonicity and spectral smoothness", IEEE Trans. Speech Audio Process. 11 (2003), takes series
    away one by one too.
    """
    everything, _ = arrays(partials)
    strong, _ = arrays(dominant(partials, strong_db=NOTE_STRONG_DB))
    left = list(np.sort(strong))
    found: list[float] = []
    while left and len(found) < MOST_NOTES:
        fundamental, matched = followed(left[0], everything, known)
        if matched < LEAST_OF_NOTE:
            return ()
        found.append(fundamental)
        left = [one for one in left if not is_multiple(one, fundamental, known)]
    return tuple(found) if len(found) > 1 and not left else ()


def followed(lowest: float, everything: Floats, known: Exactness) -> tuple[float, int]:
    """Return the fundamental that begins at a partial, and how many of its first multiples are there."""
    fundamental, matched = lowest, 1
    for number in range(2, 9):
        wanted = number * fundamental
        nearest = float(everything[np.argmin(np.abs(everything - wanted))])
        if abs(nearest - wanted) < 2.0 * number * float(known.of(np.array(lowest))):
            matched += 1
            fundamental = nearest / number
    return fundamental, matched


def is_multiple(frequency: float, fundamental: float, known: Exactness) -> bool:
    """Tell whether a partial lies on a multiple of a fundamental."""
    number = max(1.0, round(frequency / fundamental))
    return abs(frequency - number * fundamental) < 2.0 * number * float(known.of(np.array(fundamental)))


def row_of(frequencies: Floats, weights: Floats, known: Exactness) -> Row | None:
    """Return the row of equal steps, mirrored at 0 Hz, on which all partials lie, as frequency modulation makes them.

    J. M. Chowning, "The synthesis of complex audio spectra by means of frequency modulation", J. Audio Eng. Soc. 21
    (1973): the carrier plus and minus whole multiples of the modulator, negative frequencies folded upwards.
    """
    if len(frequencies) < LEAST_ROW:
        return None
    by_strength = frequencies[np.argsort(-weights)]
    for centre in by_strength[:3]:
        steps = sorted({round(abs(one - centre), 6) for one in by_strength[:8]}, reverse=True)
        for step in (one for one in steps if one >= LEAST_STEP_HZ):
            off = np.minimum(distance(frequencies - centre, step), distance(frequencies + centre, step))
            if np.all(off < 2.0 * known.of(frequencies)) and is_dense(frequencies, float(centre), float(step)):
                return Row(float(centre), float(step))
    return None


def distance(values: Floats, step: float) -> Floats:
    """Return how far values are from the nearest multiple of a step."""
    return np.asarray(np.abs(values - step * np.round(values / step)))


def is_dense(frequencies: Floats, centre: float, step: float) -> bool:
    """Tell whether at least half of the places of a row, within the range of the partials, are taken."""
    reach = int(np.max(np.abs(np.concatenate([frequencies - centre, frequencies + centre]))) / step) + 1
    places = np.abs(centre + step * np.arange(-reach, reach + 1))
    places = places[places <= np.max(frequencies) + 0.5 * step]
    return len(frequencies) >= 0.5 * len(places)
