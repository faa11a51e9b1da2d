"""What routes share that need work done: it goes to other processes, and ends when nobody waits for it any longer."""

import asyncio
import uuid
from collections import Counter
from collections.abc import AsyncIterator, Awaitable, Callable, Collection, Hashable, Mapping
from typing import Annotated, Concatenate, ParamSpec, TypeVar

from fastapi import Depends, Request
from fastapi.concurrency import run_in_threadpool
from sqlalchemy.orm import Session

from inner_tone.api.access import Me
from inner_tone.core.errors import RenderStoppedError
from inner_tone.store import sources
from inner_tone.store.database import Sessions
from inner_tone.store.models import Account
from inner_tone.work.errand import BusyError, Errand, Place
from inner_tone.work.shared import Shared, Tell
from inner_tone.work.workshop import Workshop

Given = ParamSpec("Given")
Found = TypeVar("Found")


MOST_UNDER_WAY = 16  # requests of one account that have work done; a browser asks for six at a time


class Work:
    """How a request has work done, for whom, and for how long: until its answer is not waited for any longer."""

    def __init__(self, request: Request, me: Account) -> None:
        self.request, self.me = request, me
        self.sessions: Sessions = request.app.state.sessions
        self.workshop: Workshop = request.app.state.workshop
        self.shared: Shared = request.app.state.shared

    async def do(
        self, work: Callable[Concatenate[Place, Given], Found], *given: Given.args, **named: Given.kwargs
    ) -> Found:
        """Return what an errand comes to; raises what it raises, and RenderStoppedError."""
        return await self.unless_gone(self.workshop.do(self.me.id, work, *given, **named))

    async def once(
        self,
        key: Hashable,
        work: Callable[Concatenate[Place, Given], Found],
        *given: Given.args,
        **named: Given.kwargs,
    ) -> Found:
        """Return what an errand comes to that is done once for all who ask for the same by a key."""
        return await self.named(key, None, work, *given, **named)

    async def named(
        self,
        key: Hashable,
        ticket: str | None,
        work: Callable[Concatenate[Place, Given], Found],
        *given: Given.args,
        **named: Given.kwargs,
    ) -> Found:
        """Return what `once` does; by its ticket whoever asks can ask how far it is, and stop it."""
        errand = Errand(work, given, named)

        async def begin(tell: Tell) -> Found:
            found: Found = await self.workshop.wait(self.me.id, errand, tell)
            return found

        return await self.unless_gone(self.shared.of(key, begin, self.ticket(ticket)))

    def ticket(self, name: str | None) -> Hashable:
        """Return by what a wish of this account is known."""
        return None if name is None else (self.me.id, name)

    async def unless_gone(self, waiting: Awaitable[Found]) -> Found:
        """Return what is waited for; raises RenderStoppedError as soon as whoever asked has gone."""
        task = asyncio.ensure_future(waiting)
        gone = asyncio.ensure_future(self.gone())
        try:
            await asyncio.wait({task, gone}, return_when=asyncio.FIRST_COMPLETED)
            if task.done():
                return task.result()
            raise RenderStoppedError
        finally:
            gone.cancel()
            task.cancel()

    async def gone(self) -> None:
        """Wait until the request is closed by whoever sent it."""
        while (await self.request.receive())["type"] != "http.disconnect":
            pass

    async def stored(self, look: Callable[[Session], Found]) -> Found:
        """Return what is found in the database; the connection is given back at once."""

        def work() -> Found:
            with self.sessions.begin() as session:
                return look(session)

        return await run_in_threadpool(work)

    async def files(self, keys: Collection[str | None]) -> Mapping[str, bytes]:
        """Return the recordings that are kept under some keys, as FLAC; raises NotFoundError."""
        wanted = {key for key in keys if key is not None}
        if not wanted:
            return {}
        return await self.stored(lambda session: {key: sources.recording(session, key).flac for key in wanted})


async def work_of(request: Request, me: Me) -> AsyncIterator[Work]:
    """Yield how a request has work done; raises BusyError before anything of it is read if there are too many."""
    under_way: Counter[uuid.UUID] = request.app.state.under_way
    if under_way[me.id] >= MOST_UNDER_WAY:
        raise BusyError(f"You have asked for {MOST_UNDER_WAY} things at once. Wait until some of them are done.")
    under_way[me.id] += 1
    try:
        yield Work(request, me)
    finally:
        under_way[me.id] -= 1
        if not under_way[me.id]:
            del under_way[me.id]


TheWork = Annotated[Work, Depends(work_of)]
