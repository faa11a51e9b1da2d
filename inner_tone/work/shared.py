"""What is worked out once for all who ask for the very same, and remembered for whoever asks next."""

import asyncio
from collections.abc import Awaitable, Callable, Hashable
from dataclasses import dataclass, field
from typing import Any, TypeVar

from cachetools import LRUCache

from inner_tone.core.errors import RenderStoppedError

Found = TypeVar("Found")
Tell = Callable[[float], None]  # is told how much is done, 0 to 1


@dataclass(eq=False)
class Flight:
    """Something that is worked out, how much of it is done, and how many wait for it."""

    task: asyncio.Future[Any] | None = None
    part: float = 0.0
    waiting: int = 0

    def tell(self, part: float) -> None:
        """Note how much is done."""
        self.part = part


@dataclass(eq=False)
class Ticket:
    """Somebody's wish, which they can ask about and stop."""

    flight: Flight
    waiter: asyncio.Future[Any]
    stopped: bool = False


@dataclass(eq=False)
class Shared:
    """Remembers what has been worked out last, up to so many bytes; who asks for the same waits for the same.

    When nobody waits any longer, the work is given up. Used from the one thread of the event loop.
    """

    most_bytes: int
    size_of: Callable[[Any], int] = len
    found: LRUCache[Hashable, Any] = field(init=False)
    flights: dict[Hashable, Flight] = field(default_factory=dict)
    tickets: dict[Hashable, Ticket] = field(default_factory=dict)

    def __post_init__(self) -> None:
        """Begin with nothing."""
        self.found = LRUCache(self.most_bytes, getsizeof=self.size_of)

    async def of(self, key: Hashable, work: Callable[[Tell], Awaitable[Found]], ticket: Hashable = None) -> Found:
        """Return what is known by a key, or what has to be worked out for it.

        By its `ticket` the wish can be asked about and stopped; then RenderStoppedError is raised.
        """
        if key in self.found:
            known: Found = self.found[key]
            return known
        flight = self.flights.get(key)
        if flight is None:
            flight = self.flights[key] = Flight()
            flight.task = asyncio.ensure_future(work(flight.tell))
        assert flight.task is not None
        flight.waiting += 1
        mine = Ticket(flight, asyncio.ensure_future(asyncio.shield(flight.task)))
        if ticket is not None:
            self.tickets[ticket] = mine
        try:
            found: Found = await mine.waiter
        except asyncio.CancelledError:
            if mine.stopped:
                raise RenderStoppedError from None
            raise
        finally:
            mine.waiter.cancel()
            flight.waiting -= 1
            if not flight.waiting and not flight.task.done():
                flight.task.cancel()
            if (not flight.waiting or flight.task.done()) and self.flights.get(key) is flight:
                del self.flights[key]
            if self.tickets.get(ticket) is mine:
                del self.tickets[ticket]
        if self.size_of(found) <= self.most_bytes:
            self.found[key] = found
        return found

    def progress(self, ticket: Hashable) -> float | None:
        """Return how much of a wish is done, 0 to 1; nothing if there is no such wish (any longer)."""
        mine = self.tickets.get(ticket)
        return mine.flight.part if mine else None

    def stop(self, ticket: Hashable) -> None:
        """Give up a wish; the work ends unless others wait for it too."""
        mine = self.tickets.get(ticket)
        if mine is not None:
            mine.stopped = True
            mine.waiter.cancel()
