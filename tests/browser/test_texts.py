"""All that is written can be read: no text lies on another one, and none is cut, whatever is shown."""

import json
import os
import unittest

from inner_tone.core.patch.validate import read_patch
from inner_tone.core.phrase import read_phrase
from tests.support.application import ROOT
from tests.support.bench import BenchTest
from tests.support.edits import harbour, patch_of
from tests.support.figures import record
from tests.support.patches import phrase
from tests.support.texts import AREA, COLLISIONS

EXAMPLES = sorted((ROOT / "docs" / "examples").glob("*.patch.json"))
RANDOM = int(os.environ.get("RANDOM_PATCHES", "6"))
SMALLEST = 11.0  # pixels
FILLED = 0.6


class TextsTest(BenchTest):
    def collisions(self) -> list[str]:
        """Return what cannot be read on the page."""
        self.there("[data-map] [data-card] text", "the map")
        self.wait(lambda: self.driver.execute_script("return document.fonts.status === 'loaded'"), "the typefaces")
        count, found = self.driver.execute_script(COLLISIONS)
        self.assertGreater(count, 20)
        return [str(one) for one in found]

    def assert_readable(self, what: str) -> None:
        """Check that nothing lies on anything, beneath the map one after the other."""
        for foot in ("lenses", "connections", "checkup", "phrase"):
            self.click(f"[data-foot={foot}]")
            self.assertEqual(self.collisions(), [], f"{what}, {foot}")
        self.click("[data-foot=lenses]")

    def test_the_demo_at_the_desk_and_in_practice(self) -> None:
        for lesson, count in (("Foghorn", 5), ("Fog comes in", 4), ("Ship’s bell", 8)):
            for place in range(1, count + 1):
                self.open_step(place, lesson=lesson)
                self.assertEqual(self.collisions(), [], f"{lesson} {place}")
            self.assert_readable(lesson)
        for place in (1, 5):
            self.open_step(place, screen="practice")
            self.assertEqual(self.collisions(), [], f"practice {place}")

    def test_lenses_with_many_lines_and_what_stands_behind(self) -> None:
        self.open_step(5)
        self.pick("Lens: Wave", "Level")
        self.pick("Lens: Spectrum", "Response")
        self.settle()
        self.assertEqual(self.collisions(), [], "level and response")
        self.press("j")
        self.settle()
        self.assertEqual([one for one in self.collisions() if "Frozen" not in one], [], "before what was frozen")

    def test_the_examples(self) -> None:
        for file in EXAMPLES:
            name = file.name.removesuffix(".patch.json")
            played = read_phrase(json.loads(file.with_name(f"{name}.phrase.json").read_text()))
            self.begin(read_patch(json.loads(file.read_text())), phrase=played)
            self.assertEqual(self.collisions(), [], name)

    def test_random_patches(self) -> None:
        for seed in range(RANDOM):
            self.begin(patch_of(4 + 3 * seed % 37, seed), phrase=phrase((0, 1, 48), beats=1))
            self.assertEqual(self.collisions(), [], f"seed {seed}")

    def test_the_map_fills_its_room_and_its_letters_are_large_enough(self) -> None:
        for count in (5, 10, 16, 24, 40):
            self.begin(harbour(count), phrase=phrase((0, 1, 48), beats=1))
            self.collisions()
            filled, smallest, pictures, by_cards = self.driver.execute_script(AREA)
            self.assertGreaterEqual(smallest, SMALLEST - 0.01, f"{count} modules")
            self.assertGreaterEqual(filled, FILLED, f"{count} modules")
            cards = len(self.all_css("[data-card]"))
            if count <= 16:
                self.assertEqual(pictures, cards)
            record(
                "the map",
                f"{cards} modules at 1280 × 800: the room used; smallest letters; cards with pictures",
                "60 %; 11 px; all up to 16",
                f"{100 * filled:.0f} %, of that cards {100 * by_cards:.0f} %; {smallest:.1f} px; {pictures}",
            )


if __name__ == "__main__":
    unittest.main()
