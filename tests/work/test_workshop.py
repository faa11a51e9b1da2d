"""Processes that work: what they find comes back, everybody has a share, and nothing can stop them for others."""

import asyncio
import socket
import threading
import time
import unittest
from collections.abc import Awaitable

from inner_tone.core.engine.render import render
from inner_tone.core.errors import DocumentError, InnerToneError, RenderStoppedError, TapError
from inner_tone.demo.foghorn import BLASTS, DISTANT
from inner_tone.formats.audio import stereo, wav_bytes
from inner_tone.work import errands
from inner_tone.work.errand import BusyError, WorkEndedError
from inner_tone.work.shared import Shared, Tell
from inner_tone.work.template import Template, TemplateGoneError
from inner_tone.work.workshop import MOST_MEMORY, MOST_WAITING, Workshop
from tests.work import chores


class TemplateTest(unittest.TestCase):
    def test_who_stops_it_does_not_wait_until_it_has_loaded(self) -> None:
        template = Template()
        told: list[TemplateGoneError] = []

        def ask() -> None:
            """Ask where there are threads, so that it is a program that loads for seconds."""
            _, end = socket.socketpair()
            try:
                template.fork(chores.close, end)
            except TemplateGoneError as error:
                told.append(error)

        asking = threading.Thread(target=ask)
        asking.start()
        time.sleep(0.2)
        template.stop()
        asking.join(60)
        self.assertTrue(told)


class WorkTest(unittest.IsolatedAsyncioTestCase):
    template: Template

    @classmethod
    def setUpClass(cls) -> None:
        cls.template = Template()
        cls.addClassCleanup(cls.template.stop)

    async def asyncSetUp(self) -> None:
        self.workshop = Workshop(self.template, 2)
        await self.workshop.start()
        self.addCleanup(self.workshop.stop)

    async def pids(self) -> set[int]:
        """Return the numbers of the processes, each of which has to do something for it."""
        return set(await asyncio.gather(*(self.workshop.do(n, chores.number) for n in range(12))))

    async def until(self, there: Awaitable[bool] | None = None, seconds: float = 10.0) -> None:
        """Wait until all processes are there and idle."""
        end = time.monotonic() + seconds
        while len(self.workshop.workers) < 2 or any(one.wish for one in self.workshop.workers):
            self.assertLess(time.monotonic(), end, "The processes do not come back.")
            await asyncio.sleep(0.01)

    async def test_what_is_found_and_what_is_refused_come_back(self) -> None:
        done = render(DISTANT, BLASTS)
        self.assertEqual(
            await self.workshop.do("anna", errands.sound, DISTANT, BLASTS), wav_bytes(stereo(done), done.rate)
        )
        with self.assertRaises(TapError):
            await self.workshop.do("anna", errands.tapped, DISTANT, BLASTS, "bell.nothing", "wav")
        with self.assertRaisesRegex(InnerToneError, "Not this"):
            await self.workshop.do("anna", chores.refuse)
        with self.assertRaises(DocumentError) as caught:
            await self.workshop.do("anna", chores.refuse_document)
        self.assertEqual([(one.path, one.message) for one in caught.exception.problems], [("a.b", "wrong")])
        with self.assertRaisesRegex(RuntimeError, "ZeroDivisionError"):
            await self.workshop.do("anna", chores.fail)
        self.assertEqual(await self.workshop.do("anna", chores.nap, 0.0, "goes on"), "goes on")

    async def test_who_asks_again_comes_to_the_process_that_remembers(self) -> None:
        first = await self.workshop.do("anna", chores.number)
        await self.workshop.do("bert", chores.number)
        for _ in range(5):
            self.assertEqual(await self.workshop.do("anna", chores.number), first)

    async def test_what_nobody_waits_for_is_stopped_whether_it_listens_or_not(self) -> None:
        for errand in (chores.nap, chores.deaf):
            waiting = [asyncio.ensure_future(self.workshop.do("anna", errand, 60.0)) for _ in range(30)]
            await asyncio.sleep(0.2)
            for one in waiting:
                one.cancel()
            start = time.monotonic()
            await asyncio.gather(*waiting, return_exceptions=True)
            self.assertEqual(await self.workshop.do("bert", chores.nap, 0.0, "free"), "free")
            self.assertLess(time.monotonic() - start, 10.0)  # not the minute that they would have taken
            await self.until()

    async def test_nobody_is_given_to_a_process_that_is_being_ended(self) -> None:
        given_up = [asyncio.ensure_future(self.workshop.do(owner, chores.deaf, 0.4)) for owner in ("anna", "carl")]
        await asyncio.sleep(0.2)
        mine = asyncio.ensure_future(self.workshop.do("bert", chores.nap, 0.0, "mine"))
        for one in given_up:
            one.cancel()
        await asyncio.gather(*given_up, return_exceptions=True)
        time.sleep(0.6)  # meanwhile both are done, and it is time to end them: the loop sees both at once
        self.assertEqual(await mine, "mine")

    async def test_the_twentieth_wish_of_one_does_not_delay_the_first_of_another(self) -> None:
        order: list[str] = []

        async def wish(owner: str, number: int) -> None:
            order.append(await self.workshop.do(owner, chores.nap, 0.05, f"{owner}{number}"))

        many = [asyncio.ensure_future(wish("a", number)) for number in range(20)]
        await asyncio.sleep(0.02)
        await asyncio.gather(wish("b", 0), wish("c", 0), *many)
        self.assertLess(order.index("b0"), 5)
        self.assertLess(order.index("c0"), 5)

    async def test_who_stayed_away_has_saved_up_nothing(self) -> None:
        order: list[str] = []

        async def wish(owner: str) -> None:
            order.append(await self.workshop.do(owner, chores.nap, 0.05, owner))

        for _ in range(3):
            await wish("a")
        await asyncio.gather(*(wish(owner) for _ in range(8) for owner in ("a", "b")))
        last = order[3:]
        self.assertGreater(last[:8].count("a"), 1)

    async def test_long_work_waits_in_a_line_of_its_own(self) -> None:
        long = [asyncio.ensure_future(self.workshop.do(name, chores.long_nap, 1.5)) for name in "abc"]
        await asyncio.sleep(0.1)
        start = time.monotonic()
        for _ in range(5):
            await self.workshop.do("d", chores.nap, 0.01)
        self.assertFalse(any(one.done() for one in long))
        self.assertLess(time.monotonic() - start, 1.4)
        self.assertEqual(await asyncio.gather(*long), [True, True, True])

    async def test_process_that_ends_is_replaced_and_says_so(self) -> None:
        before = await self.pids()
        for _ in range(3):
            with self.assertRaises(WorkEndedError):
                await self.workshop.do("anna", chores.die)
        await self.until()
        self.assertFalse(before == await self.pids())
        self.assertEqual(await self.workshop.do("anna", chores.nap, 0.0, "goes on"), "goes on")

    async def test_too_much_memory_is_refused_with_a_sentence(self) -> None:
        with self.assertRaisesRegex(InnerToneError, "memory"):
            await self.workshop.do("anna", chores.grow, 4 * MOST_MEMORY)
        self.assertEqual(await self.workshop.do("anna", chores.grow, 1_000_000), 1_000_000)

    async def test_nobody_waits_for_more_than_anybody_may(self) -> None:
        waiting = [asyncio.ensure_future(self.workshop.do("a", chores.nap, 5.0)) for _ in range(MOST_WAITING + 2)]
        await asyncio.sleep(0.1)
        with self.assertRaises(BusyError):
            await self.workshop.do("a", chores.nap, 0.0)
        self.assertEqual(await asyncio.wait_for(self.beside(), 20), "b")
        for one in waiting:
            one.cancel()
        await asyncio.gather(*waiting, return_exceptions=True)

    async def beside(self) -> str:
        """Return what somebody else is given, as soon as one of the others is done."""
        return await self.workshop.do("b", chores.nap, 0.0, "b")


