"""Finding and reusing: search, templates, copies, steps from other lessons, series; own words and links in a step."""

import unittest

from selenium.webdriver.common.keys import Keys

from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.demo.bell import STEPS as BELL
from inner_tone.demo.foghorn import STEPS as HORN
from tests.support.writing import WritingTest


class ShelfTest(WritingTest):
    def begin_lesson(self, title: str, opening: str) -> None:
        self.open("/shelf")
        entry = self.there("form input", "the form")
        self.pick("It begins with: ", opening)
        entry.send_keys(title, Keys.ENTER)
        self.wait(lambda: "/desk/" in self.driver.current_url, "the desk")
        self.settle()

    def test_search_leads_to_the_step(self) -> None:
        self.open("/shelf")
        field = self.there("input[type=search]", "the search")
        field.send_keys("brilliance")
        step = "//a[.='Step 5: A filter that gives it distance']"
        self.there(step, "the step")
        self.assertEqual(self.text_of("[data-found] mark"), "brilliance")
        self.assert_accessible()
        self.click(step)
        self.settle()
        self.assertEqual(self.title(), "A filter that gives it distance")
        self.open("/shelf")
        field = self.there("input[type=search]", "the search")
        field.send_keys("dromedary")
        self.notice("No step of your lessons has all these words")

    def test_template_and_copy(self) -> None:
        self.begin_lesson("Wind", "Noise and a filter")
        self.assertTrue(self.css("[data-card=noise]"))
        self.assertEqual(self.title(), "Noise and a filter")
        self.lesson_menu("Duplicate")
        name = "return document.querySelector('[aria-label=\"Title of the lesson\"]')?.value"
        self.wait(lambda: self.driver.execute_script(name) == "Wind (copy)", "the copy")
        self.settle()
        self.assertTrue(self.css("[data-card=noise]"))

    def test_step_and_patch_of_another_lesson(self) -> None:
        self.begin_lesson("Patchwork", "An empty bench")
        self.menu("Take from another lesson…")
        field = self.there("[role=dialog] input[type=search]", "the search")
        field.send_keys("breath envelope swell")
        self.there("[data-found]", "a step")
        self.assert_accessible()
        self.push("Only its patch")
        self.there("[data-card=breath]", "the patch of that step")
        self.settle()
        self.assertEqual(self.title(), "First step", "the text stays")
        self.menu("Take from another lesson…")
        field = self.there("[role=dialog] input[type=search]", "the search")
        field.send_keys("bronze drinks")
        self.there("//div[.='Bronze drinks the highs first']", "the step")
        self.push("The step")
        self.wait(lambda: self.title() == "Bronze drinks the highs first", "the step itself")
        self.settle()
        self.assertEqual(self.steps(), 2)
        self.assertTrue(self.css("[data-card=oscillator-4]"))

    def put_in_series(self, title: str) -> None:
        """Choose a lesson for the series that is shown; moving through the list puts nothing in."""
        self.pick("A lesson of yours: ", title)
        self.assertFalse(self.find("//ol/li"))
        self.push("Put it in")

    def test_lesson_starts_from_another_is_told_when_that_changes_and_follows(self) -> None:
        horn = self.application.make(LessonDocument(title="Horn of the north mole", steps=HORN))
        self.open("/shelf")
        field = self.there("//label[span='A new series']/input", "the form")
        field.send_keys("Two moles", Keys.ENTER)
        self.wait(lambda: "/series/" in self.driver.current_url, "the series")
        series = self.driver.current_url
        self.put_in_series("Horn of the north mole")
        entry = self.there("//label[contains(., 'Horn of the north mole')]/input", "the next lesson")
        entry.send_keys("Fog on the north mole", Keys.ENTER)
        self.wait(lambda: "/desk/" in self.driver.current_url, "the desk")
        later = self.driver.current_url
        self.settle()
        self.assertIn("The patch stays as it was.", self.text_of("article"))
        self.assertIn("Starts from where Horn of the north mole ends", self.text_of("article"))
        self.select("amp")
        self.add("reverb")
        self.wait(lambda: len(self.moves()) == 1, "the change since that lesson")

        self.open(f"/desk/{horn}/5")
        self.settle()
        self.nudge("bell", "cutoff", Keys.PAGE_DOWN)
        value = self.value("cutoff")

        self.driver.get(series)
        self.notice("ends differently now")
        self.assert_accessible()
        self.driver.get(later)
        self.settle()
        self.assertIn("Set Bell mouth’s cutoff to", self.text_of("[data-moved-on]"))
        self.assert_accessible()
        self.push("Follow in all steps")
        self.notice("The change is in 1 step now")
        self.settle()
        self.select("bell")
        self.wait(lambda: self.value("cutoff") == value, "the other cutoff")
        self.assertTrue(self.css("[data-card=reverb]"), "its own change is still there")
        self.push("Take it back")
        self.there("[data-moved-on]", "to be told again")
        self.settle()
        self.select("bell")
        self.wait(lambda: self.value("cutoff") == 420, "the cutoff as it was")

        self.driver.get(series)
        self.push("Move “Fog on the north mole” up")
        first = "return [...document.querySelectorAll('main ol h2')].map((one) => one.innerText)"
        order = ["Fog on the north mole", "Horn of the north mole"]
        self.wait(lambda: self.driver.execute_script(first) == order, "the other order")
        self.driver.refresh()
        self.wait(lambda: self.driver.execute_script(first) == order, "the same after reloading")
        self.assert_no_errors_logged()


