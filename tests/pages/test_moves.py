"""Moves at a bench, one after the other, and back: against a plain list of the states that there have been."""

import random
import unittest
from typing import Any

from tests.support.edits import patch_of
from tests.support.pages import in_pages

COURSES = 400
Op = list[Any]


class Model:
    """What undo and redo should give: the states there have been, and where one stands among them."""

    def __init__(self, start: dict[str, Any]) -> None:
        self.past: list[dict[str, Any]] = []
        self.now = start
        self.future: list[dict[str, Any]] = []
        self.kind: str | None = None

    def change(self, state: dict[str, Any], kind: str | None = None) -> None:
        """Come to a new state; one kind of change in succession is one step."""
        joins = kind is not None and kind == self.kind
        if state != self.now and not joins:
            self.past.append(self.now)
            self.future = []
        self.now, self.kind = state, kind

    def travel(self, source: list[dict[str, Any]], target: list[dict[str, Any]]) -> None:
        """Go to the nearest state of one list, leaving the present one on the other."""
        if source:
            target.append(self.now)
            self.now, self.kind = source.pop(), None


def with_setting(patch: dict[str, Any], module: str, name: str, value: float) -> dict[str, Any]:
    """Return a patch with one setting changed."""
    modules = [
        one | {"settings": one.get("settings", {}) | {name: value}} if one["id"] == module else one
        for one in patch["modules"]
    ]
    return patch | {"modules": modules}


def course(dice: random.Random, results: int, modules: list[str]) -> list[Op]:
    """Return moves in random order; each that the worker does is answered before the next."""
    ops: list[Op] = []
    for _ in range(dice.randrange(5, 40)):
        way = dice.choice(["apply", "apply", "fail", "set", "set", "undo", "undo", "redo"])
        if way == "apply" and results == 0:
            way = "undo"
        if way in ("apply", "fail"):
            results -= way == "apply"
            ops += [[way], ["answer"]]
        elif way == "set":
            ops.append(["set", dice.choice(modules[:2]), "level", dice.randrange(3)])
        else:
            ops.append([way])
    return ops


class MovesTest(unittest.TestCase):
    def test_undo_and_redo_go_through_the_states_that_there_were(self) -> None:
        dice = random.Random(11)
        start, *results = [patch_of(5, seed).to_json() for seed in range(13)]
        modules = [one["id"] for one in start["modules"]]
        courses = [course(dice, len(results), modules) for _ in range(COURSES)]
        farthest = 0
        for ops, seen in zip(
            courses, in_pages("movedThrough", [[start, results, ops] for ops in courses]), strict=True
        ):
            model, coming, way = Model(start), list(results), ""
            for op, moment in zip(ops, seen, strict=True):
                if op[0] in ("apply", "fail"):
                    way = op[0]
                    self.assertTrue(moment["working"])
                elif op[0] == "answer" and way == "apply":
                    model.change(coming.pop(0))
                elif op[0] == "set":
                    model.change(with_setting(model.now, *op[1:]), f"{op[1]}.{op[2]}")
                elif op[0] == "undo":
                    model.travel(model.past, model.future)
                elif op[0] == "redo":
                    model.travel(model.future, model.past)
                self.assertEqual(moment["patch"], model.now, ops)
                self.assertEqual(moment["steps"], len(model.past), ops)
                farthest = max(farthest, len(model.past))
        self.assertGreater(farthest, 8)

    def test_moves_wait_for_each_other(self) -> None:
        start, *results = [patch_of(5, seed).to_json() for seed in range(4)]
        name = results[1]["modules"][0]["id"]
        ops: list[Op] = [
            ["apply"],
            ["apply"],
            ["set", name, "level", 2],
            ["answer"],
            ["answer"],
            ["undo"],
            ["undo"],
            ["undo"],
        ]
        [seen] = in_pages("movedThrough", [[start, results, ops]])
        self.assertEqual([one["patch"] for one in seen[:3]], [start] * 3, "nothing is there before it is worked out")
        self.assertTrue(seen[3]["working"])
        changed = with_setting(results[1], name, "level", 2)
        self.assertEqual([one["patch"] for one in seen[3:]], [results[0], changed, results[1], results[0], start])
        self.assertFalse(seen[-1]["working"])

    def test_a_move_that_fails_changes_nothing_and_says_so(self) -> None:
        start, result = patch_of(5, 1).to_json(), patch_of(5, 2).to_json()
        [seen] = in_pages("movedThrough", [[start, [result], [["fail"], ["answer"], ["apply"], ["answer"], ["undo"]]]])
        self.assertEqual([one["failed"] for one in seen[:2]], [False, True])
        self.assertEqual([one["patch"] for one in seen], [start, start, start, result, start])


if __name__ == "__main__":
    unittest.main()
