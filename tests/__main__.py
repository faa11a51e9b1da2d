"""Runs all tests, or those whose names contain one of the words given, their classes handed out to several workers.

All workers share one database server; each has one browser, and an application for each class that needs one. What
fails fails: nothing is run a second time.
"""

import os
import sys
from pathlib import Path

import pytest

from inner_tone.core.engine.warm import warm
from inner_tone.store.server import running
from tests.support.database import FOLDER, HASTY, share

ROOT = Path(__file__).resolve().parents[1]
WORKERS = 3  # two cores: a worker often waits for a page or a process, but four outrun each other's patience
SLOWEST = 12


def main() -> int:
    """Run the tests; returns 0 if all have passed."""
    words = sys.argv[1:]
    warm()  # so that no two workers compile the same
    with running(FOLDER, HASTY) as server:
        os.environ |= share(server)
        chosen = ["-k", " or ".join(words)] if words else [f"--durations={SLOWEST}"]
        spread = ["-n", str(WORKERS), "--dist", "loadscope", "--no-loadscope-reorder"] if not words else []
        return int(pytest.main([str(ROOT / "tests"), "-q", "-p", "no:cacheprovider", *spread, *chosen]))


if __name__ == "__main__":
    sys.exit(main())
