"""The room is the user's: parts fold away and are divided, on a dark ground, a narrow screen or an enlarged page."""

import unittest

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.support.bench import BenchTest
from tests.support.texts import COLLISIONS

EVERY = "return [document.documentElement.scrollWidth, window.innerWidth]"


class RoomTest(BenchTest):
    def setUp(self) -> None:
        self.addCleanup(self.driver.execute_cdp_cmd, "Emulation.clearDeviceMetricsOverride", {})
        self.open_step(5)
        self.addCleanup(self.driver.execute_script, "localStorage.clear()")

    def size(self, selector: str) -> tuple[float, float]:
        """Return how wide and how high something is, in pixels."""
        box = self.driver.execute_script(
            "const box = document.querySelector(arguments[0])?.getBoundingClientRect();"
            "return box ? [box.width, box.height] : [0, 0]",
            selector,
        )
        return float(box[0]), float(box[1])

    def screen(self, width: int, height: int) -> None:
        """Give the page another size."""
        wish = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
        self.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", wish)

    def assert_nothing_beyond(self, what: str) -> None:
        """Check that the page needs no scrolling to the side, and nothing is written beyond its edge."""
        wide, room = self.driver.execute_script(EVERY)
        self.assertLessEqual(wide, room, what)
        found = self.driver.execute_script(COLLISIONS)[1]
        self.assertEqual([one for one in found if "beyond" in one or " over " in one], [], what)

    def test_parts_fold_away_and_stay_so(self) -> None:
        before = self.size("[data-map] svg")
        self.shifted("u", "i", "w")
        self.gone("#foot", "the lenses to be folded")
        wide, high = self.size("[data-map] svg")
        self.assertGreater(wide, before[0] + 450)
        self.assertGreater(high, before[1] + 200)
        self.assert_accessible()
        self.open_step(4)
        self.wait(lambda: self.size("[data-map] svg")[0] > before[0] + 450, "all of it as it was left")
        self.assertFalse(self.css("#foot"))
        self.push("Show the text")
        self.push("Show the rulers")
        self.press("1")
        self.there("#foot [data-lens]", "the lenses")
        self.wait(lambda: abs(self.size("[data-map] svg")[0] - before[0]) < 2, "the usual room")

    def shifted(self, *letters: str) -> None:
        """Press letters with the shift key."""
        for letter in letters:
            ActionChains(self.driver).key_down(Keys.SHIFT).send_keys(letter).key_up(Keys.SHIFT).perform()

    def test_the_divider_is_dragged_and_moved_by_keys(self) -> None:
        divider = self.there("[role=separator]", "the divider")
        high = self.size("#foot")[1]
        ActionChains(self.driver).drag_and_drop_by_offset(divider, 0, -60).perform()
        self.wait(lambda: abs(self.size("#foot")[1] - high - 60) < 4, "more room beneath")
        divider.send_keys(Keys.ARROW_DOWN, Keys.ARROW_DOWN)
        self.wait(lambda: abs(self.size("#foot")[1] - high - 12) < 4, "less again")
        divider.send_keys(Keys.ENTER)
        self.gone("#foot", "nothing beneath")
        divider.send_keys(Keys.ENTER)
        self.wait(lambda: abs(self.size("#foot")[1] - high) < 4, "as usual")

    def test_a_dark_ground_by_the_systems_wish_or_ones_own(self) -> None:
        wish = {"features": [{"name": "prefers-color-scheme", "value": "dark"}]}
        self.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", wish)
        self.addCleanup(self.driver.execute_cdp_cmd, "Emulation.setEmulatedMedia", {"features": []})
        self.there("html[data-ground=dark]", "the dark ground")
        self.settle()
        for foot in ("lenses", "connections", "checkup", "phrase"):
            self.click(f"[data-foot={foot}]")
            self.assert_accessible()
        self.open("/shelf")
        self.there("//h2", "the shelf")
        self.assert_accessible()
        self.open("/account")
        self.click("//*[@role='radio'][normalize-space()='Light']")
        self.there("html[data-ground=light]", "a light ground, whatever the system wishes")
        self.driver.refresh()
        self.there("html[data-ground=light]", "it is remembered")

    def test_at_1024_nothing_is_off_the_page(self) -> None:
        self.screen(1024, 768)
        for screen in ("desk", "practice"):
            self.open_step(5, screen=screen)
            for foot in ("lenses", "connections", "checkup", "phrase"):
                self.click(f"[data-foot={foot}]")
                self.assert_nothing_beyond(f"{screen}, {foot}")
            self.click("[data-foot=lenses]")

    def test_an_enlarged_page_and_a_telephone_show_one_part_at_a_time(self) -> None:
        for width, height in ((640, 400), (390, 844)):
            self.screen(width, height)
            self.open("/shelf")
            self.there("//h2", "the shelf")
            self.assert_nothing_beyond(f"shelf, {width}")
            self.open_step(5, screen="practice")
            for part, there in (
                ("Text", "[data-reading]"),
                ("Map", "[data-map] [data-card]"),
                ("Lenses", "[data-lens] canvas"),
                ("Rulers", "[data-inspector] [role=slider]"),
            ):
                self.click(f"//*[@role='tab'][normalize-space()='{part}'][not(@data-foot)]")
                self.wait(lambda there=there: self.size(there)[0] > 60, part)
                self.assert_nothing_beyond(f"{part}, {width}")
                if width == 390:  # the parts are the same on both
                    self.assert_accessible()


if __name__ == "__main__":
    unittest.main()