class OwnWordsTest(WritingTest):
    def word(self, number: int, text: str) -> None:
        """Word an instruction."""
        self.choose(f"Instruction {number}", "Word it yourself")
        field = self.there("article ol textarea", "the field")
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text)

    def test_own_words_keep_the_facts_and_these_follow_the_patch(self) -> None:
        self.open_foghorn(5)
        self.word(2, "Close the bell to {420 Hz} and no more.")
        self.assertIn("{0.2} must stay in it", self.text_of("article ol [role=status]"))
        self.assertFalse(self.button("Keep").is_enabled())
        self.word_again("Close {Bell mouth} to {500 Hz}.")
        self.assertIn("{500 Hz} is no fact", self.text_of("article ol [role=status]"))
        self.word_again("Close {Bell mouth} to {420 Hz} with {0.2} of resonance, at {24 dB per octave}.")
        self.assert_accessible()
        self.press(Keys.ENTER)
        said = "Close Bell mouth to 420 Hz with 0.2 of resonance, at 24 dB per octave."
        self.wait(lambda: said in self.moves(), "the own words")
        self.nudge("bell", "cutoff", Keys.PAGE_UP)
        self.wait(lambda: said.replace("420 Hz", "838 Hz") in self.moves(), "the value that followed")
        self.select("bell")
        self.click("//*[@role='radio'][normalize-space()='12']")
        self.there("[data-misfits]", "to be told that it no longer fits")
        self.assertIn("No longer done", self.text_of("[data-misfits]"))
        self.assert_accessible()
        self.push("Let it go")
        self.gone("[data-misfits]", "the words to be let go")
        self.settle()

    def word_again(self, text: str) -> None:
        field = self.css("article ol textarea")
        assert field is not None
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text)

    def test_own_order_as_far_as_it_can_be_done(self) -> None:
        self.open_foghorn(1)
        before = self.moves()
        self.choose("Instruction 3", "Move up")
        swapped = [before[0], before[2], before[1], *before[3:]]
        self.wait(lambda: self.moves() == swapped, "the other order")
        self.choose("Instruction 2", "Move up")
        self.there("[data-misfits]", "to be told that it cannot be done")
        self.assertIn("In your order it cannot be done", self.text_of("[data-misfits]"))
        self.assertEqual(self.moves(), before)
        self.push("Let it go")
        self.gone("[data-misfits]", "the order to be let go")

    def test_links_lead_to_pictures_detours_and_modules(self) -> None:
        lesson = self.application.make(LessonDocument(title="Links", steps=BELL[:3]))
        self.open(f"/desk/{lesson}/3")
        self.settle()
        picture = "[data-link='plate:plate-1']"
        self.assertEqual(self.text_of(picture), "picture 1")
        self.click(picture)
        self.there("[data-plate=plate-1]:focus", "the picture")
        self.click("[data-link='detour:detour-1']")
        self.says(self.caption_of("spectrum"), "Against A wooden one", "the detour")
        self.go(2)
        self.click("[data-link='module:oscillator']")
        self.there("section[aria-label='Settings of Prime']", "the rulers of the module")
        self.push("Write: Listen for")
        self.click("button[aria-label^='Point to…']")
        self.click("//*[@role='menuitem'][normalize-space()='the module Loudness']")
        self.there("[aria-label='Preview: Listen for'] [data-link='module:amplifier']", "the link in the text")
        self.assert_accessible()
        self.assert_no_errors_logged()


if __name__ == "__main__":
    unittest.main()
