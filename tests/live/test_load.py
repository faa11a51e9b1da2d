"""How busy a process that plays is: it is told again and again, so whoever was refused can come back."""

import asyncio
import time
import unittest
from typing import cast

from inner_tone.live.frames import SHARE
from inner_tone.live.worker import LOAD_S, Worker


class Written:
    """Takes what is written to the server."""

    def __init__(self) -> None:
        self.frames: list[bytes] = []

    def write(self, data: bytes) -> None:
        self.frames.append(data)


class LoadTest(unittest.IsolatedAsyncioTestCase):
    async def test_load_of_somebody_who_has_gone_falls_to_nothing(self) -> None:
        """Nobody asks for samples any longer; who waits for room learns that there is some."""
        written = Written()
        worker = Worker(cast(asyncio.StreamWriter, written), cast(asyncio.StreamWriter, written))
        now = time.perf_counter()
        worker.load.note(now - LOAD_S, now)
        telling = asyncio.create_task(worker.tell_load())
        await asyncio.sleep(2.6 * LOAD_S)
        telling.cancel()
        shares = [SHARE.unpack(data[-SHARE.size :])[0] for data in written.frames]
        self.assertGreaterEqual(len(shares), 2)
        self.assertEqual(shares[-1], 0.0)


if __name__ == "__main__":
    unittest.main()
