"""What is worked out once, and remembered for whoever asks next."""

import threading
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from typing import Generic, TypeVar

from cachetools import LRUCache

Found = TypeVar("Found")


@dataclass
class Once(Generic[Found]):
    """Remembers what has been worked out last; several who ask for the same at once wait for one of them."""

    most: int
    _found: LRUCache[Hashable, Found] = field(init=False)
    _locks: dict[Hashable, threading.Lock] = field(default_factory=dict)
    _guard: threading.Lock = field(default_factory=threading.Lock)

    def __post_init__(self) -> None:
        """Begin with nothing."""
        self._found = LRUCache(self.most)

    def of(self, key: Hashable, work: Callable[[], Found]) -> Found:
        """Return what is known by a key, or what has to be worked out for it."""
        with self._guard:
            if key in self._found:
                return self._found[key]
            lock = self._locks.setdefault(key, threading.Lock())
        with lock:
            with self._guard:
                if key in self._found:
                    return self._found[key]
            found = work()
            with self._guard:
                self._found[key] = found
                self._locks.pop(key, None)
            return found
