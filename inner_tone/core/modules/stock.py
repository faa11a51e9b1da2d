"""The stock of a process: the sounds that its samplers can play, by name, as the compiled loop reads them.

Own sounds are known by the SHA-256 of what they are, so the stock is only a memory: whoever has forgotten a sound is
brought the very same again, and a render stays a pure function of its patch. Each sound stands in several versions,
each with an octave less of treble, on a grid twice as fine as that takes: so nothing folds back when it is played
faster, and nothing of the grid is heard when it is played slower.
"""

import re
from collections.abc import Collection, Iterable, Mapping
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from cachetools import LRUCache

from inner_tone.core.arrays import Samples
from inner_tone.core.errors import InnerToneError
from inner_tone.core.modules.kernel import Sounds
from inner_tone.core.modules.sounds import LIBRARY, RATE, loop_of, made

VERSIONS = 10  # up to 1.2 times as fast as it was made, then for each octave more
AUDIBLE_HZ = 20_000.0
FINER = 2  # samples of a grid for each that its treble takes
TAPER = 0.1  # over so much of it the treble of a version goes to nothing
MARGIN = 16  # silent samples before and after each version, for the interpolation
RINGING = 64  # samples in which what is cut off in the spectrum dies away
MOST_BYTES = 96 * 1024 * 1024  # of sounds as they were brought
MOST_MADE_BYTES = 192 * 1024 * 1024  # of their versions

OWN = re.compile(r"^([0-9a-f]{64}) (\S.{0,59})$", re.DOTALL)


class SoundMissingError(InnerToneError):
    """Sounds that are played are not in the stock of this process; by their keys, they can be brought."""

    def __init__(self, keys: Iterable[str]) -> None:
        self.keys = frozenset(keys)
        super().__init__(f"A sound that is played is not here: {min(self.keys)[:12]}….")


class Versions(NamedTuple):
    """A sound as it is played at one sampling rate: all versions one after the other, with their margins."""

    samples: Samples
    start: tuple[int, ...]  # of each version
    size: tuple[int, ...]
    scale: tuple[float, ...]  # samples of a version for each one at the sampling rate
    length: float  # in samples at the sampling rate


def key_of(sound: str) -> str:
    """Return the key of an own sound that a sampler is set to; nothing if it is one that comes with the program."""
    found = OWN.match(sound)
    return found[1] if found else ""


def name_of(sound: str) -> str:
    """Return what people call the sound that a sampler is set to."""
    found = OWN.match(sound)
    return found[2] if found else sound


_brought: LRUCache[str, Samples] = LRUCache(MOST_BYTES, getsizeof=lambda one: one.nbytes)
_versions: LRUCache[tuple[str, float], Versions] = LRUCache(MOST_MADE_BYTES, getsizeof=lambda one: one.samples.nbytes)
_numbers: dict[str, int] = {name: number for number, name in enumerate(LIBRARY)}


def bring(sounds: Mapping[str, Samples]) -> None:
    """Put sounds into the stock: by their keys, shape (n,) each, at 48 kHz."""
    for key, samples in sounds.items():
        if samples.nbytes <= MOST_BYTES:
            _brought[key] = samples


def lacking(sounds: Iterable[str]) -> set[str]:
    """Return the keys of those sounds that are not in the stock."""
    return {key for sound in sounds if (key := key_of(sound)) and key not in _brought}


def number_of(sound: str) -> int:
    """Return the number by which the compiled loop knows a sound in this process."""
    return _numbers.setdefault(key_of(sound) or sound, len(_numbers))


def sounds_for(sounds: Collection[str], rate: float) -> Sounds:
    """Return the sounds that samplers are set to, for a sampling rate in Hz; raises SoundMissingError."""
    missing = lacking(sounds)
    if missing:
        raise SoundMissingError(missing)
    names = tuple(sorted({key_of(sound) or sound for sound in sounds}, key=number_of))
    return together(names, rate, len(_numbers))


@lru_cache(maxsize=2)
def together(names: tuple[str, ...], rate: float, count: int) -> Sounds:
    """Return some sounds of the stock as the compiled loop reads them; `count` numbers are given to sounds so far."""
    found = [versions_of(name, rate) for name in names]
    first = np.cumsum([0, *(len(one.samples) for one in found)])
    rows = np.full(count, -1, dtype=np.int64)
    rows[[_numbers[name] for name in names]] = range(len(names))
    loops = [loop_of(name) if name in LIBRARY else (0.0, 1.0) for name in names]
    return Sounds(
        samples=found[0].samples if len(found) == 1 else np.concatenate([one.samples for one in found]),
        row=rows,
        start=np.array([[begin + at for at in one.start] for begin, one in zip(first, found, strict=False)]),
        size=np.array([one.size for one in found]),
        scale=np.array([one.scale for one in found]),
        length=np.array([one.length for one in found]),
        loop=np.array(loops),
    )


def versions_of(name: str, rate: float) -> Versions:
    """Return a sound of the stock as it is played at a sampling rate in Hz."""
    known = _versions.get((name, rate))
    if known is None:
        known = versions(made(name) if name in LIBRARY else _brought[name], rate)
        if known.samples.nbytes <= MOST_MADE_BYTES:
            _versions[name, rate] = known
    return known


def versions(sound: Samples, rate: float) -> Versions:
    """Return a sound, shape (n,), at 48 kHz, as it is played at a sampling rate in Hz.

    Each version is what an ideal low-pass leaves of it (Shannon 1949), sampled anew: a part of its spectrum, which is
    brought back on a grid with fewer points.
    """
    coarsest = FINER << VERSIONS
    size = coarsest * ((len(sound) + RINGING) // coarsest + 1)
    spectrum = np.fft.rfft(sound, size)
    hertz = np.arange(len(spectrum)) * RATE / size
    parts: list[Samples] = []
    starts, sizes, scales = [], [], []
    for octave in range(VERSIONS):
        highest = min(AUDIBLE_HZ, 0.45 * rate) / 2**octave
        points = round(size * FINER * rate / RATE / 2**octave)
        kept = min(points // 2 + 1, int(np.searchsorted(hertz, highest)) + 1)
        taper = np.clip((highest - hertz[:kept]) / (TAPER * highest), 0.0, 1.0)
        whole = np.fft.irfft(spectrum[:kept] * taper, points) * (points / size)
        scale = points * RATE / (size * rate)
        length = int(np.ceil((len(sound) * rate / RATE) * scale)) + RINGING
        starts.append(sum(map(len, parts)) + MARGIN)
        sizes.append(min(length, points))
        scales.append(scale)
        parts.append(np.pad(whole[: sizes[-1]], MARGIN).astype(np.float32))
    return Versions(np.concatenate(parts), tuple(starts), tuple(sizes), tuple(scales), len(sound) * rate / RATE)
