"""A process that works: it does one errand after the other, and stops where nobody waits any longer."""

import ctypes
import gc
import logging
import os
import pickle
import resource
import threading
import time
from contextlib import suppress
from queue import Empty, SimpleQueue
from socket import socket

from inner_tone.core.errors import InnerToneError, RenderStoppedError
from inner_tone.core.modules.stock import bring
from inner_tone.formats.audio import samples_of
from inner_tone.work.errand import Cutting, Done, Errand, Stop, Workplace
from inner_tone.work.line import received, send
from inner_tone.work.studio import Studio

MOST_MEMORY = 1_500_000_000  # bytes of data of one process; what asks for more gets a MemoryError
GIVING_WAY = 5  # to the server, which everybody waits for, and to those that play
TELL_SECONDS = 0.2  # how often it says how far it is
REST_SECONDS = 15.0  # without an errand

log = logging.getLogger(__name__)


class Line:
    """The way to the process that sends errands; words to stop are heard while one is done."""

    def __init__(self, end: socket) -> None:
        self.end = end
        self.errands: SimpleQueue[Errand | None] = SimpleQueue()
        self.stopped = threading.Event()
        self.told = 0.0
        threading.Thread(target=self.hear, daemon=True).start()

    def hear(self) -> None:
        """Take what comes: an errand, or word that the one under way is not wanted any longer."""
        while (data := received(self.end)) is not None:
            message = pickle.loads(data)
            if isinstance(message, Stop):
                self.stopped.set()
            else:
                self.errands.put(message)
        self.stopped.set()
        self.errands.put(None)

    def next(self, studio: Studio) -> Errand | None:
        """Return the next errand; where none comes for a while, the memory is given back."""
        try:
            return self.errands.get(timeout=REST_SECONDS)
        except Empty:
            studio.rest()
            give_back()
            return self.errands.get()

    def say(self, message: object) -> None:
        """Send something back; where the server is gone, this is the end."""
        try:
            send(self.end, pickle.dumps(message, protocol=pickle.HIGHEST_PROTOCOL))
        except OSError:
            os._exit(0)

    def watch(self, part: float) -> None:
        """Say now and then how far it is; raises RenderStoppedError when nobody waits any longer."""
        if self.stopped.is_set():
            raise RenderStoppedError
        if time.monotonic() - self.told > TELL_SECONDS:
            self.told = time.monotonic()
            self.say(Cutting(part))


def work(end: socket) -> None:
    """Do errands until the other side is gone."""
    resource.setrlimit(resource.RLIMIT_DATA, (MOST_MEMORY, MOST_MEMORY))
    with suppress(OSError):
        os.nice(GIVING_WAY)
    line, studio = Line(end), Studio()
    gc.freeze()  # what was loaded before is shared with all that were forked from it, as long as nobody looks at it
    while (errand := line.next(studio)) is not None:
        line.stopped.clear()
        line.told = time.monotonic()
        line.say(done(errand, Workplace(studio, line.watch, errand.long, errand.most)))


def give_back() -> None:
    """Give the system back what is free in small pieces (malloc_trim(3)); where there is no such call, it stays."""
    with suppress(AttributeError):
        ctypes.CDLL(None).malloc_trim(0)


def done(errand: Errand, place: Workplace) -> Done:
    """Return what an errand comes to."""
    try:
        bring({key: samples_of(flac) for key, flac in errand.sounds.items()})
        return Done(found=errand.work(place, *errand.given, **errand.named))
    except InnerToneError as error:
        return Done(error=error)
    except MemoryError:
        return Done(error=InnerToneError("This needs more memory than there is for one request. Ask for less at once."))
    except Exception as error:
        log.exception("an errand has failed")
        return Done(error=failure(error))


def failure(error: Exception) -> RuntimeError:
    """Return an error that can be sent, whatever the one was that happened."""
    return RuntimeError(f"{type(error).__name__}: {error}")
