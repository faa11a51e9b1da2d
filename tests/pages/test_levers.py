"""Levers on the page: they rest, read and move as the engine has them; phrases at levers with other names."""

import random
import unittest
from typing import Any

from inner_tone.api.catalogue import list_module_types
from inner_tone.core.modules.lever import LOG, notched, position_of, value_at
from inner_tone.core.patch.model import Module, Patch
from inner_tone.core.phrase import Gesture, Phrase, levers_named
from tests.support.pages import in_pages

CASES = 300
TYPES = [one.model_dump(mode="json", by_alias=True) for one in list_module_types() if one.name == "lever"]
POSITIONS = (0.0, 0.1, 0.25, 0.5, 0.625, 0.8, 1.0)


def lever(dice: random.Random) -> dict[str, Any]:
    """Return the settings of a lever: linear or not, with notches or without, turned over now and then."""
    low, high = dice.choice(
        [(20, 2000), (0, 1), (-2, 2), (0.5, 8), (100, 18_000), (-1, 400), (3, 3), (1, 0), (2000, 60)]
    )
    value = round(dice.uniform(min(low, high), max(low, high)), 2)
    step = dice.choice([0, 0, 0.25, 1, 7])
    return {"low": low, "high": high, "value": value, "step": step, "travel": dice.choice(["linear", "log"])}


class LeverTest(unittest.TestCase):
    def test_levers_stand_and_move_as_in_the_engine(self) -> None:
        dice = random.Random(5)
        levers = [lever(dice) for _ in range(CASES)]
        values = [[dice.uniform(-50, 3000) for _ in range(4)] for _ in levers]
        patches = [Patch(modules=(Module(id="it", type="lever", settings=one),)).to_json() for one in levers]
        cases = [(patch, TYPES, POSITIONS, some) for patch, some in zip(patches, values, strict=True)]
        for one, some, seen in zip(levers, values, in_pages("leverOf", cases), strict=True):
            travel = LOG if one["travel"] == "log" else 1 - LOG
            low, high, step = float(one["low"]), float(one["high"]), float(one["step"])
            rest = position_of(float(one["value"]), low, high, travel)
            self.assertAlmostEqual(seen["rest"], rest, msg=one)
            for position, value in zip(POSITIONS, seen["values"], strict=True):
                self.assertAlmostEqual(value, notched(value_at(position, low, high, travel), low, high, step), msg=one)
            for value, position in zip(some, seen["positions"], strict=True):
                self.assertAlmostEqual(position, position_of(value, low, high, travel), msg=one)
            self.assertNotIn("NaN", seen["read"])

    def test_lever_reads_as_it_was_written(self) -> None:
        """Logarithmic, with a value of 1,000: it stands there; one that was written to stand at 1 stands at 1."""
        written = (
            ({"low": 60, "high": 6000, "travel": "log", "value": 1000}, "1,000"),
            ({"low": 0, "high": 1, "value": 1}, "1"),
            ({"low": -2, "high": 2, "step": 1, "value": 1.2}, "1"),
        )
        patches = [Patch(modules=(Module(id="it", type="lever", settings=one),)).to_json() for one, _ in written]
        found = in_pages("leverOf", [(patch, TYPES, [], []) for patch in patches])
        self.assertEqual([one["read"] for one in found], [words for _, words in written])

    def test_phrases_reach_levers_with_other_names_as_in_the_core(self) -> None:
        gestures = tuple(
            Gesture(control=one, points=((0, 0.5),))
            for one in ("wheel", "bend", "lever:fog", "lever:tide", "lever:gone")
        )
        phrase = Phrase(gestures=gestures)
        for names in ({}, {"fog": "m1"}, {"fog": "tide", "tide": "fog"}, {"wheel": "m1", "bend": "m2"}):
            [seen] = in_pages("atLevers", [(phrase.model_dump(mode="json"), names)])
            self.assertEqual(Phrase.model_validate(seen), levers_named(phrase, names), names)


if __name__ == "__main__":
    unittest.main()
