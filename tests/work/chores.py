"""Errands for tests, as other processes do them."""

import os
import socket
import time

from inner_tone.core.errors import DocumentError, InnerToneError, Problem
from inner_tone.work.errand import LongError, Workplace


def number(place: Workplace) -> int:
    """Return the number of the process."""
    return os.getpid()


def nap(place: Workplace, seconds: float, word: str = "") -> str:
    """Work for a while, and listen to who watches."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        place.watch(1.0 - (end - time.monotonic()) / seconds)
        time.sleep(0.01)
    return word


def deaf(place: Workplace, seconds: float) -> None:
    """Work for a while and listen to nobody."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        pass


def long_nap(place: Workplace, seconds: float) -> bool:
    """Find out that it takes long, and then take its time."""
    if not place.long:
        raise LongError("This takes its time.")
    nap(place, seconds)
    return place.long


def refuse(place: Workplace) -> None:
    """Refuse."""
    raise InnerToneError("Not this.")


def refuse_document(place: Workplace) -> None:
    """Refuse, and say where."""
    raise DocumentError([Problem("a.b", "wrong")])


def fail(place: Workplace) -> None:
    """Fail as what has an error in it."""
    raise ZeroDivisionError("a mistake of ours")


def die(place: Workplace) -> None:
    """End the process."""
    os._exit(3)


def grow(place: Workplace, size: int) -> int:
    """Ask for so much memory."""
    return len(bytearray(size))


def close(end: socket.socket) -> None:
    """Do nothing with an end of a line."""
    end.close()
