"""The stage: the processes that play, as the server sees them, and who has which session."""

import asyncio
import os
import secrets
import socket
import time
import uuid
from collections import deque
from collections.abc import Awaitable, Callable
from contextlib import suppress
from dataclasses import dataclass, field
from itertools import count

from cachetools import LRUCache

from inner_tone.core.errors import InnerToneError
from inner_tone.live.frames import KEY, SHARE, Frame, FrameKind, read_frame, written
from inner_tone.live.painter import paint
from inner_tone.live.worker import play
from inner_tone.work.template import Template

MOST_EACH = 3  # sessions of one person: a few windows
MOST_IN_PROCESS = 24
MOST_LOAD = 0.7  # of a process: one that is busier takes no more sessions
GRACE_S = 30.0  # so long a session waits for a page that has lost its way
MOST_SOUNDS = 8  # a minute of each is as much as the stock of a process holds
BRINGING_S = 10.0
MOST_PENDING = 400  # frames for a page that does not take them


class StageFullError(InnerToneError):
    """Nobody more can play just now, or not this person."""


@dataclass(eq=False)
class Seat:
    """A session as its page has it. `key` is known to nobody else: with it a page that was lost comes back."""

    number: int
    owner: uuid.UUID
    crew: "Crew"
    key: str = field(default_factory=lambda: secrets.token_urlsafe(24))
    pending: deque[tuple[FrameKind, bytes]] = field(default_factory=deque)
    news: asyncio.Event = field(default_factory=asyncio.Event)
    left: float | None = None  # since when nobody is there
    ended: bool = False

    def say(self, kind: FrameKind, content: bytes) -> None:
        """Send something to the session."""
        self.crew.send(Frame(self.number, kind, content))

    def tell(self, kind: FrameKind, content: bytes) -> None:
        """Keep something for the page; a page that falls behind goes without old pictures first."""
        if len(self.pending) >= MOST_PENDING or self.left is not None:
            self.pending = deque(one for one in self.pending if one[0] is not FrameKind.PICTURES)
            if kind is FrameKind.PICTURES or len(self.pending) >= MOST_PENDING or self.left is not None:
                return
        self.pending.append((kind, content))
        self.news.set()

    async def next(self) -> tuple[FrameKind, bytes]:
        """Return what comes next for the page."""
        while not self.pending:
            self.news.clear()
            await self.news.wait()
        return self.pending.popleft()


class Crew:
    """A process that plays, and the one that looks for it."""

    def __init__(self, ended: Callable[["Crew"], None]) -> None:
        self.ended = ended
        self.seats: dict[int, Seat] = {}
        self.load = 0.0
        self.sounds: LRUCache[str, asyncio.Event] = LRUCache(MOST_SOUNDS)  # own sounds that are there, or on their way
        self.writer: asyncio.StreamWriter | None = None
        self.reading: asyncio.Task[None] | None = None

    async def start(self, template: Template) -> None:
        """Start both processes."""
        ours, theirs = socket.socketpair()
        eye, brush = socket.socketpair()
        loop = asyncio.get_running_loop()
        await loop.run_in_executor(None, template.fork, play, theirs, eye)
        await loop.run_in_executor(None, template.fork, paint, brush)
        reader, self.writer = await asyncio.open_connection(sock=ours)
        self.reading = asyncio.create_task(self.read(reader))

    def send(self, frame: Frame) -> None:
        """Send a frame to the process."""
        if self.writer is not None and not self.writer.is_closing():
            self.writer.write(written(frame))

    async def has(self, key: str, bring: Callable[[], Awaitable[bytes | None]]) -> None:
        """Wait until the process can play an own sound, which is brought to it; what is gone it will miss by itself."""
        known = self.sounds.get(key)
        if known is None:
            known = self.sounds[key] = asyncio.Event()
            flac = await bring()
            if flac is None:
                del self.sounds[key]
                return
            self.send(Frame(0, FrameKind.BRING, KEY.pack(key.encode()) + flac))
        with suppress(TimeoutError):
            async with asyncio.timeout(BRINGING_S):
                await known.wait()

    async def read(self, reader: asyncio.StreamReader) -> None:
        """Hand out what the process sends, until it has ended."""
        while (frame := await read_frame(reader)) is not None:
            if frame.kind is FrameKind.LOAD:
                (self.load,) = SHARE.unpack(frame.content)
                continue
            if frame.kind is FrameKind.BROUGHT:
                if (there := self.sounds.get(frame.content.decode())) is not None:
                    there.set()
                continue
            seat = self.seats.get(frame.session)
            if seat is not None:
                seat.tell(frame.kind, frame.content)
        for seat in self.seats.values():
            seat.ended = True
            seat.tell(FrameKind.ENDED, b"The process that played has ended. Begin to play anew.")
        self.ended(self)

    def stop(self) -> None:
        """End both processes."""
        if self.reading is not None:
            self.reading.cancel()
        if self.writer is not None:
            self.writer.close()