class SharedTest(unittest.IsolatedAsyncioTestCase):
    async def asyncSetUp(self) -> None:
        self.shared = Shared(1000)
        self.begun = 0
        self.stopped = 0
        self.gate = asyncio.Event()

    async def work(self, tell: Tell) -> bytes:
        self.begun += 1
        tell(0.5)
        try:
            await self.gate.wait()
        except asyncio.CancelledError:
            self.stopped += 1
            raise
        return b"found"

    def ask(self, ticket: str | None = None, key: str = "one") -> asyncio.Future[bytes]:
        return asyncio.ensure_future(self.shared.of(key, self.work, ticket))

    async def test_it_is_worked_out_once_and_remembered(self) -> None:
        asking = [self.ask() for _ in range(9)]
        await asyncio.sleep(0.01)
        self.gate.set()
        self.assertEqual(await asyncio.gather(*asking), [b"found"] * 9)
        self.assertEqual(await self.ask(), b"found")
        self.assertEqual(self.begun, 1)

    async def test_it_goes_on_until_the_last_has_gone(self) -> None:
        asking = [self.ask(), self.ask()]
        await asyncio.sleep(0.01)
        asking[0].cancel()
        await asyncio.sleep(0.01)
        self.assertEqual(self.stopped, 0)
        asking[1].cancel()
        await asyncio.sleep(0.01)
        self.assertEqual(self.stopped, 1)
        again = self.ask()
        await asyncio.sleep(0.01)
        self.gate.set()
        self.assertEqual(await again, b"found")

    async def test_ticket_tells_and_stops_its_own_wish_alone(self) -> None:
        mine, theirs = self.ask("mine"), self.ask("theirs")
        await asyncio.sleep(0.01)
        self.assertEqual(self.shared.progress("mine"), 0.5)
        self.assertIsNone(self.shared.progress("nobody's"))
        self.shared.stop("mine")
        with self.assertRaises(RenderStoppedError):
            await mine
        self.assertIsNone(self.shared.progress("mine"))
        self.gate.set()
        self.assertEqual(await theirs, b"found")

    async def test_what_failed_is_tried_again(self) -> None:
        async def fail(tell: Tell) -> bytes:
            raise InnerToneError("Not this.")

        for _ in range(2):
            with self.assertRaises(InnerToneError):
                await self.shared.of("one", fail)
        self.gate.set()
        self.assertEqual(await self.ask(), b"found")

    async def test_what_is_larger_than_its_memory_is_not_remembered(self) -> None:
        async def much(tell: Tell) -> bytes:
            self.begun += 1
            return bytes(2000)

        for _ in range(2):
            self.assertEqual(len(await self.shared.of("much", much)), 2000)
        self.assertEqual(self.begun, 2)


if __name__ == "__main__":
    unittest.main()
