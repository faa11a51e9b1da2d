"""Ends tasks for good."""

import asyncio
from collections.abc import Collection
from typing import Any

AGAIN_SECONDS = 3.0  # longer than a task may take to hand back what it does


async def end(tasks: Collection[asyncio.Task[Any]]) -> None:
    """Cancel tasks until all of them have ended; what they ended with is nobody's.

    Once is not enough: where a task just gets what it waits for with `asyncio.wait_for`, the cancellation is lost in
    Python before 3.12 (https://github.com/python/cpython/issues/86296), and it goes on as if nothing had been said.
    """
    pending = set(tasks)
    while pending:
        for task in pending:
            task.cancel()
        _, pending = await asyncio.wait(pending, timeout=AGAIN_SECONDS)
