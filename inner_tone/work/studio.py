"""The studio of a process that works: renders, and remembers what it rendered last; nothing else works beside it."""

from collections.abc import Collection
from dataclasses import replace
from functools import cached_property
from hashlib import sha256
from weakref import WeakValueDictionary

import numpy as np
from cachetools import LRUCache

from inner_tone.core.analysis.loudness import loudness_lufs
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.arrays import Floats
from inner_tone.core.checkup import Jump, jumps_of, taps_for
from inner_tone.core.cost import together
from inner_tone.core.engine.render import Render, Watch, render, render_key, unwatched
from inner_tone.core.patch.model import Patch
from inner_tone.core.phrase import Phrase

MEMORY_BYTES = 192 * 1024 * 1024
AT_REST_BYTES = 24 * 1024 * 1024  # the takes of whoever asked last, if their phrase is a usual one


_sounds: WeakValueDictionary[tuple[bytes, float], Sound] = WeakValueDictionary()


def sound_of(signal: Floats, rate: float) -> Sound:
    """Return a signal as a sound: as the one that is known already, with all that was found out about it.

    What stands before a module that is being changed sounds the same in every render.
    """
    return _sounds.setdefault((sha256(signal.data).digest(), rate), Sound(signal, rate))


class Take:
    """A render with what the checkup keeps of it, and the lenses' findings about its taps, each worked out once."""

    def __init__(self, done: Render, jumps: dict[str, Jump]) -> None:
        self.render = done
        self.jumps = jumps
        self.sounds = {tap: sound_of(signal, done.rate) for tap, signal in done.taps.items()}
        self.size = 8 * len(done.left) * (1 + len(done.taps))

    @cached_property
    def loudness_lufs(self) -> float:
        """How loud it is heard, in LUFS."""
        return loudness_lufs(np.stack([self.render.left, self.render.right]), self.render.rate)


def taken(patch: Patch, phrase: Phrase, taps: Collection[str], watch: Watch) -> Take:
    """Render; of the taps that only the checkup needs, no more is kept than that."""
    first, *others = passes(patch, phrase, taps)
    done = render(patch, phrase, taps=first, watch=watch)
    jumps = jumps_of(patch, phrase, done)
    # copies, since a tap is a part of the array that holds all of them
    kept = replace(done, taps={tap: done.taps[tap].copy() for tap in sorted(taps)})
    del done
    for group in others:
        jumps |= jumps_of(patch, phrase, render(patch, phrase, taps=group, watch=watch))
    return Take(kept, jumps)


def passes(patch: Patch, phrase: Phrase, taps: Collection[str]) -> list[list[str]]:
    """Return the taps of each render that a take needs: the first has all that is kept, and mostly there is no other.

    Only where a long phrase would fill too much memory, what the checkup needs is rendered by itself.
    """
    level = {*taps_for(patch)} - {*taps}
    if len(together(phrase, {*taps, *level})) <= 1:
        return [sorted({*taps, *level})]
    return [sorted(taps), *together(phrase, level)]


class Studio:
    """Renders by key, with a memory of the latest ones."""

    def __init__(self) -> None:
        room = MEMORY_BYTES  # a take greater than all of it is remembered alone: somebody is about to look at it
        self._takes: LRUCache[str, Take] = LRUCache(room, getsizeof=lambda take: min(take.size, room))

    def take(self, patch: Patch, phrase: Phrase, taps: Collection[str] = (), watch: Watch = unwatched) -> Take:
        """Return the render of a patch playing a phrase, with at least the given taps.

        Raises TapError and what `watch` raises.
        """
        key = render_key(patch, phrase)
        known = self.known(key)
        if known is None or not set(taps) <= set(known.render.taps):
            wanted = {*taps, *(known.render.taps if known else {})}
            known = taken(patch, phrase, wanted if len(together(phrase, wanted)) <= 1 else taps, watch)
            self._takes[key] = known
        return known

    def rest(self) -> None:
        """Forget what is large: nobody has asked for a while, and others may need the memory."""
        while self._takes.currsize > AT_REST_BYTES:
            self._takes.popitem()

    def lacks(self, patch: Patch, phrase: Phrase, taps: Collection[str] = ()) -> bool:
        """Tell whether something has to be rendered."""
        known = self.known(render_key(patch, phrase))
        return known is None or not set(taps) <= set(known.render.taps)

    def known(self, key: str) -> Take | None:
        """Return a render that is still remembered."""
        return self._takes.get(key)
