"""The workshop: the processes that work, as the server sees them, and the line of those who wait for one.

Each account has a share of its own: who has had least is next, so the twentieth wish of one never delays the first of
another. What takes long waits in a line of its own and never gets all processes. What nobody waits for any longer is
stopped; a process that does not stop at once, that takes too long or too much memory, is ended and replaced.
"""

import asyncio
import logging
import os
import pickle
import signal
import socket
import time
from collections import deque
from collections.abc import Awaitable, Callable, Collection, Coroutine, Mapping
from contextlib import suppress
from dataclasses import dataclass, replace
from typing import Any, Concatenate, ParamSpec, TypeVar

from cachetools import LRUCache

from inner_tone.core.cost import MOST_SECONDS
from inner_tone.core.errors import InnerToneError
from inner_tone.core.modules.stock import SoundMissingError
from inner_tone.work.errand import BusyError, Cutting, Done, Errand, LongError, Stop, WorkEndedError, Workplace
from inner_tone.work.line import framed, read
from inner_tone.work.template import Template
from inner_tone.work.worker import work

Given = ParamSpec("Given")
Found = TypeVar("Found")

MOST_WAITING = 40  # wishes of one account
PATIENCE_SECONDS = 0.25  # so long a process may take to stop
OVER = 1.5  # by so much one errand may go beyond its budget, until it is ended
MOST_MEMORY = 1_200_000_000  # bytes that one process may fill
GUARD_SECONDS = 0.5
AT_HOME_SECONDS = 1.0  # so long somebody's wish waits for the process that works for them: it remembers their sounds
MOST_HOMES = 10_000
TOO_MUCH_SOUND = "The own sounds of this are more than can be played at once. Take shorter ones."
SOUND_GONE = "An own sound that is played here is gone. Choose another one."
LEAST_SECONDS = 0.1  # what an errand counts at least: many small ones must not come before one

log = logging.getLogger(__name__)


async def nothing_kept(keys: Collection[str]) -> Mapping[str, bytes]:
    """Bring no sounds: none are kept."""
    return {}


def unobserved(kind: str, end: str, seconds: float) -> None:
    """Note nothing of work that was done."""


@dataclass(eq=False)
class Wish:
    """An errand that somebody waits for."""

    owner: object
    errand: Errand
    answer: asyncio.Future[Any]
    tell: Callable[[float], None] | None = None


class Worker:
    """A process, and the errand that it does."""

    def __init__(self, ended: Callable[["Worker"], None]) -> None:
        self.ended = ended
        self.wish: Wish | None = None
        self.began = 0.0
        self.cpu = 0.0
        self.process = 0
        self.writer: asyncio.StreamWriter | None = None
        self.reading: asyncio.Task[None] | None = None
        self.patience: asyncio.TimerHandle | None = None
        self.killed = False

    @property
    def is_free(self) -> bool:
        """Whether it can be given an errand: one that was ended can still say what it has found just before."""
        return self.wish is None and not self.killed

    async def start(self, template: Template, free: Callable[["Worker", Wish, Done], None]) -> None:
        """Start the process."""
        ours, theirs = socket.socketpair()
        self.process = await asyncio.get_running_loop().run_in_executor(None, template.fork, work, theirs)
        reader, self.writer = await asyncio.open_connection(sock=ours)
        self.reading = asyncio.create_task(self.read(reader, free))

    def do(self, wish: Wish) -> None:
        """Send an errand to the process."""
        self.wish, self.began = wish, time.monotonic()
        self.cpu = self.usage()[0]
        self.say(wish.errand)

    async def read(self, reader: asyncio.StreamReader, free: Callable[["Worker", Wish, Done], None]) -> None:
        """Take what the process sends, until it has ended."""
        while (data := await read(reader)) is not None:
            message, wish = pickle.loads(data), self.wish
            if isinstance(message, Cutting) and wish is not None:
                if wish.tell is not None:
                    wish.tell(message.part)
            elif isinstance(message, Done) and wish is not None:
                self.wish = None
                self.calm()
                free(self, wish, message)
        self.calm()
        self.process = 0
        self.ended(self)

    def say(self, message: object) -> None:
        """Send something to the process."""
        if self.writer is not None and not self.writer.is_closing():
            self.writer.write(framed(pickle.dumps(message, protocol=pickle.HIGHEST_PROTOCOL)))

    def stop(self) -> None:
        """Tell the process that nobody waits any longer; if it does not hear, it is ended."""
        if self.patience is None:
            self.say(Stop())
            self.patience = asyncio.get_running_loop().call_later(PATIENCE_SECONDS, self.kill)

    def calm(self) -> None:
        """Note that it has stopped, or is done."""
        if self.patience is not None:
            self.patience.cancel()
            self.patience = None

    def kill(self) -> None:
        """End the process, whatever it does."""
        self.calm()
        self.killed = True
        if self.process:
            with suppress(ProcessLookupError):
                os.kill(self.process, signal.SIGKILL)

    def usage(self) -> tuple[float, int]:
        """Return the processor time of the process in seconds, and the memory that it fills, in bytes."""
        try:
            with open(f"/proc/{self.process}/stat", encoding="ascii") as file:
                fields = file.read().rpartition(")")[2].split()
        except OSError:
            return 0.0, 0
        ticks = os.sysconf("SC_CLK_TCK")
        return (int(fields[11]) + int(fields[12])) / ticks, int(fields[21]) * os.sysconf("SC_PAGE_SIZE")


