"""The wire between nodes: several servers on one database tell each other things, and share out what is to be done.

Words go by PostgreSQL's NOTIFY (https://www.postgresql.org/docs/15/sql-notify.html), so they cannot be lost between
nodes that listen. What a node works at it claims by an advisory lock of its one connection, which the database gives
up by itself when the node dies (https://www.postgresql.org/docs/15/explicit-locking.html#ADVISORY-LOCKS).
Where the database cannot be reached, each node works for itself; that is never wrong, only more work.
"""

import asyncio
import json
import logging
import secrets
from collections.abc import Awaitable, Callable, Coroutine
from contextlib import suppress
from hashlib import sha256
from typing import Any, TypeVar

import psycopg

from inner_tone.store.notices import CHANNEL
from inner_tone.work.ending import end

AGAIN_SECONDS = 1.0
ANSWER_SECONDS = 0.3  # so long another node has to say that it knows something
LONGEST = 7_000  # bytes of one word; the database takes no more than 8000

Found = TypeVar("Found")
Word = dict[str, Any]
Hear = Callable[[Word], Awaitable[None] | None]

log = logging.getLogger(__name__)


class Wire:
    """A node's end of the wire. Used from the one thread of the event loop."""

    def __init__(self, database: str) -> None:
        self.node = secrets.token_hex(8)
        self.database = database
        self.hears = False  # whether words of others come in
        self._handlers: dict[str, Hear] = {}
        self._hand: psycopg.AsyncConnection[Any] | None = None
        self._turn = asyncio.Lock()
        self._news: dict[str, set[asyncio.Event]] = {}
        self._asked: dict[str, asyncio.Future[Any]] = {}
        self._listening: asyncio.Task[None] | None = None
        self._at_work: set[asyncio.Task[Any]] = set()
        self.on("answer", self._answered)
        self.on("news", self._told)

    def on(self, kind: str, hear: Hear) -> None:
        """Let words of a kind be heard, those of this node too."""
        self._handlers[kind] = hear

    def start(self) -> None:
        """Begin to listen."""
        self._listening = asyncio.create_task(self._listen())

    async def stop(self) -> None:
        """Leave the wire; what is claimed is given up."""
        await end({*self._at_work, *([self._listening] if self._listening else [])})
        if self._hand is not None:
            await self._hand.close()

    async def _listen(self) -> None:
        """Hear what is said, and connect again whenever the connection is lost."""
        while True:
            try:
                ear = await psycopg.AsyncConnection.connect(self.database, autocommit=True)
                async with ear:
                    await ear.execute(f"LISTEN {CHANNEL}")
                    self.hears = True
                    self._wake(None)
                    async for notice in ear.notifies():
                        self._take(notice.payload)
            except psycopg.Error as error:
                log.warning("the wire between nodes is down: %s", str(error).strip().splitlines()[:1])
            finally:
                self.hears = False
            await asyncio.sleep(AGAIN_SECONDS)

    def _take(self, payload: str) -> None:
        """Hear a word; what is none, as somebody else may say on this channel, is let pass."""
        try:
            self._hear(json.loads(payload))
        except (ValueError, KeyError, TypeError, AttributeError):
            log.warning("a word that means nothing came over the wire between nodes")

    def _hear(self, word: Word) -> None:
        """Hand a word to whoever listens for its kind."""
        handler = self._handlers.get(word["kind"])
        waiting = handler(word) if handler else None
        if waiting is not None:
            self._later(self._finish(waiting))

    def _later(self, work: Coroutine[Any, Any, Found]) -> asyncio.Task[Found]:
        """Let something be done to its end, whoever waits for it."""
        task = asyncio.ensure_future(work)
        self._at_work.add(task)
        task.add_done_callback(self._at_work.discard)
        return task

    async def _finish(self, waiting: Awaitable[None]) -> None:
        """Do what a word has asked for; an error of it is nobody's end."""
        try:
            await waiting
        except Exception:
            log.exception("a word of another node could not be followed")

    async def _do(self, query: str, *given: object) -> Any:
        """Return the first column of what the database answers; raises psycopg.Error."""
        async with self._turn:
            if self._hand is None or self._hand.closed:
                self._hand = await psycopg.AsyncConnection.connect(self.database, autocommit=True)
            found = await (await self._hand.execute(query.encode(), given)).fetchone()
            return found[0] if found else None

    async def say(self, kind: str, **words: object) -> None:
        """Say something to all nodes, this one too; where the database is gone, nobody hears it."""
        with suppress(psycopg.Error):
            await self._do("SELECT pg_notify(%s, %s)", CHANNEL, json.dumps({"kind": kind, "node": self.node, **words}))

    async def ask(self, kind: str, **words: object) -> Any:
        """Return what the first node answers that knows something; nothing if none does in time."""
        number = secrets.token_hex(8)
        answer = self._asked[number] = asyncio.get_running_loop().create_future()
        try:
            await self.say(kind, number=number, **words)
            return await asyncio.wait_for(answer, ANSWER_SECONDS)
        except TimeoutError:
            return None
        finally:
            del self._asked[number]

    async def answer(self, word: Word, found: object) -> None:
        """Answer a word that was asked."""
        await self.say("answer", number=word["number"], found=found)

    def _answered(self, word: Word) -> None:
        """Take an answer."""
        waiting = self._asked.get(word["number"])
        if waiting is not None and not waiting.done():
            waiting.set_result(word["found"])

    async def claim(self, key: str) -> bool:
        """Tell whether something is this node's to do now; where the database is gone, it is.

        Whoever gives up while it is asked leaves no claim behind.
        """
        asked = self._later(self._claimed(key))
        try:
            return await asyncio.shield(asked)
        except asyncio.CancelledError:
            asked.add_done_callback(lambda done: self._later(self.give_up(key)) if done.result() else None)
            raise

    async def _claimed(self, key: str) -> bool:
        """Tell whether the database has given a claim to this node."""
        try:
            return bool(await self._do("SELECT pg_try_advisory_lock(%s)", number_of(key)))
        except psycopg.Error:
            return True

    async def give_up(self, key: str) -> None:
        """Let others claim something, and tell those who wait for it."""
        with suppress(psycopg.Error):
            await self._do("SELECT pg_advisory_unlock(%s)", number_of(key))
        await self.say("news", key=key)

    async def news(self, key: str, seconds: float = AGAIN_SECONDS) -> None:
        """Wait until there are news of something, or it is time to look again."""
        event = asyncio.Event()
        self._news.setdefault(key, set()).add(event)
        try:
            with suppress(TimeoutError):
                await asyncio.wait_for(event.wait(), seconds)
        finally:
            self._news[key].discard(event)
            if not self._news[key]:
                del self._news[key]

    def _told(self, word: Word) -> None:
        """Wake those who wait for news."""
        self._wake(word["key"])

    def _wake(self, key: str | None) -> None:
        """Wake those who wait for something, or for anything."""
        for events in self._news.values() if key is None else [self._news.get(key, set())]:
            for event in events:
                event.set()


def number_of(key: str) -> int:
    """Return by what number a key is claimed: 63 bits of its digest."""
    return int.from_bytes(sha256(key.encode()).digest()[:8]) >> 1
