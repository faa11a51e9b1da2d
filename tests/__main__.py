"""Runs all tests, or those whose names contain one of the words given; ends with a line that counts them."""

import sys
import unittest


def main() -> int:
    loader = unittest.TestLoader()
    if len(sys.argv) > 1:
        loader.testNamePatterns = [f"*{word}*" for word in sys.argv[1:]]
    suite = loader.discover("tests", top_level_dir=".")
    result = unittest.TextTestRunner(verbosity=1).run(suite)
    bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    skipped = f", {len(result.skipped)} skipped" if result.skipped else ""
    print(f"{result.testsRun - bad - len(result.skipped)} passed, {bad} failed{skipped}")
    return 0 if result.wasSuccessful() and result.testsRun else 1


if __name__ == "__main__":
    sys.exit(main())
