"""Edits that mean nothing, as a page that is broken or hostile might send them: each is refused with a sentence."""

import random
import unittest
from typing import Any

from pydantic import TypeAdapter, ValidationError

from inner_tone.core.errors import InnerToneError
from inner_tone.core.patch.edit import edited, made
from inner_tone.core.patch.moves import Edit
from inner_tone.demo.foghorn import DISTANT
from tests.support.patches import module, patch

EDIT: TypeAdapter[Edit] = TypeAdapter(Edit)
NAMES = ["reed", "bell", "player", "out", "new", "nobody", "s"]
TYPES = ["oscillator", "filter", "output", "player", "amplifier", "nothing", "\x14", ""]
PORTS = ["out", "in", "pitch", "cutoff", "left", "gate", "level", "nothing"]
SETTINGS = ["cutoff", "level", "wave", "nothing", ""]
VALUES = [0, 1e9, -1e300, "saw", "", [1, 2], [], True]
CASES = 4_000


class Nonsense:
    """Makes up edits."""

    def __init__(self, seed: int) -> None:
        self.dice = random.Random(seed)

    def port(self) -> str:
        return f"{self.dice.choice(NAMES)}.{self.dice.choice(PORTS)}"

    def ends(self) -> dict[str, Any]:
        line = self.dice.choice(DISTANT.connections)
        there = {"from": line.source, "to": line.target}
        return there if self.dice.random() < 0.5 else {"from": self.port(), "to": self.port()}

    def module(self) -> dict[str, Any]:
        settings = {self.dice.choice(SETTINGS): self.dice.choice(VALUES)} if self.dice.random() < 0.3 else {}
        return {"id": self.dice.choice(NAMES), "type": self.dice.choice(TYPES), "settings": settings}

    def names(self) -> list[str]:
        return self.dice.choices(NAMES, k=self.dice.randint(1, 3))

    def fragment(self) -> dict[str, Any]:
        modules = {one["id"]: one for one in (self.module() for _ in range(3))}
        section = {"id": "s", "label": "S", "modules": self.names(), "inputs": [{"name": "I", "port": self.port()}]}
        lines = [{**self.ends(), "depth": self.dice.choice([1, -1e5])} for _ in range(self.dice.randint(0, 3))]
        sections = [section] if self.dice.random() < 0.5 else []
        return {"modules": list(modules.values()), "connections": lines, "sections": sections}

    def edit(self) -> dict[str, Any]:
        dice = self.dice
        return dice.choice(
            [
                {"kind": "add", "module": self.module()},
                {"kind": "insert", "module": self.module(), "lines": [self.ends() for _ in range(dice.randint(1, 3))]},
                {"kind": "remove", "modules": self.names(), "bridge": dice.random() < 0.5},
                {"kind": "replace", "module": dice.choice(NAMES), "type": dice.choice(TYPES)},
                {"kind": "duplicate", "modules": self.names(), "connected": dice.random() < 0.5},
                {"kind": "rename", "module": dice.choice(NAMES), "label": dice.choice(["", "A", "\u202e"])},
                {
                    "kind": "set",
                    "module": dice.choice(NAMES),
                    "setting": dice.choice(SETTINGS),
                    "value": dice.choice(VALUES),
                },
                {"kind": "connect", "line": {**self.ends(), "scaled_by": dice.choice([None, self.port()])}},
                {"kind": "disconnect", "line": self.ends()},
                {"kind": "move-end", "line": self.ends(), "to": self.ends()},
                {"kind": "line", "line": self.ends(), "scaled_by": dice.choice([None, "nothing", self.port()])},
                {"kind": "group", "modules": self.names(), "section": dice.choice([None, "s", "nobody"])},
                {"kind": "take-apart", "section": dice.choice(["s", "nobody"])},
                {"kind": "section", "section": "s", "port": dice.choice([None, self.port()]), "name": "N"},
                {"kind": "voices", "voices": dice.randint(1, 16)},
                {"kind": "paste", "fragment": self.fragment()},
            ]
        )


class NonsenseTest(unittest.TestCase):
    def test_edits_that_mean_nothing_are_refused_with_a_sentence(self) -> None:
        refused = done = 0
        grouped = made(DISTANT, [EDIT.validate_python({"kind": "group", "modules": ["reed"], "section": "s"})]).patch
        for number in range(CASES):
            nonsense = Nonsense(number)
            written = [nonsense.edit() for _ in range(nonsense.dice.randint(1, 4))]
            try:
                edits = [EDIT.validate_python(one) for one in written]
            except ValidationError:
                continue
            with self.subTest(edits=written):
                try:
                    edited(nonsense.dice.choice([DISTANT, grouped, patch([module("out", "output")])]), edits)
                    done += 1
                except InnerToneError as error:
                    self.assertTrue(str(error).endswith((".", "?")), error)
                    refused += 1
        self.assertGreater(refused, CASES // 4)
        self.assertGreater(done, CASES // 20)


if __name__ == "__main__":
    unittest.main()
