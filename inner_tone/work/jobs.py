"""Jobs: asked for at one node, done at whichever has room, told of at all. Procrastinate hands them out.

https://procrastinate.readthedocs.io/. `docs/operations.md` tells why it was taken. A job whose node dies is done again
by another one, so what it has come to is written down in one transaction with its end: once, or not at all.
"""

import asyncio
import logging
import uuid
from collections.abc import Awaitable, Callable, Mapping
from contextlib import suppress
from dataclasses import dataclass
from typing import Any

import procrastinate
import psycopg
from procrastinate.exceptions import AlreadyEnqueued
from procrastinate.exceptions import ConnectorException as JobsGoneError
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from inner_tone.core.errors import DocumentError, InnerToneError
from inner_tone.store import answers, renders, tries
from inner_tone.store import jobs as store
from inner_tone.store.models import Json
from inner_tone.work.ending import end
from inner_tone.work.errand import Errand
from inner_tone.work.node import Node
from inner_tone.work.wire import Word

SCHEMA = "-c search_path=procrastinate,public"
HEARTBEAT_SECONDS = 2.0
DEAD_SECONDS = 8.0  # without a heartbeat
GRACE_SECONDS = 2.0  # for what runs when the node is told to stop; then it is handed back
HOUSEKEEPING_SECONDS = 10.0
AGAIN_SECONDS = 1.0
STEPS_AT_ONCE = 50
MOST_TIMES = 5  # a job that ends five nodes is at fault itself
STOPPED = "stop job"

log = logging.getLogger(__name__)

Finish = Callable[[Session], Json]  # writes down what a job has come to, and returns what is told of it


@dataclass(frozen=True)
class Running:
    """A job that is done: what was wished, by whom, and the node that does it."""

    node: Node
    id: uuid.UUID
    account_id: uuid.UUID
    wish: Json

    async def do(self, work: Callable[..., Any], *given: object) -> Any:
        """Return what an errand comes to that waits for all that somebody waits for."""
        return await self.node.workshop.wait(self.account_id, Errand(work, given, patient=True), self.note)

    def note(self, part: float) -> None:
        """Note how much is done, 0 to 1, without waiting for it."""
        self.node.later(self.tell(part))

    async def tell(self, part: float) -> None:
        """Note how much is done, 0 to 1, and wake who waits for it."""
        await self.node.stored(lambda session: store.tell(session, self.id, part))
        await self.node.wire.say("news", key=f"job {self.id}")


JobKind = Callable[[Running], Awaitable[Finish]]


