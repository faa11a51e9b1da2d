"""Partials: every steady sinusoid of a passage, its frequency found between the bins.

The passage is windowed and transformed. Peaks are first guesses; those whose main lobes touch are fitted together. The
transform of a few windowed sinusoids is known exactly, their mirror images at negative frequencies included, so their
frequencies, amplitudes and phases follow from the bins around them by Gauss-Newton steps. What is left when they are
taken away shows whatever hid beneath them; it counts as a tone only if the fit then explains far more than before.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from inner_tone.core.arrays import Floats, Ints

Complexes = NDArray[np.complex128]

# F. J. Harris, "On the use of windows for harmonic analysis with the discrete Fourier transform", Proc. IEEE
# 66 (1978): the minimum four-term Blackman-Harris window, whose side lobes lie below -92 dB.
BLACKMAN_HARRIS = (0.35875, 0.48829, 0.14128, 0.01168)
REACH = 6  # so many bins to each side of a partial take part in its fit
APART = 12.0  # partials that lie nearer, in bins, are fitted together
STEPS = 10
STEPS_OF_MANY = 4
HIDDEN_ROUNDS = 3
EXPLAINED = 0.01  # the share of what was left that may remain when a hidden tone is real
NUDGE = 1e-6
FLOOR_DB = -72.0  # below the strongest
FAINTEST_DB = -110.0
MOST = 96
MOST_TOGETHER = 8
GUARDS = 2
MOST_SEARCHED = 12
MOST_WITH_HIDDEN = 4  # in a thicket of peaks nobody can tell what is hidden
HINT = 1e-3  # how much less than the floor may be left where something is hidden: the fit has taken most of it
SAME = 0.2  # bins
SIDE_LOBES = 5e-5  # of a tone, beyond its main lobe: -92 dB, of two neighbours
STANDS_OUT = 8.0
AROUND = 3.0  # bins
SETTLED = 1e-7  # bins
MIRRORED = 150  # bins: farther from either end, a mirror image is weaker by 110 dB
RIDGE = 1e-13
TINY = 1e-9  # bins: exactly between two neighbours the formula has a gap


@dataclass(frozen=True)
class Sinusoid:
    """A steady sinusoid: its frequency in bins, and its complex amplitude at the passage's first sample."""

    bin: float
    amplitude: complex


@dataclass(frozen=True)
class Fit:
    """The sinusoids of a group of guesses, and how much they leave at the bins around, shape (bins,)."""

    found: list[Sinusoid]
    places: Ints
    rest: Floats

    @property
    def left(self) -> float:
        """The power that is left."""
        return float(np.sum(self.rest**2))


@dataclass(frozen=True)
class Group:
    """Guesses, in bins, that are fitted together; `guards` only keep what belongs to the next group away."""

    guesses: list[float]
    guards: list[float]

    @property
    def all(self) -> list[float]:
        """Guesses and guards."""
        return sorted([*self.guesses, *self.guards])


@lru_cache(maxsize=8)
def window(size: int) -> Floats:
    """Return the minimum four-term Blackman-Harris window, shape (size,), periodic."""
    angle = 2.0 * np.pi * np.arange(size) / size
    a0, a1, a2, a3 = BLACKMAN_HARRIS
    return a0 - a1 * np.cos(angle) + a2 * np.cos(2 * angle) - a3 * np.cos(3 * angle)


def sinusoids(signal: Floats) -> list[Sinusoid]:
    """Return the steady sinusoids of a passage, shape (n,), by frequency: those within 72 dB of the strongest."""
    size = len(signal)
    bins = np.fft.rfft(signal * window(size))
    whole = float(np.sum(window(size)))
    floor = max(strongest(bins) * 10.0 ** (FLOOR_DB / 20.0), 0.5 * whole * 10.0 ** (FAINTEST_DB / 20.0))
    groups = grouped(peaks(np.abs(bins), floor))
    least = 2.0 * floor / whole
    found = [one for fit in resolved(bins, groups, size, floor) for one in fit if abs(one.amplitude) > least]
    return sorted(found, key=lambda one: one.bin)


def strongest(bins: Complexes) -> float:
    """Return the greatest magnitude, the standstill at 0 Hz left out."""
    return float(np.max(np.abs(bins[2:]), initial=0.0))


def peaks(magnitudes: Floats, floor: float) -> list[float]:
    """Return the bins of the peaks above a floor, the strongest of them at most."""
    inner = magnitudes[2:-2]
    is_peak = (inner > magnitudes[1:-3]) & (inner >= magnitudes[3:-1])
    is_peak &= (inner > magnitudes[:-4]) & (inner > magnitudes[4:]) & (inner > floor)
    places = np.flatnonzero(is_peak) + 2
    places = np.sort(places[np.argsort(-magnitudes[places], kind="stable")][:MOST])
    before, top, after = (np.log(magnitudes[places + shift]) for shift in (-1, 0, 1))
    shifts = 0.5 * (before - after) / (before - 2.0 * top + after)
    return [float(place) for place in places + shifts]