class Workshop:
    """All processes that work, and who waits. Used from the one thread of the event loop."""

    def __init__(self, template: Template, workers: int | None = None, seconds: float = MOST_SECONDS) -> None:
        self.template = template
        self.seconds = seconds  # of one core, that one errand may take
        self.observe: Callable[[str, str, float], None] = unobserved
        self.sounds: Callable[[Collection[str]], Awaitable[Mapping[str, bytes]]] = nothing_kept  # by their keys
        self.wanted = max(2, workers or len(os.sched_getaffinity(0)))
        self.workers: list[Worker] = []
        self.waiting: dict[object, deque[Wish]] = {}
        self.spent: LRUCache[object, float] = LRUCache(MOST_HOMES)
        self.homes: LRUCache[object, Worker] = LRUCache(MOST_HOMES)
        self.starting = asyncio.Lock()
        self.guarding: asyncio.Task[None] | None = None
        self.beside: set[asyncio.Task[None]] = set()
        self.open = True

    async def start(self) -> None:
        """See to it that all processes are there."""
        async with self.starting:
            while self.open and len(self.workers) < self.wanted:
                worker = Worker(self.lost)
                await worker.start(self.template, self.free)
                self.workers.append(worker)
            if self.guarding is None:
                self.guarding = asyncio.create_task(self.guard())
        self.hand_out()

    @property
    def line_length(self) -> int:
        """How many wishes wait."""
        return sum(map(len, self.waiting.values()))

    @property
    def busy(self) -> int:
        """How many processes are at work."""
        return sum(one.wish is not None for one in self.workers)

    @property
    def is_ready(self) -> bool:
        """Whether all processes are there."""
        return len(self.workers) >= self.wanted

    async def do(
        self,
        owner: object,
        work: Callable[Concatenate[Workplace, Given], Found],
        *given: Given.args,
        **named: Given.kwargs,
    ) -> Found:
        """Return what a function comes to that is called in another process, with its place there first.

        Raises what it raises, BusyError and WorkEndedError. Whoever gives up waiting gives up the work.
        """
        found: Found = await self.wait(owner, Errand(work, given, named))
        return found

    async def wait(self, owner: object, errand: Errand, tell: Callable[[float], None] | None = None) -> Any:
        """Return what an errand comes to; `tell` is told how much of it is done, 0 to 1."""
        given = replace(errand, most=self.seconds)
        wish = Wish(owner, given, asyncio.get_running_loop().create_future(), tell)
        line = self.waiting.setdefault(wish.owner, deque())
        if len(line) >= MOST_WAITING:
            raise BusyError("You wait for too much at once. Wait until some of it is done.")
        line.append(wish)
        try:
            if len(self.workers) < self.wanted:
                await self.start()
            self.hand_out()
            return await wish.answer
        finally:
            self.forget(wish)

    def forget(self, wish: Wish) -> None:
        """Take out a wish that is done or that nobody waits for any longer."""
        line = self.waiting.get(wish.owner)
        if line is not None and wish in line:
            line.remove(wish)
        if line is not None and not line:
            del self.waiting[wish.owner]
        for worker in self.workers:
            if worker.wish is wish:
                worker.stop()

    def hand_out(self) -> None:
        """Give the processes that are free what is next."""
        while (worker := self.idle()) is not None and (wish := self.next()) is not None:
            home = self.homes.get(wish.owner)
            if home is not None and home in self.workers and home.is_free:
                worker = home
            self.homes[wish.owner] = worker
            worker.do(wish)

    def idle(self) -> Worker | None:
        """Return the process that has been idle for longest, if there is one."""
        return min((one for one in self.workers if one.is_free), key=lambda one: one.began, default=None)

    def next(self) -> Wish | None:
        """Return the next wish: of those who wait, that of whoever has had least; long work never has all processes.

        What is patient comes after all that somebody waits for.
        """
        long = sum(one.wish is not None and (one.wish.errand.long or one.wish.errand.patient) for one in self.workers)
        room = long < self.wanted - 1
        for patient in (False, True):
            for owner in sorted(self.waiting, key=lambda one: self.spent.get(one, 0.0)):
                if self.at_home(owner) and not patient:
                    continue
                for wish in self.waiting[owner]:
                    if wish.errand.patient is patient and (room or not (wish.errand.long or patient)):
                        self.waiting[owner].remove(wish)
                        self.spent[owner] = max(self.spent.get(owner, 0.0), self.least())
                        return wish
        return None

    def at_home(self, owner: object) -> bool:
        """Tell whether somebody's wishes wait for the process that works for them: it may soon know what they need."""
        home = self.homes.get(owner)
        same = home is not None and home.wish is not None and home.wish.owner == owner and not home.wish.errand.long
        return home is not None and same and time.monotonic() - home.began < AT_HOME_SECONDS

    def least(self) -> float:
        """Return what those who wait or are served have had at least: nobody saves up a share by staying away."""
        busy = [one.wish.owner for one in self.workers if one.wish is not None]
        return min((self.spent.get(one, 0.0) for one in (*busy, *self.waiting)), default=0.0)

    def free(self, worker: Worker, wish: Wish, done: Done) -> None:
        """Hand over what an errand has come to, and give its process the next one."""
        self.count(worker, wish, type(done.error).__name__ if done.error else "done")
        if isinstance(done.error, LongError) and not wish.answer.done():
            wish.errand = replace(wish.errand, long=True)
            self.waiting.setdefault(wish.owner, deque()).appendleft(wish)
        elif isinstance(done.error, SoundMissingError) and not wish.answer.done():
            self.begin(self.bring(wish, done.error.keys))
        elif not wish.answer.done():
            if done.error is not None:
                wish.answer.set_exception(done.error)
            else:
                wish.answer.set_result(done.found)
        self.hand_out()

    def begin(self, work: Coroutine[Any, Any, None]) -> None:
        """Let something be done beside the errands."""
        task = asyncio.get_running_loop().create_task(work)
        self.beside.add(task)
        task.add_done_callback(self.beside.discard)

    async def bring(self, wish: Wish, keys: Collection[str]) -> None:
        """Let an errand be done again, with own sounds that its process has not; where they are gone, that is said."""
        try:
            if not wish.errand.sounds.keys().isdisjoint(keys):
                raise InnerToneError(TOO_MUCH_SOUND)
            found = await self.sounds(keys)
            if found.keys() < set(keys):
                raise InnerToneError(SOUND_GONE)
        except Exception as error:
            if not wish.answer.done():
                wish.answer.set_exception(error)
            return
        if not wish.answer.done():
            wish.errand = replace(wish.errand, sounds={**wish.errand.sounds, **found})
            self.waiting.setdefault(wish.owner, deque()).appendleft(wish)
            self.hand_out()

    def count(self, worker: Worker, wish: Wish, end: str) -> None:
        """Note what somebody has had of a process, and how it ended."""
        had = time.monotonic() - worker.began
        self.observe(wish.errand.kind, end, had)
        self.spent[wish.owner] = self.spent.get(wish.owner, 0.0) + max(LEAST_SECONDS, had)

    def lost(self, worker: Worker) -> None:
        """Put another process into the place of one that has ended."""
        if worker in self.workers:
            self.workers.remove(worker)
        wish = worker.wish
        if wish is not None:
            self.count(worker, wish, "ended")
        if wish is not None and not wish.answer.done():
            wish.answer.set_exception(WorkEndedError("This took more than there is for one request. Ask for less."))
        if self.open:
            self.begin(self.start())

    async def guard(self) -> None:
        """End processes that take too long or too much memory."""
        while True:
            await asyncio.sleep(GUARD_SECONDS)
            self.hand_out()
            for worker in self.workers:
                cpu, memory = worker.usage()
                if memory > MOST_MEMORY or (worker.wish is not None and cpu - worker.cpu > OVER * self.seconds):
                    log.warning("a process that works is ended: %.0f s, %.0f MB", cpu - worker.cpu, memory / 1e6)
                    worker.kill()

    def stop(self) -> None:
        """End everything."""
        self.open = False
        if self.guarding is not None:
            self.guarding.cancel()
        for worker in self.workers:
            worker.kill()
            if worker.reading is not None:
                worker.reading.cancel()
        self.workers.clear()
