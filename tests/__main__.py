"""Runs all tests, or those whose names contain one of the words given; ends with a line that counts them.

All of them run in two processes, those in the browser beside the others, since they mostly wait. What fails on a
machine as busy as that is run once more when all else is done: it counts as passed if it passes then, and is named at
the end.
"""

import os
import re
import subprocess
import sys
import time
import unittest
from collections.abc import Iterator

BROWSER, OTHERS = "browser", "others"
COUNTED = re.compile(r"^(\d+) passed, (\d+) failed", re.MULTILINE)
FAILED = re.compile(r"^failed: (\S+)", re.MULTILINE)
SLOWEST = 10


class Timed(unittest.TextTestResult):
    """What came of the tests, and how long each took in seconds."""

    def startTest(self, test: unittest.TestCase) -> None:
        self.began = time.monotonic()
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:
        self.took = getattr(self, "took", {})
        self.took[test.id()] = time.monotonic() - self.began
        super().stopTest(test)


def cases(suite: unittest.TestSuite) -> Iterator[unittest.TestCase]:
    """Return the tests of a suite, one after the other."""
    for one in suite:
        if isinstance(one, unittest.TestSuite):
            yield from cases(one)
        else:
            yield one


def name_of(test: unittest.TestCase) -> str:
    """Return the name of a test without its sub-test, or of the class that could not be set up."""
    in_class = re.match(r"(?:setUp|tearDown)Class \((.*)\)", test.id())
    return in_class[1] if in_class else test.id().split(" ")[0]


def run(words: list[str], part: str | None) -> int:
    """Run the tests of a part, or those that the words choose, in this process."""
    loader = unittest.TestLoader()
    if words:
        loader.testNamePatterns = [f"*{word}*" for word in words]
    suite = loader.discover("tests", top_level_dir=".")
    if part:
        wanted = [one for one in cases(suite) if one.id().startswith("tests.browser.") == (part == BROWSER)]
        suite = unittest.TestSuite(wanted)
    result = unittest.TextTestRunner(verbosity=1, resultclass=Timed).run(suite)  # type: ignore[arg-type]
    assert isinstance(result, Timed)
    for name in sorted(result.took, key=result.took.__getitem__, reverse=True)[:SLOWEST] if part else ():
        print(f"{result.took[name]:6.1f} s  {name}")
    broken = [test for test, _ in (*result.failures, *result.errors)] + result.unexpectedSuccesses
    failed = sorted({name_of(test) for test in broken})
    for name in failed:
        print("failed:", name)
    skipped = f", {len(result.skipped)} skipped" if result.skipped else ""
    print(f"{result.testsRun - len(failed) - len(result.skipped)} passed, {len(failed)} failed{skipped}")
    return 0 if result.wasSuccessful() and result.testsRun else 1


def run_both() -> int:
    """Run both parts beside each other, then what failed once more, and count them together."""
    command = [sys.executable, "-m", "tests"]
    started = {
        part: subprocess.Popen(
            command, env=os.environ | {"TESTS": part}, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
        )
        for part in (OTHERS, BROWSER)
    }
    said = {part: process.communicate()[0] for part, process in started.items()}
    print("\n".join(said.values()), flush=True)
    counts = [[int(number) for number in found.groups()] for text in said.values() for found in COUNTED.finditer(text)]
    passed, bad = (sum(one[place] for one in counts) for place in (0, 1))
    again = {part: FAILED.findall(text) for part, text in said.items()}
    names = [name for failed in again.values() for name in failed]
    alone = {name: subprocess.run([*command, name], check=False).returncode for name in names}
    mended = [name for name, status in alone.items() if status == 0]
    for name in mended:
        print("passed only when run again, with nothing beside it:", name)
    well = len(counts) == len(started) and len(mended) == len(alone)
    well = well and all(process.returncode == 0 or again[part] for part, process in started.items())
    print(f"{passed + len(mended)} passed, {bad - len(mended)} failed")
    return 0 if well else 1


def main() -> int:
    part = os.environ.get("TESTS")
    return run(sys.argv[1:], part) if part or sys.argv[1:] else run_both()


if __name__ == "__main__":
    sys.exit(main())
