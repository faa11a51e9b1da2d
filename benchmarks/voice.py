"""How many times faster than real time one voice of the demo renders, and what each part of it costs."""

import time
from collections.abc import Callable

from inner_tone.core.engine.engine import Engine
from inner_tone.core.engine.events import NoteOn
from inner_tone.core.engine.render import RATE, render
from inner_tone.core.patch.model import Patch
from inner_tone.demo import foghorn
from tests.support.figures import record

ROUNDS = 25
SECONDS = 2.0


def best_of(rounds: int, work: Callable[[], object]) -> float:
    """Return the least time in seconds that some work took: what else the machine does only adds to it."""
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return min(times)


def playing(patch: Patch) -> float:
    """Return how many times faster than real time a patch plays, without analysis."""
    count = round(SECONDS * RATE)

    def work() -> None:
        engine = Engine(patch, RATE, count)
        engine.apply(NoteOn(-3.0, 0.8))
        engine.advance(count)

    return SECONDS / best_of(ROUNDS, work)


def main() -> None:
    """Print the table."""
    print("One voice of the lesson “Foghorn”, as many times faster than real time (best of 25)")
    steps = (foghorn.BARE, foghorn.SILENCED, foghorn.SWITCHED, foghorn.BREATHED, foghorn.DISTANT)
    for number, patch in enumerate(steps, 1):
        print(f"  step {number}, {len(patch.modules)} modules: {playing(patch):6.0f} ×")
    seconds = render(foghorn.DISTANT, foghorn.BLASTS).seconds
    whole = seconds / best_of(ROUNDS, lambda: render(foghorn.DISTANT, foghorn.BLASTS))
    print(f"  the whole render of step 5 with measures and limiter: {whole:.0f} ×")
    record("Speed", "one voice of the demo (step 5), a whole render", "100 × real time", f"{whole:.0f} ×")