class Stage:
    """All processes that play: as many as there are processors. They are started when somebody plays first."""

    def __init__(self, template: Template, processes: int | None = None) -> None:
        self.template = template
        self.wanted = processes or max(1, len(os.sched_getaffinity(0)))
        self.crews: list[Crew] = []
        self.seats: dict[str, Seat] = {}
        self.numbers = count(1)
        self.starting = asyncio.Lock()
        self.sweeping: asyncio.Task[None] | None = None

    async def start(self) -> None:
        """See to it that all processes are there."""
        async with self.starting:
            while len(self.crews) < self.wanted:
                crew = Crew(self.lost)
                await crew.start(self.template)
                self.crews.append(crew)
            if self.sweeping is None:
                self.sweeping = asyncio.create_task(self.sweep())

    def lost(self, crew: Crew) -> None:
        """Forget a process that has ended; another one is started when somebody plays."""
        if crew in self.crews:
            self.crews.remove(crew)
        self.seats = {key: seat for key, seat in self.seats.items() if seat.crew is not crew}

    async def take(self, owner: uuid.UUID) -> Seat:
        """Return a new session of somebody; raises StageFullError."""
        await self.start()
        mine = [seat for seat in self.seats.values() if seat.owner == owner]
        for seat in mine:
            if seat.left is not None and len(mine) >= MOST_EACH:
                self.leave(seat)
        if sum(seat.owner == owner for seat in self.seats.values()) >= MOST_EACH:
            raise StageFullError(
                f"You are playing in {MOST_EACH} windows already. Stop playing in one of them to play here."
            )
        crew = min(self.crews, key=lambda one: (one.load > MOST_LOAD, len(one.seats), one.load))
        if crew.load > MOST_LOAD or len(crew.seats) >= MOST_IN_PROCESS:
            raise StageFullError(
                "So many people are playing just now that one more would disturb them. Try again in a moment; "
                "the phrase can be played meanwhile."
            )
        seat = Seat(next(self.numbers), owner, crew)
        crew.seats[seat.number] = seat
        self.seats[seat.key] = seat
        return seat

    def again(self, owner: uuid.UUID, key: str) -> Seat | None:
        """Return the session that somebody had, if it is still there and nobody is in it."""
        seat = self.seats.get(key)
        if seat is None or seat.owner != owner or seat.left is None or seat.ended:
            return None
        seat.left = None
        seat.pending.clear()
        return seat

    def lose(self, seat: Seat) -> None:
        """Note that a page has lost its session: its keys go up, and it waits for a while."""
        seat.say(FrameKind.SAY, b'{"kind": "release"}')
        seat.left = time.monotonic()

    def leave(self, seat: Seat) -> None:
        """End a session."""
        seat.say(FrameKind.CLOSE, b"")
        seat.ended = True
        seat.crew.seats.pop(seat.number, None)
        self.seats.pop(seat.key, None)

    async def sweep(self) -> None:
        """End sessions again and again whose page has not come back."""
        while True:
            await asyncio.sleep(GRACE_S / 6)
            now = time.monotonic()
            for seat in list(self.seats.values()):
                if seat.left is not None and now - seat.left > GRACE_S:
                    self.leave(seat)

    def stop(self) -> None:
        """End everything."""
        if self.sweeping is not None:
            self.sweeping.cancel()
        for crew in self.crews:
            crew.stop()
        self.crews.clear()
