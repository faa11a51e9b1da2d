"""Runs all tests, or those whose names contain one of the words given, handed out to several processes.

All share one database server, and each has one browser and one application, but for what a test kills or sets
otherwise. What fails fails: nothing is run a second time.
"""

import argparse
import json
import os
import sys
import time
from collections import Counter, defaultdict
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from random import Random

from tests.support.finding import ROOT, Seconds, found, pieces
from tests.support.running import FAILED, Told, told

TIMES = ROOT / "tests" / "times.json"  # of each class in seconds, as `--record` has written them
LOG = ROOT / "var" / "tests.log"
WORKERS = 3  # two cores: a process often waits for a page or for another process
SLOWEST = 12
EVERY_S = 60.0  # it is told how far one is


def main() -> int:
    """Run the tests; returns 0 if all have passed."""
    asked = arguments()
    begun = time.monotonic()
    tests = found(asked.words)
    known: Seconds = json.loads(TIMES.read_text()) if TIMES.exists() else {}
    work = pieces(tests, known, Random(asked.shuffle) if asked.shuffle is not None else None)
    seen: list[Told] = []
    said = begun
    with prepared(whole=not asked.words):
        for one in told(work, asked.workers, LOG):
            seen.append(one)
            say(one, every=bool(asked.words))
            if not asked.words and time.monotonic() - said > EVERY_S:
                said = time.monotonic()
                print(f"{len(seen)} of {len(tests)} after {(said - begun) / 60:.1f} min", flush=True)
    if not asked.words:
        say_more(seen)
        if asked.record:
            record(seen)
    counts = Counter(one.outcome for one in seen)
    minutes, seconds = divmod(round(time.monotonic() - begun), 60)
    print(f"{minutes} min {seconds} s")
    last = f"{counts['passed']} passed, {counts[FAILED]} failed, {counts['skipped']} skipped"
    if asked.counts:
        asked.counts.write_text(f"{last}\n")
    else:
        print(last)
    return 1 if counts[FAILED] or not seen else 0


def arguments() -> argparse.Namespace:
    """Return what the command line asks for."""
    parser = argparse.ArgumentParser(prog="bin/test", description=__doc__)
    parser.add_argument("words", nargs="*", metavar="PATTERN", help="only tests whose names contain it, and no checks")
    parser.add_argument("--workers", type=int, default=WORKERS, help="how many processes")
    parser.add_argument("--shuffle", type=int, metavar="SEED", help="another order and another split, by chance")
    parser.add_argument("--record", action="store_true", help="note how long each class takes")
    parser.add_argument("--counts", type=Path, help="a file for the last line, where something else is said before it")
    return parser.parse_args()


@contextmanager
def prepared(*, whole: bool) -> Iterator[None]:
    """Have what the tests share while they run: a database server, and the compiled engine, if they use one."""
    LOG.parent.mkdir(exist_ok=True)
    LOG.unlink(missing_ok=True)
    with ExitStack() as stack:
        if "tests.support.database" in sys.modules:
            from inner_tone.store.server import running  # noqa: PLC0415 - only if a test that is chosen has it
            from tests.support.database import HASTY, own_folder, share  # noqa: PLC0415

            os.environ |= share(stack.enter_context(running(own_folder(), HASTY)))
        if whole or "tests.support.nursery" in sys.modules:
            from inner_tone.work.template import load  # noqa: PLC0415

            load()
        yield


def say(one: Told, *, every: bool) -> None:
    """Print how a test came out: all that is asked for by name, otherwise only what has not passed."""
    if one.outcome == FAILED:
        print(f"FAILED  {one.test} ({one.seconds:.1f} s)\n{one.why}\n", flush=True)
    elif every:
        print(f"{one.outcome:7} {one.test} ({one.seconds:.1f} s) {one.why}", flush=True)


def say_more(seen: list[Told]) -> None:
    """Print what took longest, and the share of each folder."""
    for one in sorted(seen, key=lambda one: -one.seconds)[:SLOWEST]:
        print(f"{one.seconds:6.1f} s  {one.test}")
    shares: dict[str, float] = defaultdict(float)
    for one in seen:
        shares[one.owner.split(".")[1]] += one.seconds
    total = sum(shares.values())
    told = (f"{name} {seconds:.0f} s ({seconds / total:.0%})" for name, seconds in sorted(shares.items()))
    print("Shares: " + ", ".join(told))


def record(seen: list[Told]) -> None:
    """Note how long each class has taken."""
    times: dict[str, float] = defaultdict(float)
    for one in seen:
        times[one.owner] += one.seconds
    TIMES.write_text(json.dumps({name: round(times[name], 1) for name in sorted(times)}, indent=1) + "\n")


if __name__ == "__main__":
    sys.exit(main())
