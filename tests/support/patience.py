"""Waiting for something that happens elsewhere."""

import time
from collections.abc import Callable
from typing import TypeVar

Found = TypeVar("Found")


def wait_for(look: Callable[[], Found | None], seconds: float = 20.0, what: str = "it") -> Found:
    """Return what `look` returns as soon as it is true; raises AssertionError after a while."""
    deadline = time.monotonic() + seconds
    while True:
        found = look()
        if found:
            return found
        if time.monotonic() > deadline:
            raise AssertionError(f"Waited {seconds:g} s for {what} in vain.")
        time.sleep(0.03)
