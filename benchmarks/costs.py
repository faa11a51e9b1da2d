"""What costs what: each type of module, a loop, voices, and more and more modules."""

import subprocess
import sys
import time
from functools import partial

from benchmarks.patches import Line, loop, patch, row, voice
from benchmarks.timing import ROUNDS, beside, best_of, costs_ns, speed
from inner_tone.core.engine.events import Change, NoteOn
from inner_tone.core.engine.playing import Playing
from inner_tone.core.engine.recorder import Recorder
from inner_tone.core.engine.render import RATE
from inner_tone.core.modules import CATALOGUE
from inner_tone.core.modules.declaration import ModuleType
from inner_tone.core.patch.edit import edited
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.placements import placements
from tests.support.edits import patch_of
from tests.support.figures import record

CHORD = tuple(float(key) for key in range(-12, 20, 2))


def main() -> None:
    """Print the tables."""
    loops()
    voices()
    moving()
    taking_over()
    more_modules()
    edits()
    each_type()


def loops() -> None:
    """A loop runs sample by sample, so each module is called once a sample instead of once a block."""
    open_, closed = speed(loop(closed=False)), speed(loop(closed=True))
    print(f"Four modules in a row: {open_:.0f} × real time; the same closed to a loop: {closed:.0f} ×")
    record("Speed", "loop of four modules", "40 × real time", f"{closed:.0f} ×")


def voices() -> None:
    """Voices cost what they sound; one that has not been played sleeps."""
    one, sixteen = speed(voice(1)), speed(voice(16), CHORD)
    asleep = speed(voice(16))
    print(f"Voices: 1 of 1 {one:.0f} ×, 1 of 16 {asleep:.0f} ×, 16 of 16 {sixteen:.1f} × real time")
    record("Speed", "sixteen voices sounding at once", "—", f"{sixteen:.1f} × real time")


def moving() -> None:
    """A setting that somebody turns all the time, beside the same patch at rest, with sixteen voices."""
    turned: dict[str, tuple[str, str, tuple[float, float]]] = {
        "a cutoff": ("filter", "cutoff", (500.0, 3000.0)),
        "a resonance": ("filter", "resonance", (0.1, 0.6)),
        "a fine tuning": ("saw", "fine", (0.0, 20.0)),
        "an attack": ("bright", "attack", (0.1, 0.3)),
        "the output's level": ("out", "level", (-6.0, -3.0)),
    }
    still, *times = beside(lambda: turning(None), *(partial(turning, one) for one in turned.values()))
    ratios = {name: seconds / still for name, seconds in zip(turned, times, strict=True)}
    for name, ratio in ratios.items():
        print(f"Sixteen voices while {name} moves: {ratio:.2f} × the still patch")
    record("Speed", "sixteen voices while one setting moves", "at most 1.3 × still", f"{max(ratios.values()):.2f} ×")


def turning(what: tuple[str, str, tuple[float, float]] | None) -> None:
    """Play sixteen voices for a second, with a setting on its way all the time."""
    playing = Playing(voice(16), RATE, Recorder(round(RATE) + 480, ("out.left",)))
    for key in CHORD:
        playing.apply(NoteOn(key, 0.8))
    for number in range(100):
        if what:
            playing.apply(Change(what[0], what[1], what[2][number % 2]))
        playing.advance(480)


def taking_over() -> None:
    """Another wiring takes over while a patch plays."""
    first = patch_of(20, 3)
    place = placements(Graph(first), None)["noise"][0]
    second = edited(first, place.edits).patch
    playing = Playing(first, RATE, Recorder(round(4 * RATE)))
    seconds = []
    for number in range(100):
        start = time.perf_counter()
        playing.take_over((second, first)[number % 2])
        seconds.append(time.perf_counter() - start)
        playing.advance(500)
    median = sorted(seconds)[len(seconds) // 2]
    print(f"Another patch of {len(second.modules)} modules takes over while one plays: {1000 * median:.1f} ms")
    record("Speed", "change of wiring while playing, 20 modules", "5 ms", f"{1000 * median:.1f} ms")


def more_modules() -> None:
    """The cost per module must not grow with their number."""
    print("A row of filters, in ns for each sample")
    counts = (1, 5, 10, 20, 40, 80)
    costs = dict(zip(counts, costs_ns(*(row(count) for count in counts)), strict=True))
    for count, cost in costs.items():
        print(f"  {count:3}: {cost:6.0f}, {cost / count:5.1f} for each of them")
    growth = (costs[80] - costs[40]) / 40 / ((costs[20] - costs[10]) / 10)
    record("Speed", "cost of one more module at 60 beside that at 15", "1 (linear)", f"{growth:.2f}")


def edits() -> None:
    """An edit builds a new program and compiles nothing; a new process loads what was compiled before."""
    seconds = best_of(ROUNDS, lambda: Playing(row(40), RATE, Recorder(1)))
    print(f"A new program after an edit, 43 modules: {1000 * seconds:.1f} ms, nothing compiled")
    start = time.perf_counter()
    subprocess.run([sys.executable, "-m", "inner_tone.core.engine.warm"], check=True)
    warm = time.perf_counter() - start
    print(f"A new process with everything compiled before: {warm:.2f} s to its first sound")
    record("Speed", "start with a warm cache", "under 2 s", f"{warm:.2f} s")


def each_type() -> None:
    """What each type costs beside a patch without it, fed by a moving source in its first input."""
    print("Each type of module, in ns for each sample, beside a patch without it")
    bare = patch({"source": ("oscillator", {})}, [])
    for declared in CATALOGUE.values():
        if declared.name not in ("player", "output"):
            without, with_it = costs_ns(bare, patch_with(declared))
            print(f"  {declared.name}: {with_it - without:.0f}")


def patch_with(declared: ModuleType) -> Patch:
    """Return a patch with one module of a type besides an oscillator."""
    lines: list[Line] = [("source.out", f"one.{declared.inputs[0].name}")] if declared.inputs else []
    return patch({"source": ("oscillator", {}), "one": (declared.name, {})}, lines)
