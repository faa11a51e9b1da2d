"""The desk: reading, playing and changing a lesson, with the keyboard alone too."""

import itertools
import unittest

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.support.browser import BrowserTest

# Notes at each picture the time, the place in the sound and the length of the loop, all in seconds.
FOLLOW = """
window.followed = [];
const note = () => {
  const head = document.querySelector("[data-position]");
  window.followed.push([performance.now() / 1000, Number(head.dataset.position)]);
  if (document.querySelector("[data-playing=true]")) requestAnimationFrame(note);
};
note();
"""


class ReadingTest(BrowserTest):
    def test_from_the_shelf_through_all_steps(self) -> None:
        self.open("/shelf")
        self.push("Open at the desk")
        titles = []
        for place in range(1, 6):
            self.there(f"[aria-current=step][aria-label^='Step {place}']", f"step {place}")
            self.settle()
            titles.append(self.css("h1 textarea").get_attribute("value"))  # type: ignore[union-attr]
            self.assertGreater(len(self.text_of("article .prose")), 80)
            self.assertTrue(self.css("article ol li"), "there are instructions")
            self.assertTrue(self.sentence("wave") and self.sentence("spectrum"))
            if place < 5:
                self.click(f"nav[aria-label=Steps] li:nth-child({place + 1}) a")
        self.assertEqual(titles[0], "A reed that never stops")
        self.assertEqual(titles[4], "A filter that gives it distance")
        self.assert_no_errors_logged()

    def test_map_shows_the_real_signal_of_every_module(self) -> None:
        self.open_step(2)
        names = {card.accessible_name for card in self.all_css("[data-card]")}
        self.assertIn("Reed saw +1 dB", names)
        self.assertIn("Loudness sound is lost here level at 0 !", names)
        for card in self.all_css("[data-card]"):
            drawn = self.driver.execute_script("return arguments[0].querySelector('[data-picture]').innerHTML", card)
            self.assertGreater(len(drawn), 100, card.accessible_name)

    def test_lenses_follow_the_selected_card(self) -> None:
        self.open_step(5)
        self.assertIn("cut off above 4", self.sentence("spectrum"))
        self.select("reed")
        self.settle()
        self.assertIn("falling 6 dB per octave", self.sentence("spectrum"))
        self.select("breath")
        self.says(self.caption_of("wave"), "Without a break from 0 s", "the breath of the first blast")
        self.push("whole")
        self.says(self.caption_of("wave"), "2 stretches", "the course of both")
        self.push("says most")
        self.says(self.caption_of("wave"), "Without a break", "the first blast again")

    def test_cursor_reads_partials(self) -> None:
        self.open_step(1)
        cursor = self.css("[data-lens=spectrum] [role=slider]")
        assert cursor is not None
        self.driver.execute_script("arguments[0].focus()", cursor)
        self.press(Keys.ARROW_RIGHT)
        self.assertRegex(str(cursor.get_attribute("aria-valuetext")), "55 Hz   A1   −3.(8|9). dB   partial 1")
        self.press(Keys.ENTER)
        self.press(Keys.ARROW_RIGHT)
        self.assertIn("Δ 55 Hz, 12 st, −6.0", str(cursor.get_attribute("aria-valuetext")))


class PlayingTest(BrowserTest):
    def position(self) -> float:
        head = self.css("[data-position]")
        return float(str(head.get_attribute("data-position"))) if head else 0.0

    def test_one_key_plays_and_stops(self) -> None:
        self.open_step(4)
        self.press(" ")
        self.wait(lambda: self.position() > 0.3, "the sound to advance")
        earlier = self.position()
        self.wait(lambda: self.position() > earlier + 0.3, "the sound to go on")
        self.press(" ")
        self.there("[data-playing=false]", "the sound to stop")

    def test_change_while_playing_goes_on_at_the_same_place(self) -> None:
        """From one picture to the next the sound moves on by the time between them, round the loop."""
        self.open_step(5)
        self.press("l")
        self.press(" ")
        self.wait(lambda: self.position() > 0.5, "the sound to advance")
        self.driver.execute_script(FOLLOW)
        before = self.render_key()
        self.hold("cutoff")
        self.press(Keys.PAGE_UP)
        self.wait(lambda: self.render_key() != before, "another sound")
        followed = len(self.followed())
        self.wait(lambda: len(self.followed()) > followed + 20, "the other sound to be heard")
        self.assertTrue(self.css("[data-playing=true]"))
        length = 8 * 60 / 96  # the loop is as long as the phrase's beats
        for (at, place), (later, further) in itertools.pairwise(self.followed()):
            jump = (further - place - (later - at) + length / 2) % length - length / 2
            self.assertLess(abs(jump), 0.4, f"from {place} s to {further} s in {later - at} s")
        self.press(" ")

    def followed(self) -> list[list[float]]:
        followed: list[list[float]] = self.driver.execute_script("return window.followed")
        return followed

    def test_step_before_can_be_heard_beside_this_one(self) -> None:
        self.open_step(5)
        self.press("b")
        self.assertEqual(self.button("Before").get_attribute("aria-pressed"), "true")
        self.press(" ")
        self.wait(lambda: self.position() > 0.2, "the sound to advance")
        self.press(" ")


