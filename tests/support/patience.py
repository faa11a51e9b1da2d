"""Waiting for something that happens elsewhere."""

import time
from collections.abc import Callable
from typing import TypeVar

FIRST_PAUSE_S, LONGEST_PAUSE_S, LONGER = 0.03, 0.1, 1.2  # to look costs a page and a driver time, too

Found = TypeVar("Found")


def wait_for(look: Callable[[], Found | None], seconds: float = 20.0, what: str = "it") -> Found:
    """Return what `look` returns as soon as it is true; raises AssertionError after a while."""
    deadline, pause = time.monotonic() + seconds, FIRST_PAUSE_S
    while True:
        found = look()
        if found:
            return found
        if time.monotonic() > deadline:
            raise AssertionError(f"Waited {seconds:g} s for {what} in vain.")
        time.sleep(pause)
        pause = min(LONGEST_PAUSE_S, pause * LONGER)
