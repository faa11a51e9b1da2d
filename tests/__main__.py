"""Runs all tests, or those whose names contain one of the words given; ends with a line that counts them.

All of them run in two processes, those in the browser beside the others, since they mostly wait.
"""

import os
import re
import subprocess
import sys
import unittest

BROWSER, OTHERS = "browser", "others"
COUNTED = re.compile(r"^(\d+) passed, (\d+) failed", re.MULTILINE)


def cases(suite: unittest.TestSuite) -> list[unittest.TestCase]:
    """Return the tests of a suite, one after the other."""
    found: list[unittest.TestCase] = []
    for one in suite:
        found += cases(one) if isinstance(one, unittest.TestSuite) else [one]
    return found


def run(words: list[str], part: str | None) -> int:
    """Run the tests of a part, or those that the words choose, in this process."""
    loader = unittest.TestLoader()
    if words:
        loader.testNamePatterns = [f"*{word}*" for word in words]
    suite = loader.discover("tests", top_level_dir=".")
    if part:
        wanted = [one for one in cases(suite) if one.id().startswith("tests.browser.") == (part == BROWSER)]
        suite = unittest.TestSuite(wanted)
    result = unittest.TextTestRunner(verbosity=1).run(suite)
    bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    skipped = f", {len(result.skipped)} skipped" if result.skipped else ""
    print(f"{result.testsRun - bad - len(result.skipped)} passed, {bad} failed{skipped}")
    return 0 if result.wasSuccessful() and result.testsRun else 1


def run_both() -> int:
    """Run both parts beside each other, say what they say, and count them together."""
    started = [
        subprocess.Popen(
            [sys.executable, "-m", "tests"],
            env=os.environ | {"TESTS": part},
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
        )
        for part in (OTHERS, BROWSER)
    ]
    said = [process.communicate()[0] for process in started]
    print("\n".join(said))
    counts = [[int(number) for number in found.groups()] for text in said for found in [COUNTED.search(text)] if found]
    print(f"{sum(one[0] for one in counts)} passed, {sum(one[1] for one in counts)} failed")
    return 0 if len(counts) == len(started) and not any(process.returncode for process in started) else 1


def main() -> int:
    part = os.environ.get("TESTS")
    return run(sys.argv[1:], part) if part or sys.argv[1:] else run_both()


if __name__ == "__main__":
    sys.exit(main())