def grouped(guesses: list[float]) -> list[Group]:
    """Return guesses in groups that have to be fitted together."""
    chains: list[list[float]] = []
    for guess in guesses:
        if chains and guess - chains[-1][-1] < APART:
            chains[-1].append(guess)
        else:
            chains.append([guess])
    return [group for chain in chains for group in cut(chain)]


def cut(chain: list[float]) -> list[Group]:
    """Return a chain of near guesses as groups that are small enough, each guarded by some of its neighbours."""
    if len(chain) <= MOST_TOGETHER:
        return [Group(chain, [])]
    core = MOST_TOGETHER - 2 * GUARDS
    return [
        Group(chain[n : n + core], [*chain[max(0, n - GUARDS) : n], *chain[n + core : n + core + GUARDS]])
        for n in range(0, len(chain), core)
    ]


def resolved(bins: Complexes, groups: list[Group], size: int, floor: float) -> list[list[Sinusoid]]:
    """Return the sinusoids of each group, with those that hid beneath others."""
    fits = fitted(bins, [group.all for group in groups], size)
    open_groups = [n for n, group in enumerate(groups) if len(group.all) <= MOST_WITH_HIDDEN]
    hint = max(HINT * floor, SIDE_LOBES * strongest(bins) if len(groups) > 1 else 0.0)
    for _ in range(HIDDEN_ROUNDS):
        unclear = [n for n in open_groups if np.max(fits[n].rest) > hint]
        unclear = sorted(unclear, key=lambda n: -fits[n].left)[:MOST_SEARCHED]
        wider = {n: sorted([*(one.bin for one in fits[n].found), hidden_at(fits[n])]) for n in unclear}
        more = dict(zip(wider, fitted(bins, list(wider.values()), size), strict=True))
        open_groups = [n for n, fit in more.items() if fit.left <= EXPLAINED * fits[n].left]
        for n in open_groups:
            fits[n] = more[n]
    return [
        [one for one in merged(fit.found) if belongs(one, group) and stands_out(one, group, fit, size)]
        for fit, group in zip(fits, groups, strict=True)
    ]


def hidden_at(fit: Fit) -> float:
    """Return where most is left; a little beside the bin, since two guesses at one place could not part."""
    return float(fit.places[np.argmax(fit.rest)]) + 0.25


def belongs(one: Sinusoid, group: Group) -> bool:
    """Tell whether a sinusoid belongs to a group, rather than to its guards or to the next one."""
    nearest = min(group.all, key=lambda guess: abs(one.bin - guess))
    return nearest in group.guesses and abs(one.bin - nearest) < 0.5 * APART


def stands_out(one: Sinusoid, group: Group, fit: Fit, size: int) -> bool:
    """Tell whether a sinusoid is well above what its group leaves unexplained, as none of those in noise is."""
    near = (fit.places > group.guesses[0] - AROUND) & (fit.places < group.guesses[-1] + AROUND)
    left = float(np.sqrt(np.mean(fit.rest[near] ** 2)))
    return 0.5 * abs(one.amplitude) * float(np.sum(window(size))) > STANDS_OUT * left


def merged(found: list[Sinusoid]) -> list[Sinusoid]:
    """Return sinusoids, those that two guesses have led to the same place as one."""
    kept: list[Sinusoid] = []
    for one in sorted(found, key=lambda one: one.bin):
        if kept and one.bin - kept[-1].bin < SAME:
            both = kept[-1].amplitude + one.amplitude
            kept[-1] = Sinusoid(kept[-1].bin if abs(kept[-1].amplitude) > abs(one.amplitude) else one.bin, both)
        else:
            kept.append(one)
    return kept


def around(guesses: list[float], count: int) -> Ints:
    """Return the bins around some guesses."""
    return np.arange(max(0, int(min(guesses)) - REACH), min(count - 1, int(max(guesses)) + REACH + 1) + 1)


def fitted(bins: Complexes, groups: list[list[float]], size: int) -> list[Fit]:
    """Return, for each group, sinusoids whose windowed transforms add up to the bins around its guesses.

    Groups of one kind are fitted at once: as many guesses, and as near to either end.
    """
    kinds: dict[tuple[int, bool, bool], list[int]] = {}
    for n, group in enumerate(groups):
        kind = len(group), min(group) < 2 * REACH, has_mirror(min(group), max(group), size)
        kinds.setdefault(kind, []).append(n)
    fits: dict[int, Fit] = {}
    for members in kinds.values():
        fits.update(zip(members, fitted_alike(bins, [groups[n] for n in members], size), strict=True))
    return [fits[n] for n in range(len(groups))]


