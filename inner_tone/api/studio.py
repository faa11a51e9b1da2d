"""The studio: renders on request, once for everybody who asks for the same, and remembers what it rendered."""

import threading
from collections import OrderedDict
from collections.abc import Collection

from inner_tone.core.analysis.sound import Sound
from inner_tone.core.engine.render import Render, render, render_key
from inner_tone.core.patch.model import Patch
from inner_tone.core.phrase import Phrase

MEMORY_BYTES = 512 * 1024 * 1024
AT_ONCE = 2


class Take:
    """A render with the lenses' findings about its taps, each worked out once."""

    def __init__(self, done: Render) -> None:
        self.render = done
        self.sounds = {tap: Sound(signal, done.rate) for tap, signal in done.taps.items()}
        self.size = 8 * len(done.left) * (1 + len(done.taps))


class Studio:
    """Renders by key, with a memory of the latest ones. Safe to use from many threads."""

    def __init__(self) -> None:
        self._takes: OrderedDict[str, Take] = OrderedDict()
        self._locks: dict[str, threading.Lock] = {}
        self._guard = threading.Lock()
        self._room = threading.Semaphore(AT_ONCE)

    def take(self, patch: Patch, phrase: Phrase, taps: Collection[str] = ()) -> Take:
        """Return the render of a patch playing a phrase, with at least the given taps; raises TapError."""
        key = render_key(patch, phrase)
        with self._guard:
            lock = self._locks.setdefault(key, threading.Lock())
        with lock:
            known = self.known(key)
            if known is None or not set(taps) <= set(known.render.taps):
                already = known.render.taps if known else {}
                with self._room:
                    known = Take(render(patch, phrase, taps=sorted({*taps, *already})))
                self._remember(known)
        return known

    def known(self, key: str) -> Take | None:
        """Return a render that is still remembered."""
        with self._guard:
            if key in self._takes:
                self._takes.move_to_end(key)
            return self._takes.get(key)

    def _remember(self, take: Take) -> None:
        with self._guard:
            self._takes[take.render.key] = take
            self._takes.move_to_end(take.render.key)
            while sum(one.size for one in self._takes.values()) > MEMORY_BYTES and len(self._takes) > 1:
                forgotten, _ = self._takes.popitem(last=False)
                self._locks.pop(forgotten, None)
