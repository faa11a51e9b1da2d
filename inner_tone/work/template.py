"""The template: a process that has everything loaded and does nothing, from which those that work or play are forked.

It is forked from the server before that has threads or connections, and loads what else it needs while the server
begins to answer; from then on another process is there within milliseconds. Where there are threads already, it is a
program of its own.
"""

import os
import pickle
import signal
import socket
import subprocess
import sys
import threading
from collections.abc import Callable, Sequence
from contextlib import suppress
from importlib import import_module
from typing import NoReturn

from inner_tone.core.engine.warm import warm

PID_BYTES = 4
MOST_ENDS = 8
LOADED = [
    "inner_tone.formats.numbers",
    "inner_tone.formats.picture",
    "inner_tone.live.painter",
    "inner_tone.live.worker",
    "inner_tone.work.errands",
    "inner_tone.work.worker",
]
LONGEST = 4096  # bytes of a function's name


class TemplateGoneError(RuntimeError):
    """The process that others are forked from has ended."""


class Template:
    """The process that others are forked from, as the server sees it. Safe to use from many threads."""

    def __init__(self) -> None:
        self._line: socket.socket | None = None
        self._guard = threading.Lock()
        self._stopped = False

    def start(self) -> None:
        """See to it that the process is there."""
        with self._guard:
            if self._line is not None or self._stopped:
                return
            ours, theirs = socket.socketpair()
            if threading.active_count() == 1:
                if os.fork() == 0:
                    try:
                        ours.close()
                        serve(theirs)
                    finally:  # whatever happens here must not go on in what the server was about to do
                        os._exit(1)
            else:
                theirs.set_inheritable(True)
                program = [sys.executable, "-m", "inner_tone.work.template", str(theirs.fileno())]
                subprocess.Popen(program, pass_fds=[theirs.fileno()])
            theirs.close()
            self._line = ours

    def fork(self, work: Callable[..., object], *ends: socket.socket) -> int:
        """Call a function in a new process with its ends of lines, which are closed here; returns the process's id.

        Where the template has ended, another one is started first. Raises TemplateGoneError if that ends too, or if
        it was stopped.
        """
        try:
            process = self._forked(work, ends) or self._forked(work, ends)
        finally:
            for end in ends:
                end.close()
        if process is None:
            raise TemplateGoneError("The process that others are forked from has ended.")
        return process

    def _forked(self, work: Callable[..., object], ends: Sequence[socket.socket]) -> int | None:
        """Return the id of a new process; nothing if the template has ended."""
        self.start()
        with self._guard:
            if self._line is None or self._stopped:
                return None
            try:
                socket.send_fds(self._line, [pickle.dumps(work)], [end.fileno() for end in ends])
                answer = self._line.recv(PID_BYTES)
            except OSError:
                answer = b""
            if len(answer) == PID_BYTES:
                return int.from_bytes(answer)
            self._line.close()
            self._line = None
            return None

    def stop(self) -> None:
        """End the process for good; those that were forked from it end when their lines are closed."""
        self._stopped = True
        line = self._line
        if line is not None:
            with suppress(OSError):
                line.shutdown(socket.SHUT_RDWR)  # who waits for an answer, for as long as all is loaded, need not
        with self._guard:
            if self._line is not None:
                self._line.close()
                self._line = None


def serve(line: socket.socket) -> NoReturn:
    """Load what is needed, then fork a process for each function that comes, until the other side is gone."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # a terminal sends it to all; the server says when it is the end
    for name in (signal.SIGTERM, signal.SIGHUP):
        signal.signal(name, signal.SIG_DFL)
    load()
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # the system tidies up after those that end
    while True:
        asked, numbers, _, _ = socket.recv_fds(line, LONGEST, MOST_ENDS)
        if not asked:
            os._exit(0)
        process = os.fork()
        if process == 0:
            line.close()
            be(pickle.loads(asked), [socket.socket(fileno=number) for number in numbers])
        for number in numbers:
            os.close(number)
        try:
            line.sendall(process.to_bytes(PID_BYTES))
        except OSError:  # the other side did not wait for it
            os._exit(0)


def be(work: Callable[..., object], ends: list[socket.socket]) -> NoReturn:
    """Do what this process is for, and end."""
    signal.signal(signal.SIGCHLD, signal.SIG_DFL)
    try:
        work(*ends)
    except BaseException:
        sys.excepthook(*sys.exc_info())
        os._exit(1)
    os._exit(0)


def load() -> None:
    """Load all that those who are forked need."""
    for name in LOADED:
        import_module(name)
    warm()


if __name__ == "__main__":
    serve(socket.socket(fileno=int(sys.argv[1])))
