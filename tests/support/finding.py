"""Finds tests as unittest does, and cuts them into pieces of work: classes, or single tests of those that are long."""

import re
import unittest
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from random import Random

ROOT = Path(__file__).resolve().parents[2]
TESTS = ROOT / "tests"
LONG_S = 20.0  # a class that takes longer is handed out test by test, if its tests share nothing
FEW = 2  # tests of one class that is long because they work something out together
UNKNOWN_S = 5.0  # so long is what was never timed: it begins among the first
Seconds = dict[str, float]


@dataclass(frozen=True)
class Piece:
    """Tests that run in one process, one after the other, under what they are called by."""

    name: str
    tests: tuple[unittest.TestCase, ...]
    seconds: float


def found(words: Sequence[str]) -> list[unittest.TestCase]:
    """Return all tests, or those whose names contain one of the words; only their modules are imported."""
    loader = unittest.defaultTestLoader
    tests = [one for module in modules(words) for one in leaves(loader.loadTestsFromName(module))]
    return [one for one in tests if not words or is_broken(one) or any(word in one.id() for word in words)]


def modules(words: Sequence[str]) -> list[str]:
    """Return the names of the test modules that may have a test with one of the words in its name."""
    files = sorted(TESTS.glob("**/test_*.py"))
    named = {".".join(file.relative_to(ROOT).with_suffix("").parts): file for file in files}
    return [name for name, file in named.items() if not words or any(may_have(name, file, word) for word in words)]


def may_have(name: str, file: Path, word: str) -> bool:
    """Tell whether a test in a file could have a word in its name."""
    if word in name or word.startswith(f"{name}."):
        return True
    last = re.escape(word.rsplit(".", 1)[-1])
    return re.search(rf"(class|def) \w*{last}", file.read_text()) is not None


def leaves(suite: unittest.TestSuite) -> Iterator[unittest.TestCase]:
    """Yield each test of a suite."""
    for one in suite:
        if isinstance(one, unittest.TestSuite):
            yield from leaves(one)
        else:
            yield one


def is_broken(test: unittest.TestCase) -> bool:
    """Tell whether this stands for a module that cannot be imported."""
    return type(test).__module__ == "unittest.loader"


def class_of(test: unittest.TestCase) -> str:
    """Return the full name of a test's class."""
    return test.id() if is_broken(test) else f"{type(test).__module__}.{type(test).__qualname__}"


def pieces(tests: Sequence[unittest.TestCase], known: Seconds, order: Random | None) -> list[Piece]:
    """Return the work, what takes longest first; or in an order by chance, the tests of a class too."""
    classes: dict[str, list[unittest.TestCase]] = {}
    for one in tests:
        classes.setdefault(class_of(one), []).append(one)
    cut = [piece for name, members in classes.items() for piece in cut_up(name, members, known, order)]
    if order is None:
        return sorted(cut, key=lambda one: -one.seconds)
    order.shuffle(cut)
    return cut


def cut_up(name: str, members: list[unittest.TestCase], known: Seconds, order: Random | None) -> Iterator[Piece]:
    """Yield the pieces of a class."""
    seconds = known.get(name, UNKNOWN_S)
    shares = type(members[0]).setUpClass.__func__ is not unittest.TestCase.setUpClass.__func__  # type: ignore[attr-defined]
    if order is not None:
        order.shuffle(members)
    if len(members) > FEW and not shares and (seconds > LONG_S or (order is not None and order.random() < 0.5)):
        for one in members:
            yield Piece(one.id(), (one,), seconds / len(members))
    else:
        yield Piece(name, tuple(members), seconds)
