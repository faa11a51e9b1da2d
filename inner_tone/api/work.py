"""What routes share that need work done: it goes to other processes, and ends when nobody waits for it any longer."""

import asyncio
import gzip
import uuid
from collections import Counter
from collections.abc import AsyncIterator, Awaitable, Callable, Collection, Mapping
from typing import Annotated, Concatenate, ParamSpec, TypeVar

from fastapi import Depends, Request, Response
from fastapi.concurrency import run_in_threadpool
from sqlalchemy.orm import Session

from inner_tone.api.access import Me
from inner_tone.api.settings import Settings
from inner_tone.core.errors import RenderStoppedError
from inner_tone.core.patch.model import Patch
from inner_tone.core.phrase import Phrase
from inner_tone.store.attempts import heard_by
from inner_tone.store.models import Account
from inner_tone.work.errand import BusyError, Errand, Workplace
from inner_tone.work.node import Node

Given = ParamSpec("Given")
Found = TypeVar("Found")


MOST_UNDER_WAY = 16  # requests of one account that have work done; a browser asks for six at a time


class Work:
    """How a request has work done, for whom, and for how long: until its answer is not waited for any longer."""

    def __init__(self, request: Request, me: Account) -> None:
        self.request, self.me = request, me
        self.node: Node = request.app.state.node
        self.settings: Settings = request.app.state.settings

    async def do(
        self, work: Callable[Concatenate[Workplace, Given], Found], *given: Given.args, **named: Given.kwargs
    ) -> Found:
        """Return what an errand comes to; raises what it raises, and RenderStoppedError."""
        return await self.unless_gone(self.node.workshop.do(self.me.id, work, *given, **named))

    async def once(
        self,
        asked: bytes,
        ticket: str | None,
        work: Callable[Concatenate[Workplace, Given], bytes],
        *given: Given.args,
        **named: Given.kwargs,
    ) -> bytes:
        """Return what an errand comes to that is done once for all who ask for the same, at whichever node.

        By its ticket whoever asks can ask how far it is, and stop it.
        """
        errand = Errand(work, given, named)
        return await self.unless_gone(self.node.once(self.me.id, asked, errand, self.ticket(ticket)))

    async def alone(
        self,
        ticket: str | None,
        work: Callable[Concatenate[Workplace, Given], Found],
        *given: Given.args,
        **named: Given.kwargs,
    ) -> Found:
        """Return what an errand comes to that is done for whoever asks alone; the ticket is as above."""
        found: Found = await self.unless_gone(
            self.node.alone(self.me.id, Errand(work, given, named), self.ticket(ticket))
        )
        return found

    async def sound(self, patch: Patch, phrase: Phrase) -> bytes:
        """Return the sound of a take as a WAV file."""
        return await self.unless_gone(self.node.sound(self.me.id, patch, phrase))

    def ticket(self, name: str | None) -> str | None:
        """Return by what a wish of this account is known."""
        return None if name is None else f"{self.me.id} {name}"

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
        return await self.node.stored(look)

    async def files(self, keys: Collection[str | None]) -> Mapping[str, bytes]:
        """Return the recordings that whoever asks may hear, by their keys, as FLAC; raises NotFoundError."""
        wanted = {key for key in keys if key is not None}
        if not wanted:
            return {}
        return await self.stored(lambda session: {key: heard_by(session, self.me, key).flac for key in wanted})


def takes_gzip(request: Request) -> bool:
    """Tell whether whoever asks can take what is compressed."""
    return any(one.split(";")[0].strip() == "gzip" for one in request.headers.get("accept-encoding", "").split(","))


async def unpacked(request: Request, packed: bytes) -> Response:
    """Return compressed JSON as whoever asks can take it."""
    told = {"vary": "accept-encoding"}
    if takes_gzip(request):
        return Response(packed, media_type="application/json", headers={**told, "content-encoding": "gzip"})
    return Response(await run_in_threadpool(gzip.decompress, packed), media_type="application/json", headers=told)


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
