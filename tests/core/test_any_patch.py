"""Any patch that can be written plays: finite, bounded, the same in blocks of any size. Found by hypothesis."""

import os
import unittest
from typing import Any

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as some

from inner_tone.core.engine.events import Change, Move, NoteOn
from inner_tone.core.engine.playing import Playing
from inner_tone.core.engine.recorder import Recorder
from inner_tone.core.engine.render import render
from inner_tone.core.modules import CATALOGUE
from inner_tone.core.modules.declaration import ModuleType
from inner_tone.core.patch.difference import difference
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.validate import read_patch
from inner_tone.core.phrase import read_phrase
from tests.support.patches import RATE

EXAMPLES = int(os.environ.get("EXAMPLES", "60"))  # more of them once in a while, by hand; then by true chance
MOST_MODULES = 30
LONE = ("player", "output")


@some.composite
def modules(draw: some.DrawFn, number: int) -> dict[str, Any]:
    kinds = [name for name in CATALOGUE if name not in LONE]
    kind = draw(some.sampled_from(kinds))
    return {"id": f"m{number}", "type": kind, "settings": draw(settings_of(CATALOGUE[kind]))}


def settings_of(declared: ModuleType) -> some.SearchStrategy[dict[str, Any]]:
    numbers = {
        name: some.floats(ruler.low, ruler.high) | some.sampled_from([ruler.low, ruler.high])
        for name, ruler in declared.rulers.items()
    }
    choices = {name: some.sampled_from(choice.options) for name, choice in declared.choices.items()}
    rows = {
        name: some.lists(some.floats(row.ruler.low, row.ruler.high), max_size=row.length)
        for name, row in declared.rows.items()
    }
    return some.fixed_dictionaries({}, optional={**numbers, **choices, **rows})


@some.composite
def patches(draw: some.DrawFn) -> Patch:
    count = draw(some.integers(0, MOST_MODULES - 2))
    found = [draw(modules(number)) for number in range(count)]
    found += [{"id": "player", "type": "player"}, {"id": "out", "type": "output"}]
    outputs = [f"{one['id']}.{port.name}" for one in found for port in CATALOGUE[one["type"]].outputs]
    inputs = [f"{one['id']}.{port.name}" for one in found for port in CATALOGUE[one["type"]].inputs]
    ends = some.tuples(some.sampled_from(outputs), some.sampled_from(inputs))
    lines = draw(some.lists(ends, max_size=3 * len(found), unique=True))
    return read_patch(
        {
            "voices": draw(some.sampled_from([1, 1, 2, 5])),
            "modules": found,
            "connections": [
                {"from": source, "to": target, "depth": draw(some.floats(-100, 100) | some.just(1.0))}
                | ({"scaled_by": draw(some.sampled_from(outputs))} if draw(some.booleans()) else {})
                for source, target in lines
            ],
        }
    )


@some.composite
def phrases(draw: some.DrawFn) -> Any:
    note = some.fixed_dictionaries(
        {
            "start": some.floats(0, 0.9),
            "length": some.floats(0.01, 2),
            "pitch": some.floats(0, 127),
            "velocity": some.floats(0, 1),
        }
    )
    points = some.lists(some.tuples(some.floats(0, 1), some.floats(-1, 1)), min_size=1, max_size=4)
    controls = ["wheel", "bend", "lever:m0", "lever:m1"]
    gestures = [{"control": control, "points": sorted(draw(points))} for control in controls]
    return read_phrase({"tempo": 240, "beats": 1, "notes": draw(some.lists(note, max_size=5)), "gestures": gestures})


class AnyPatchTest(unittest.TestCase):
    @settings(max_examples=EXAMPLES, deadline=None, derandomize=EXAMPLES == 60, suppress_health_check=list(HealthCheck))
    @given(patches(), phrases())
    def test_render_is_finite_and_bounded(self, played: Patch, phrase: Any) -> None:
        taps = [f"{one.id}.{port.name}" for one in played.modules for port in one.declaration.outputs]
        done = render(played, phrase, taps=taps)
        for tap, signal in done.taps.items():
            self.assertTrue(np.all(np.isfinite(signal)), tap)
        for side in (done.left, done.right):
            self.assertTrue(np.all(np.isfinite(side)))
            self.assertLessEqual(float(np.max(np.abs(side))), 1.0)

    @settings(max_examples=EXAMPLES, deadline=None, derandomize=EXAMPLES == 60, suppress_health_check=list(HealthCheck))
    @given(patches(), some.lists(some.integers(1, 400), min_size=1, max_size=5))
    def test_any_sizes_of_blocks_give_the_same_bytes(self, played: Patch, sizes: list[int]) -> None:
        self.assertEqual(self.play(played, [4800]), self.play(played, sizes))

    def play(self, played: Patch, sizes: list[int]) -> bytes:
        engine = Playing(played, RATE, Recorder(4800, ["out.left", "out.right"]))
        engine.apply(NoteOn(3.0, 0.7))
        engine.apply(NoteOn(10.0, 0.4))
        engine.apply(Move("wheel", 0.2, 1e-4))
        engine.apply(Move("lever:m0", 0.9, -1e-4))
        engine.apply(Change("out", "level", -3.0))
        place = 0
        while engine.position < 4800:
            engine.advance(min(sizes[place % len(sizes)], 4800 - engine.position))
            place += 1
        # the least of 0 and −0 may be either
        return engine.recorder.tracks.signals.tobytes() + (engine.recorder.tracks.lows + 0.0).tobytes()

    @settings(max_examples=EXAMPLES, deadline=None, derandomize=EXAMPLES == 60, suppress_health_check=list(HealthCheck))
    @given(patches(), patches())
    def test_difference_can_always_be_said(self, before: Patch, after: Patch) -> None:
        for one in difference(before, after):
            self.assertTrue(one.text.endswith("."))
        self.assertEqual(difference(after, after), [])


if __name__ == "__main__":
    unittest.main()