class ChangingTest(BrowserTest):
    def test_setting_changed_with_the_keyboard_alone_is_seen_and_kept(self) -> None:
        self.open_step(5)
        said, key = self.sentence("spectrum"), self.render_key()
        for _ in range(80):
            self.press(Keys.TAB)
            if self.driver.switch_to.active_element == self.slider("cutoff"):
                break
        self.assertEqual(self.driver.switch_to.active_element, self.slider("cutoff"))
        self.press(Keys.PAGE_UP, Keys.PAGE_UP, Keys.ARROW_RIGHT)
        self.settle()
        value = self.value("cutoff")
        self.assertGreater(value, 1500)
        self.assertNotEqual(self.render_key(), key)
        self.assertNotEqual(self.sentence("spectrum"), said)
        self.driver.refresh()
        self.settle()
        self.assertEqual(self.value("cutoff"), value)
        self.says("article ol", f"{value:,.0f} Hz", "the new instruction")

    def test_values_are_typed_with_their_units(self) -> None:
        self.open_step(5)
        entry = self.css("[aria-label='cutoff, typed']")
        assert entry is not None
        for typed, value in (("1.5k", 1500.0), ("A4", 440.0), ("300", 300.0)):
            entry.send_keys(Keys.CONTROL, "a")
            entry.send_keys(typed, Keys.ENTER)
            self.wait(lambda value=value: abs(self.value("cutoff") - value) < 0.01, typed)
        self.select("breath")
        entry = self.css("[aria-label='attack, typed']")
        assert entry is not None
        for typed, value in (("20ms", 0.02), ("1.2 s", 1.2), ("0", 0.0)):
            entry.send_keys(Keys.CONTROL, "a")
            entry.send_keys(typed, Keys.ENTER)
            self.wait(lambda value=value: abs(self.value("attack") - value) < 1e-6, typed)

    def test_what_cannot_be_read_is_explained_and_changes_nothing(self) -> None:
        self.open_step(5)
        before = self.value("cutoff")
        entry = self.css("[aria-label='cutoff, typed']")
        assert entry is not None
        for typed, words in (("loud", "no number"), ("90k", "Choose from 20 Hz to 20,000 Hz")):
            entry.send_keys(Keys.CONTROL, "a")
            entry.send_keys(typed, Keys.ENTER)
            self.says("section [role=alert]", words, words)
            self.assertEqual(entry.get_attribute("value"), typed, "what was typed is not lost")
        entry.send_keys(Keys.ESCAPE)
        self.assertEqual(self.value("cutoff"), before)

    def test_ruler_is_dragged_and_double_click_gives_the_default(self) -> None:
        self.open_step(4)
        ruler = self.slider("sustain")
        width = ruler.size["width"]
        actions = ActionChains(self.driver)
        actions.move_to_element(ruler).click_and_hold().move_by_offset(-width // 4, 0).release().perform()
        self.wait(lambda: abs(self.value("sustain") - 0.25) < 0.03, "the dragged value")
        ActionChains(self.driver).double_click(ruler).perform()
        self.wait(lambda: self.value("sustain") == 0.7, "the default")
        self.settle()

    def test_choice_is_changed_with_the_arrows(self) -> None:
        self.open_step(1)
        key = self.render_key()
        chosen = self.css("[role=radio][aria-checked=true]")
        assert chosen is not None
        self.assertEqual(chosen.text, "saw")
        self.driver.execute_script("arguments[0].focus()", chosen)
        self.press(Keys.ARROW_RIGHT)
        self.says(self.caption_of("spectrum"), "odd partials only", "the square")
        self.settle()
        self.assertNotEqual(self.render_key(), key)

    def test_text_is_written_in_markdown_and_kept(self) -> None:
        self.open_step(2)
        self.push("Write: Why")
        area = self.css("textarea[aria-label=Why]")
        assert area is not None
        area.send_keys(Keys.CONTROL, "a")
        area.send_keys("The **tide** turns.")
        area.send_keys(Keys.ESCAPE)
        self.wait(lambda: self.text_of("article .prose strong") == "tide", "the set text")
        self.settle()
        self.driver.refresh()
        self.settle()
        self.assertEqual(self.text_of("article .prose"), "The tide turns.")


if __name__ == "__main__":
    unittest.main()
