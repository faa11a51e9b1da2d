"""A node: one server with its processes, among others on the same database.

What one node has worked out the others need not work out again, and a wish can be asked about and stopped at any of
them. What a node keeps in its memory is a copy of what can be had again.
"""

import asyncio
import uuid
from collections.abc import Awaitable, Callable, Collection, Coroutine, Mapping
from contextlib import suppress
from hashlib import sha256
from typing import Any, TypeVar

from anyio.to_thread import run_sync
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from inner_tone.core.engine.render import render_key
from inner_tone.core.errors import InnerToneError, RenderStoppedError
from inner_tone.core.patch.model import Patch
from inner_tone.core.phrase import Phrase
from inner_tone.store import answers, sources
from inner_tone.store import sounds as own_sounds
from inner_tone.store.database import Sessions
from inner_tone.work import errands
from inner_tone.work.errand import BusyError, Errand, WorkEndedError
from inner_tone.work.shared import Shared, Tell
from inner_tone.work.version import code_version
from inner_tone.work.wire import Wire, Word
from inner_tone.work.workshop import Workshop

Found = TypeVar("Found")
REMEMBERED_BYTES = 96_000_000  # of answers and sounds, in the memory of this process
FOR_OTHERS = "other nodes"  # the account that counts for what other nodes ask for
HANDED_OVER_SECONDS = 10.0  # so long a sound may take from one node to another


class Node:
    """A server's own processes and memory, and its ways to the other nodes."""

    def __init__(self, sessions: Sessions, workshop: Workshop) -> None:
        self.sessions, self.workshop = sessions, workshop
        workshop.sounds = self.sounds
        self.shared = Shared(REMEMBERED_BYTES)
        self.wire = Wire(sessions.kw["bind"].url.set(drivername="postgresql").render_as_string(hide_password=False))
        self.wire.on("progress?", self._say_progress)
        self.wire.on("stop", self._stop)
        self.wire.on("sound?", self._hand_over)
        self._later: set[asyncio.Task[None]] = set()

    async def start(self) -> None:
        """Begin to listen, and see to it that all processes are there."""
        self.wire.start()
        await self.workshop.start()

    async def stop(self) -> None:
        """End everything; what is worked out already is kept for others."""
        await asyncio.gather(*self._later, return_exceptions=True)
        await self.wire.stop()
        self.workshop.stop()

    async def stored(self, look: Callable[[Session], Found]) -> Found:
        """Return what is found in the database; the connection is given back at once."""

        def work() -> Found:
            with self.sessions.begin() as session:
                return look(session)

        return await run_sync(work)

    async def sounds(self, keys: Collection[str]) -> Mapping[str, bytes]:
        """Return own sounds by their keys, as FLAC; those that are gone are left out."""
        return await self.stored(lambda session: own_sounds.flac_of(session, keys))

    async def once(self, owner: uuid.UUID, asked: bytes, errand: Errand, ticket: str | None = None) -> bytes:
        """Return what an errand comes to that is done once for all, at whichever node they ask.

        `asked` is all that the answer depends on but for the code. Whoever has a ticket can ask how far it is, and
        stop it; then RenderStoppedError is raised.
        """
        key = sha256(f"{code_version()} {errand.kind} ".encode() + asked).hexdigest()

        async def begin(tell: Tell) -> bytes:
            return await self._of_one_node(key, lambda: self.workshop.wait(owner, errand, tell))

        return await self.shared.of(key, begin, ticket)

    async def alone(self, owner: uuid.UUID, errand: Errand, ticket: str | None) -> Any:
        """Return what an errand comes to that is done for whoever asks alone; the ticket is as above."""
        return await self.shared.of(uuid.uuid4().hex, lambda tell: self.workshop.wait(owner, errand, tell), ticket)

    async def _of_one_node(self, key: str, work: Callable[[], Awaitable[bytes]]) -> bytes:
        """Return what one of the nodes works out."""
        while not await self.wire.claim(key):
            await self.wire.news(key)
        keeping = False
        try:
            known = await self._kept(key)
            if known is not None:
                return known
            found = await work()
            keeping = True
            self.later(self._keep(key, found))
            return found
        finally:
            if not keeping:
                self.later(self.wire.give_up(key))

    def later(self, work: Coroutine[Any, Any, None]) -> None:
        """Let something be done that nobody waits for; an error of it is nobody's end."""
        task = asyncio.ensure_future(work)
        self._later.add(task)
        task.add_done_callback(self._later.discard)
        task.add_done_callback(lambda done: done.cancelled() or done.exception())

    async def _kept(self, key: str) -> bytes | None:
        """Return what another node has worked out."""
        try:
            return await self.stored(lambda session: answers.answer_of(session, key))
        except SQLAlchemyError:
            return None

    async def _keep(self, key: str, found: bytes) -> None:
        """Keep what was worked out for the other nodes, and let them have it."""
        with suppress(SQLAlchemyError):
            await self.stored(lambda session: answers.keep_answer(session, key, found))
        await self.wire.give_up(key)

    async def progress(self, ticket: str) -> float | None:
        """Return how much of a wish is done, 0 to 1, at whichever node; nothing if it is not under way."""
        part = self.shared.progress(ticket)
        return part if part is not None else await self.wire.ask("progress?", ticket=ticket)

    async def stop_wish(self, ticket: str) -> None:
        """Give up a wish, at whichever node; the work ends unless others wait for it too."""
        self.shared.stop(ticket)
        await self.wire.say("stop", ticket=ticket)

    async def _say_progress(self, word: Word) -> None:
        """Answer another node that asks how far a wish is."""
        part = self.shared.progress(word["ticket"])
        if part is not None:
            await self.wire.answer(word, part)

    def _stop(self, word: Word) -> None:
        """Give up a wish that somebody has stopped at another node."""
        self.shared.stop(word["ticket"])

    async def sound(self, owner: uuid.UUID, patch: Patch, phrase: Phrase) -> bytes:
        """Return the sound of a take as a WAV file: from the node that has made it, if that is another one."""
        key = render_key(patch, phrase)

        async def begin(tell: Tell) -> bytes:
            maker = await self.stored(lambda session: sources.node_of(session, key))
            if maker not in ("", self.wire.node) and await self.wire.ask("sound?", maker=maker, key=key):
                await self.wire.news(f"sound {key}", HANDED_OVER_SECONDS)
                handed = await self._kept(f"sound {key}")
                if handed is not None:
                    return handed
            found: bytes = await self.workshop.wait(owner, Errand(errands.sound, (patch, phrase)), tell)
            return found

        return await self.shared.of(f"sound {key}", begin)

    async def _hand_over(self, word: Word) -> None:
        """Let another node have a sound that was made here."""
        key = word["key"]
        if word["maker"] != self.wire.node:
            return
        played = await self.stored(lambda session: sources.take_of(session, key))
        if played is None:
            return
        await self.wire.answer(word, found=True)
        with suppress(InnerToneError, BusyError, WorkEndedError, RenderStoppedError):
            wav: bytes = await self.workshop.do(FOR_OTHERS, errands.sound, *played)
            await self.stored(lambda session: answers.keep_answer(session, f"sound {key}", wav))
        await self.wire.say("news", key=f"sound {key}")