def fitted_alike(bins: Complexes, groups: list[list[float]], size: int) -> list[Fit]:
    """Return the fits of groups of one kind by Gauss-Newton steps, all at once: arrays begin with the group."""
    places, counts = padded([around(group, len(bins)) for group in groups])
    target = stacked(np.where(counts, bins[places], 0.0)[..., np.newaxis])
    found = np.array(groups, dtype=np.float64)
    count = found.shape[1]
    for _ in range(STEPS if len(groups) <= MOST_SEARCHED and count <= MOST_WITH_HIDDEN else STEPS_OF_MANY):
        columns = columns_of(places, counts, found, size)
        values = solved(columns, target)
        slopes = (columns_of(places, counts, found + NUDGE, size) - columns)[..., : 2 * count] / NUDGE
        pairs = slopes * values[:, np.newaxis, : 2 * count, 0]
        along = pairs[..., :count] + pairs[..., count:]
        step = solved(np.concatenate([columns, along], axis=-1), target - columns @ values)[:, columns.shape[-1] :, 0]
        found = np.clip(found + np.clip(step, -0.7, 0.7), 0.1, len(bins) - 1.1)
        if np.max(np.abs(step)) < SETTLED:
            break
    columns = columns_of(places, counts, found, size)
    values = solved(columns, target)
    rest = (target - columns @ values)[..., 0]
    return [fit_of(found[n], values[n, :, 0], rest[n], places[n], counts[n]) for n in range(len(groups))]


def fit_of(found: Floats, values: Floats, rest: Floats, places: Ints, counts: NDArray[np.bool_]) -> Fit:
    """Return the fit of one group: real parts stand before imaginary parts in the values and in the rest."""
    count, half = len(found), len(places)
    amplitudes = values[:count] + 1j * values[count : 2 * count]
    sinusoids = [Sinusoid(float(one), complex(a)) for one, a in zip(found, amplitudes, strict=True)]
    return Fit(sinusoids, places[counts], np.hypot(rest[:half], rest[half:])[counts])


def has_mirror(lowest: float, highest: float, size: int) -> bool:
    """Tell whether the mirror images of sinusoids at negative frequencies reach the bins around them."""
    return lowest < MIRRORED or highest > 0.5 * size - MIRRORED


def padded(rows: list[Ints]) -> tuple[Ints, NDArray[np.bool_]]:
    """Return rows of bins filled up to one length, shape (rows, longest), and which of them count."""
    longest = max(len(row) for row in rows)
    counts = np.arange(longest) < np.array([len(row) for row in rows])[:, np.newaxis]
    return np.stack([np.pad(row, (0, longest - len(row)), mode="edge") for row in rows]), counts


def solved(columns: Floats, target: Floats) -> Floats:
    """Return what the columns have to be multiplied by to come closest to a target, for each group.

    Few columns by the pseudo-inverse, which bears two tones that are hard to part; many by the normal equations, which
    are twenty times as fast.
    """
    if columns.shape[-1] <= 3 * MOST_WITH_HIDDEN + 1:
        found: Floats = np.linalg.pinv(columns, rcond=1e-14) @ target
        return found
    turned = columns.swapaxes(-1, -2)
    square = turned @ columns
    ridge = RIDGE * np.trace(square, axis1=-2, axis2=-1)[:, np.newaxis, np.newaxis] * np.eye(square.shape[-1])
    found = np.linalg.solve(square + ridge, turned @ target)
    return found


def stacked(values: Complexes) -> Floats:
    """Return real parts above imaginary parts: twice as many rows."""
    return np.concatenate([values.real, values.imag], axis=-2)


def columns_of(places: Ints, counts: NDArray[np.bool_], found: Floats, size: int) -> Floats:
    """Return what real and imaginary part of each amplitude, and a standstill near 0 Hz, bring to the bins that count.

    Shape (groups, 2 · places, columns) for places of shape (groups, places) and sinusoids at bins of shape
    (groups, sinusoids).
    """
    here = places[..., np.newaxis]
    ahead = lobe(here - found[:, np.newaxis, :], size)
    mirrored: Complexes | float = 0.0
    if has_mirror(float(np.min(found)), float(np.max(found)), size):
        mirrored = lobe(here + found[:, np.newaxis, :], size)
    columns = [0.5 * (ahead + mirrored), 0.5j * (ahead - mirrored)]
    if np.min(found) < 2 * REACH:
        columns.append(lobe(here.astype(np.float64), size))
    return stacked(np.concatenate(columns, axis=-1) * counts[..., np.newaxis])


def lobe(offsets: Floats, size: int) -> Complexes:
    """Return the transform of the window at offsets in bins.

    Each cosine of the window is a pair of Dirichlet kernels, Σ exp(-2πi · x · n / size) over n = 0 … size - 1; those of
    neighbours differ only in a sign, a turn and the sine below them, so one sine and one turn serve all seven.
    """
    offsets = np.where(np.abs(offsets - np.round(offsets)) < TINY, offsets + TINY, offsets)
    real, imaginary = np.zeros(offsets.shape), np.zeros(offsets.shape)
    for turns in range(-3, 4):
        weight = (-1.0) ** turns * BLACKMAN_HARRIS[abs(turns)] * (0.5 if turns else 1.0)
        kernel = weight / np.sin(np.pi / size * (offsets - turns))
        real += np.cos(np.pi * turns / size) * kernel
        imaginary -= np.sin(np.pi * turns / size) * kernel
    angle = np.pi * offsets * (size - 1) / size
    found: Complexes = np.sin(np.pi * offsets) * (np.cos(angle) - 1j * np.sin(angle)) * (real + 1j * imaginary)
    return found
