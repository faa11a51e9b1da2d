"""Tasks end that are told to, also where a cancellation is lost on its way."""

import asyncio
import unittest
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from unittest.mock import patch

from inner_tone.store.database import connect, sessions
from inner_tone.work import ending
from inner_tone.work.jobs import Jobs
from inner_tone.work.node import Node
from inner_tone.work.template import Template
from inner_tone.work.workshop import Workshop

ENOUGH = 20.0  # seconds, after which it would never end


class Lost:
    """Something that is waited for, as Python 3.11 waits: what comes in the same moment as a cancellation hides it."""

    def __init__(self, times: int) -> None:
        self.times = times

    async def wait(self) -> None:
        try:
            await asyncio.sleep(3600)
        except asyncio.CancelledError:
            self.times -= 1
            if self.times < 0:
                raise

    @asynccontextmanager
    async def open(self) -> AsyncIterator[None]:
        await self.wait()
        yield


async def ended(lost: Lost) -> None:
    """Go on for ever, whatever is lost."""
    while True:
        await lost.wait()


class EndingTest(unittest.IsolatedAsyncioTestCase):
    def setUp(self) -> None:
        again = patch.object(ending, "AGAIN_SECONDS", 0.05)
        again.start()
        self.addCleanup(again.stop)

    async def test_python_loses_a_cancellation(self) -> None:
        """Where this fails, Python has been mended, and `end` is needed no longer."""
        there = asyncio.get_running_loop().create_future()
        task = asyncio.create_task(asyncio.wait_for(there, 10))
        await asyncio.sleep(0)
        there.set_result("there")
        task.cancel()
        self.assertEqual(await task, "there")

    async def test_every_task_ends_however_often_it_is_lost(self) -> None:
        tasks = [asyncio.create_task(ended(Lost(times))) for times in range(4)]
        await asyncio.sleep(0)
        async with asyncio.timeout(ENOUGH):
            await ending.end(tasks)
        self.assertTrue(all(one.cancelled() for one in tasks))

    async def test_one_that_fails_while_it_ends_hinders_nobody(self) -> None:
        async def fail() -> None:
            try:
                await asyncio.sleep(3600)
            finally:
                raise OSError("gone")

        tasks = [asyncio.create_task(fail()), asyncio.create_task(ended(Lost(1)))]
        await asyncio.sleep(0)
        async with asyncio.timeout(ENOUGH):
            await ending.end(tasks)
        self.assertIsInstance(tasks[0].exception(), OSError)

    async def test_nothing_to_end(self) -> None:
        await ending.end([])

    async def test_jobs_that_are_just_beginning_end(self) -> None:
        engine = connect("postgresql+psycopg://nobody@127.0.0.1:9/none")
        self.addCleanup(engine.dispose)
        jobs = Jobs(Node(sessions(engine), Workshop(Template(), 1, 1.0)), {}, 1)
        with (
            patch.object(jobs.app, "open_async", Lost(1).open),
            patch.object(jobs, "_keep_house", Lost(0).wait),
            patch.object(jobs, "_do_jobs", Lost(0).wait),
        ):
            jobs.start()
            await asyncio.sleep(0)
            async with asyncio.timeout(ENOUGH):
                await jobs.stop()


if __name__ == "__main__":
    unittest.main()