class Jobs:
    """A node's way to the jobs: it asks for them, and does so many at once."""

    def __init__(self, node: Node, kinds: Mapping[str, JobKind], at_once: int) -> None:
        self.node, self.kinds, self.at_once = node, kinds, at_once
        connector = procrastinate.PsycopgConnector(
            conninfo=node.wire.database, kwargs={"options": SCHEMA}, min_size=1, max_size=4, timeout=5.0
        )
        self.app = procrastinate.App(connector=connector)
        retry = procrastinate.RetryStrategy(max_attempts=MOST_TIMES)
        self.told = self.app.task(name="do", retry=retry)(self.do)
        self.running: dict[uuid.UUID, asyncio.Task[Any]] = {}
        self.tasks: list[asyncio.Task[None]] = []
        node.wire.on(STOPPED, self._stop)

    def start(self) -> None:
        """Begin to do jobs, and to keep house."""
        self.tasks = [asyncio.create_task(self._work())]

    async def stop(self) -> None:
        """Hand back what runs, and end."""
        await end(self.tasks)

    async def _work(self) -> None:
        """Do jobs until told to stop, whatever becomes of the database."""
        while True:
            try:
                async with self.app.open_async():
                    await asyncio.gather(self._keep_house(), *([self._do_jobs()] if self.at_once else []))
            except (psycopg.Error, JobsGoneError, SQLAlchemyError, TimeoutError) as error:
                log.warning("jobs wait for the database: %s", str(error).strip().splitlines()[:1])
            await asyncio.sleep(AGAIN_SECONDS)

    async def _do_jobs(self) -> None:
        """Do what is handed out."""
        await self.app.run_worker_async(
            concurrency=self.at_once,
            install_signal_handlers=False,
            delete_jobs="always",
            update_heartbeat_interval=HEARTBEAT_SECONDS,
            stalled_worker_timeout=DEAD_SECONDS,
            shutdown_graceful_timeout=GRACE_SECONDS,
        )

    async def ask(self, account_id: uuid.UUID, kind: str, words: str, wish: Json) -> uuid.UUID:
        """Write down a job and let a node do it; raises TooManyJobsError."""
        job_id = await self.node.stored(lambda session: store.ask(session, account_id, kind, words, wish).id)
        await self._hand_out(job_id)
        return job_id

    async def _hand_out(self, job_id: uuid.UUID) -> None:
        """Let a node do a job; one that is handed out already is not handed out twice."""
        with suppress(AlreadyEnqueued, JobsGoneError, psycopg.Error, TimeoutError):  # house is kept: it is not lost
            await self.told.configure(queueing_lock=str(job_id)).defer_async(job=str(job_id))

    async def cancel(self, account_id: uuid.UUID, job_id: uuid.UUID) -> None:
        """Stop a job of somebody, at whichever node; one that has ended stays as it is. Raises NotFoundError."""

        def stopped(session: Session) -> None:
            store.job_of(session, account_id, job_id)
            store.end(session, job_id, "stopped")

        await self.node.stored(stopped)
        await self.node.wire.say(STOPPED, job=str(job_id))

    def _stop(self, word: Word) -> None:
        """Stop a job that runs here."""
        task = self.running.get(uuid.UUID(word["job"]))
        if task is not None:
            task.cancel()

    async def do(self, job: str) -> None:
        """Do a job, and write down how it has ended."""
        job_id = uuid.UUID(job)
        begun = await self.node.stored(lambda session: store.begin(session, job_id))
        if begun is None:
            return
        running = Running(self.node, job_id, begun.account_id, begun.wish)
        task = self.running[job_id] = asyncio.ensure_future(self._finished(running, begun.kind))
        try:
            await asyncio.wait({task})
        except asyncio.CancelledError:  # the node ends: another one does it
            task.cancel()
            raise
        finally:
            del self.running[job_id]
            await self.node.wire.say("news", key=f"job {job_id}")

    async def _finished(self, running: Running, kind: str) -> None:
        """Do a job to its end."""
        try:
            finish = await self.kinds[kind](running)

            def written(session: Session) -> None:
                if store.held(session, running.id):
                    store.end(session, running.id, "done", finish(session))

            await self.node.stored(written)
        except InnerToneError as error:
            await self._failed(running, problem_of(error))
        except Exception:
            log.exception("a job has failed")
            await self._failed(running, {"detail": "This could not be done. Whoever runs the application can see why."})

    async def _failed(self, running: Running, why: Json) -> None:
        """Write down why a job has come to nothing."""
        await self.node.stored(lambda session: store.end(session, running.id, "failed", why=why))

    async def _keep_house(self) -> None:
        """Give the jobs of dead nodes to others, hand out what was lost, and clear away what is old."""
        while True:
            for stalled in await self.app.job_manager.get_stalled_jobs(seconds_since_heartbeat=DEAD_SECONDS):
                await self.app.job_manager.retry_job(stalled)
            for job_id in await self.node.stored(store.lost):
                await self._hand_out(job_id)
            while await self.node.stored(lambda session: renders.follow_engine(session, STEPS_AT_ONCE)):
                pass
            await self.node.stored(clear_away)
            await asyncio.sleep(HOUSEKEEPING_SECONDS)


def clear_away(session: Session) -> None:
    """Clear away what nobody needs any longer."""
    answers.clear_answers(session)
    renders.clear_old(session)
    store.clear(session)
    tries.clear_old(session)


def problem_of(error: InnerToneError) -> Json:
    """Return why a job has come to nothing, with the places of a document that are wrong."""
    places = error.problems if isinstance(error, DocumentError) else ()
    return {
        "detail": str(error),
        "problems": [{"path": one.path, "message": one.message, "remedy": one.remedy} for one in places],
    }
