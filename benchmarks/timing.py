"""How the benchmarks take the time."""

import time
from collections.abc import Callable, Sequence
from functools import partial

from inner_tone.core.engine.events import NoteOff, NoteOn
from inner_tone.core.engine.playing import Playing
from inner_tone.core.engine.recorder import Recorder
from inner_tone.core.engine.render import RATE
from inner_tone.core.patch.model import Patch

ROUNDS = 40
SECONDS = 2.0


def best_of(rounds: int, work: Callable[[], object]) -> float:
    """Return the least time in seconds that some work took: what else the machine does only adds to it."""
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return min(times)


def beside(*works: Callable[[], object]) -> list[float]:
    """Return the least time in seconds of each of several works that take turns, so that they suffer the same noise."""
    times: list[list[float]] = [[] for _ in works]
    for _ in range(ROUNDS):
        for work, taken in zip(works, times, strict=True):
            taken.append(best_of(1, work))
    return [min(taken) for taken in times]


def speed_of(seconds: float) -> float:
    """Return how many times faster than real time something was played that took so many seconds."""
    return SECONDS / seconds


def played(patch: Patch, keys: Sequence[float] = (-3.0,), *, measured: bool = True) -> Playing:
    """Return an engine that has played some keys together, for half of the time held."""
    count = round(SECONDS * RATE)
    engine = Playing(patch, RATE, Recorder(count, ("out.left",), measured=measured))
    for key in keys:
        engine.apply(NoteOn(key, 0.8))
    engine.advance(count // 2)
    for key in keys:
        engine.apply(NoteOff(key))
    engine.advance(count - count // 2)
    return engine


def speed(patch: Patch, keys: Sequence[float] = (-3.0,)) -> float:
    """Return how many times faster than real time a patch plays, with the measures of all its ports."""
    return speed_of(best_of(ROUNDS, lambda: played(patch, keys)))


def costs_ns(*patches: Patch) -> list[float]:
    """Return what each of several patches costs for each sample, in ns, measured in turns."""
    count = SECONDS * RATE
    return [1e9 * seconds / count for seconds in beside(*(partial(played, patch) for patch in patches))]
