"""Hands tests out to processes that are forked from this one, in which all that they need is loaded already."""

import multiprocessing
import os
import signal
import sys
import time
import traceback
import unittest
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from multiprocessing.connection import Connection, wait
from multiprocessing.context import ForkProcess
from pathlib import Path
from typing import Any, TypeVar

from tests.support.finding import Piece, class_of
from tests.support.lasting import LASTING

FORKS = multiprocessing.get_context("fork")
PASSED, FAILED, SKIPPED = "passed", "failed", "skipped"
Test = TypeVar("Test", bound=unittest.TestCase)


@dataclass(frozen=True)
class Told:
    """How a test, or what its class begins or ends with, has come out; how long it took; why, if it has not passed."""

    test: str
    owner: str
    outcome: str
    seconds: float
    why: str = ""


class Results(unittest.TestResult):
    """Tells of each test as soon as it is over."""

    def __init__(self, tell: Callable[[Told], None]) -> None:
        super().__init__()
        self.tell = tell
        self.buffer = True
        self.begun = time.monotonic()
        self.bad: list[str] = []
        self.skip = ""

    def startTest(self, test: unittest.TestCase) -> None:
        super().startTest(test)
        self.bad, self.skip = [], ""

    def stopTest(self, test: unittest.TestCase) -> None:
        outcome = FAILED if self.bad else SKIPPED if self.skip else PASSED
        printed = sys.stdout.getvalue() if outcome == FAILED and hasattr(sys.stdout, "getvalue") else ""
        super().stopTest(test)
        self.note(test.id(), class_of(test), outcome, "\n".join([*self.bad, printed]) or self.skip)

    def note(self, test: str, owner: str, outcome: str, why: str) -> None:
        now = time.monotonic()
        self.tell(Told(test, owner, outcome, now - self.begun, why.strip()))
        self.begun = now

    def addError(self, test: Any, err: Any) -> None:
        if isinstance(test, unittest.TestCase):
            self.bad.append(self.said(err, test))
        else:  # what a class begins or ends with
            self.note(test.id(), test.id().partition("(")[2].rstrip(")"), FAILED, self.said(err, test))

    def addFailure(self, test: Any, err: Any) -> None:
        self.bad.append(self.said(err, test))

    def addSubTest(self, test: Any, subtest: Any, err: Any) -> None:
        if err is not None:
            self.bad.append(f"{subtest}\n{self.said(err, test)}")

    def addSkip(self, test: Any, reason: str) -> None:
        if isinstance(test, unittest.TestCase):
            self.skip = reason or "skipped"
        else:
            self.note(test.id(), test.id().partition("(")[2].rstrip(")"), SKIPPED, reason)

    def addUnexpectedSuccess(self, test: Any) -> None:
        self.bad.append("It was expected to fail.")

    def said(self, err: Any, test: Any) -> str:
        return str(self._exc_info_to_string(err, test))  # type: ignore[attr-defined]


@dataclass
class Worker:
    """A process that runs pieces of work, and the one that it has."""

    process: ForkProcess
    line: Connection
    piece: Piece | None = None
    begun: set[str] = field(default_factory=set)


def told(work: Sequence[Piece], count: int, log: Path) -> Iterator[Told]:
    """Run pieces of work in so many processes, each taking the next one that is left; tell how each test comes out.

    What the processes print themselves goes to a file. One that dies has failed at what it was doing, and is replaced.
    """
    left = list(enumerate(work))[::-1]
    workers = [begun(work, log) for _ in range(min(count, len(left)))]
    try:
        while workers:
            ready = wait([one.line for one in workers])
            for worker in [one for one in workers if one.line in ready]:
                try:
                    word = worker.line.recv()
                except EOFError:
                    worker.process.join()
                    workers.remove(worker)
                    if worker.piece is not None:
                        why = f"The process that ran it has ended with {worker.process.exitcode}."
                        yield Told(worker.piece.name, class_of(worker.piece.tests[0]), FAILED, 0.0, why)
                    if left:
                        workers.append(begun(work, log))
                    continue
                if isinstance(word, Told):
                    yield word
                elif left:
                    place, worker.piece = left.pop()
                    worker.line.send(place)
                else:
                    worker.piece = None
                    worker.line.send(None)
    finally:
        for worker in workers:
            worker.process.terminate()
        for worker in workers:
            worker.process.join(20)


def begun(work: Sequence[Piece], log: Path) -> Worker:
    """Return a process that asks for work."""
    ours, theirs = FORKS.Pipe()
    process = FORKS.Process(target=run, args=(work, theirs, ours, log))
    process.start()
    theirs.close()
    return Worker(process, ours)


def run(work: Sequence[Piece], line: Connection, other: Connection, log: Path) -> None:
    """Run pieces of work until there is none."""
    other.close()
    LASTING.pop_all()  # what lasts as long as the one that this was forked from is its own
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # a terminal sends it to all; the one that hands out ends the others
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(1))
    out = os.open(log, os.O_WRONLY | os.O_CREAT | os.O_APPEND)
    os.dup2(out, 1)
    os.dup2(out, 2)
    try:
        while True:
            line.send(None)
            place = line.recv()
            if place is None:
                break
            unittest.TestSuite(work[place].tests).run(Results(line.send))
    except (EOFError, BrokenPipeError):
        pass
    except Exception:
        traceback.print_exc()
    finally:
        LASTING.close()
