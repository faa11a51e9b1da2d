"""The inspector: at 800 pixels of height the usual settings of every type are seen without scrolling."""

import unittest

from inner_tone.core.modules import CATALOGUE
from tests.support.bench import BenchTest
from tests.support.patches import module, patch

BELOW = """
    const pane = document.querySelector("[data-inspector]");
    const set = [...pane.querySelectorAll("[role=slider], [role=radiogroup], [aria-haspopup=listbox]")];
    const usual = set.filter((one) => !one.closest("details"));
    const foot = Math.max(0, ...usual.map((one) => one.getBoundingClientRect().bottom));
    return Math.round(foot - pane.getBoundingClientRect().bottom);
"""


class InspectorTest(BenchTest):
    def test_usual_settings_of_every_type_are_seen_without_scrolling(self) -> None:
        types = [name for name in CATALOGUE if name not in ("player", "output")]
        modules = [module(f"m{n}", name) for n, name in enumerate(types)]
        self.begin(patch([module("player", "player"), *modules, module("out", "output")]))
        below = {}
        for name, one in [("player", "player"), *((name, f"m{n}") for n, name in enumerate(types)), ("output", "out")]:
            self.select(one)
            self.there(f"[data-card={one}][aria-pressed=true]", f"{one} to be chosen")
            self.settle()
            found = self.driver.execute_script(BELOW)
            if found > 0:
                below[name] = found
        self.assertEqual(below, {}, "pixels below the edge")


if __name__ == "__main__":
    unittest.main()
