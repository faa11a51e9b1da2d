"""The studio: renders on request, once for everybody who asks for the same, and remembers what it rendered."""

import threading
from collections.abc import Collection, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from functools import cached_property
from hashlib import sha256
from weakref import WeakValueDictionary

import numpy as np
from cachetools import LRUCache

from inner_tone.core.analysis.loudness import loudness_lufs
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.checkup import Jump, jumps_of, taps_for
from inner_tone.core.engine.render import Render, Watch, render, render_key
from inner_tone.core.errors import RenderStoppedError
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.patch.model import Patch
from inner_tone.core.phrase import Phrase

MEMORY_BYTES = 512 * 1024 * 1024
AT_ONCE = 2
PATIENCE_SECONDS = 0.05  # how soon somebody who waits notices that they no longer want to


_sounds: WeakValueDictionary[tuple[bytes, float], Sound] = WeakValueDictionary()
_sounds_guard = threading.Lock()


def sound_of(signal: Floats, rate: float) -> Sound:
    """Return a signal as a sound: as the one that is known already, with all that was found out about it.

    What stands before a module that is being changed sounds the same in every render.
    """
    key = sha256(signal.data).digest(), rate
    with _sounds_guard:
        return _sounds.setdefault(key, Sound(signal, rate))


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
    done = render(patch, phrase, taps=sorted({*taps, *taps_for(patch)}), watch=watch)
    jumps = jumps_of(patch, phrase, done)
    # copies, since a tap is a part of the array that holds all of them
    return Take(replace(done, taps={tap: done.taps[tap].copy() for tap in sorted(taps)}), jumps)


@dataclass
class Flight:
    """A render under way, and all who wait for it; it is given up when all of them have stopped."""

    lock: threading.Lock = field(default_factory=threading.Lock)
    tickets: list["Ticket"] = field(default_factory=list)
    part: float = 0.0

    def watch(self, part: float) -> None:
        """Note how far the render is; raises RenderStoppedError when nobody waits any longer."""
        self.part = part
        if all(ticket.stopped for ticket in self.tickets):
            raise RenderStoppedError


@dataclass(eq=False)
class Ticket:
    """Somebody's wish for a render."""

    flight: Flight
    stopped: bool = False

    @contextmanager
    def holding(self, room: "threading.Lock | threading.Semaphore") -> Iterator[None]:
        """Wait for a lock and hold it; raises RenderStoppedError if the wish is given up meanwhile."""
        while not room.acquire(timeout=PATIENCE_SECONDS):
            if self.stopped:
                raise RenderStoppedError
        try:
            yield
        finally:
            room.release()


class Studio:
    """Renders by key, with a memory of the latest ones. Safe to use from many threads."""

    def __init__(self) -> None:
        room = MEMORY_BYTES  # a take greater than all of it is remembered alone: somebody is about to look at it
        self._takes: LRUCache[str, Take] = LRUCache(room, getsizeof=lambda take: min(take.size, room))
        self._flights: dict[str, Flight] = {}
        self._tickets: dict[str, Ticket] = {}
        self._guard = threading.Lock()
        self._room = threading.Semaphore(AT_ONCE)

    def take(self, patch: Patch, phrase: Phrase, taps: Collection[str] = (), *, name: str | None = None) -> Take:
        """Return the render of a patch playing a phrase, with at least the given taps.

        By its `name` the wish can be watched and stopped from elsewhere. Raises TapError, and RenderStoppedError if
        the wish was stopped before the render was done.
        """
        key = render_key(patch, phrase)
        with self.ticket(key, name) as ticket, ticket.holding(ticket.flight.lock):
            known = self.known(key)
            if known is None or not set(taps) <= set(known.render.taps):
                already = known.render.taps if known else {}
                with ticket.holding(self._room):
                    known = taken(patch, phrase, {*taps, *already}, ticket.flight.watch)
                self._remember(known)
            return known

    @contextmanager
    def ticket(self, key: str, name: str | None) -> Iterator[Ticket]:
        """Take part in the render of a key for as long as it is wanted."""
        with self._guard:
            ticket = Ticket(self._flights.setdefault(key, Flight()))
            ticket.flight.tickets.append(ticket)
            if name is not None:
                self._tickets[name] = ticket
        try:
            yield ticket
        finally:
            with self._guard:
                ticket.flight.tickets.remove(ticket)
                if not ticket.flight.tickets:
                    del self._flights[key]
                if name is not None and self._tickets.get(name) is ticket:
                    del self._tickets[name]

    def progress(self, name: str) -> float | None:
        """Return how much of a named wish is done, 0 to 1; nothing if there is no such wish (any longer)."""
        with self._guard:
            ticket = self._tickets.get(name)
        return ticket.flight.part if ticket else None

    def stop(self, name: str) -> None:
        """Give up a named wish; the render ends unless others wait for it too."""
        with self._guard:
            ticket = self._tickets.get(name)
        if ticket is not None:
            ticket.stopped = True

    def known(self, key: str) -> Take | None:
        """Return a render that is still remembered."""
        with self._guard:
            return self._takes.get(key)

    def _remember(self, take: Take) -> None:
        with self._guard:
            self._takes[take.render.key] = take
