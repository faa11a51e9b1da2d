"""Marks: set, referred to and followed by keyboard alone, lit at both ends, and seen by those who follow."""

import subprocess
import unittest
from base64 import b64decode
from pathlib import Path
from tempfile import TemporaryDirectory

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.support.writing import WritingTest

LIT = "[data-mark-number='{}'][data-lit=true]"
BESIDE = "svg [data-mark-number='{}']"


class MarksTest(WritingTest):
    def lit(self, number: int) -> int:
        return len(self.all_css(LIT.format(number)))

    def test_set_referred_to_and_followed_by_keyboard_alone(self) -> None:
        lesson = self.open_foghorn(3)
        self.select("amp")
        self.focus("//button[.='Mark…']")
        self.press(Keys.ENTER)
        self.focus("//button[.='number it']")
        self.press(Keys.ENTER)
        self.there("[data-card=amp] [data-mark-number='1']", "the number on the card")
        self.focus("[aria-label='What Loudness is for']")
        self.press("a hand on the loudness", Keys.ENTER)
        self.focus("[data-lens=spectrum] [role=slider]")
        self.press(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT, "m")
        self.there("[data-lens=spectrum] [data-mark-number='2']", "the number in the lens")
        self.focus("[aria-label='Mark this moment']")
        self.press(Keys.ENTER)
        self.there("[data-score] [data-mark-number='3']", "the number at the moment")
        self.settle()
        listed = [one.text.replace("\n", " ") for one in self.all_css("[data-marks] li")]
        self.assertEqual(len(listed), 3)
        self.assertIn("Spectrum of", listed[1])
        self.assertIn("beat 1", listed[2])

        self.focus("[data-write=Why]")
        self.press(Keys.ENTER)
        field = self.there("textarea[aria-label=Why]", "the field")
        field.send_keys(Keys.CONTROL, Keys.END)
        field.send_keys(" See {mark 1} and {mark 9}.", Keys.ESCAPE)
        self.there("article [data-link='mark:1']", "the reference")
        self.there("article [data-gap='mark 9']", "that there is no ninth")
        self.focus("article [data-link='mark:1']")
        self.wait(lambda: self.lit(1) >= 3, "the place to be lit with its number")
        self.select("reed")
        self.focus("article [data-link='mark:1']")
        self.press(Keys.ENTER)
        self.there("[data-card=amp][aria-pressed=true]", "the card that it leads to")
        self.settle()
        self.assert_accessible()

        with self.subTest("taken away, its purpose stays"):
            self.focus("[data-marks] [aria-label='Take mark 1 away']")
            self.press(Keys.ENTER)
            self.there("article [data-gap='mark 1']", "the gap that it leaves")
            purpose = self.attribute("[aria-label='What Loudness is for']", "value")
            self.assertEqual(purpose, "a hand on the loudness")
            self.settle()
        with self.subTest("kept, and seen by whoever opens the lesson"):
            self.open(f"/practice/{lesson}/3")
            self.settle()
            self.assertEqual(len(self.all_css("[data-marks] li")), 2)
            self.assertFalse(self.all_css("[data-marks] textarea"))
            description = str(self.attribute("[data-card=amp]", "aria-description"))
            self.assertIn("a hand on the loudness", description)
        self.assert_no_errors_logged()

    def test_line_is_marked_and_pointed_at(self) -> None:
        self.open_foghorn(5)
        line = self.there("[data-line^='player.gate']", "the line")
        self.driver.execute_script("arguments[0].dispatchEvent(new MouseEvent('click', {bubbles: true}))", line)
        self.focus("//li[.//*[.='Keeper’s gate']]//button[.='number it']")
        self.press(Keys.ENTER)
        self.there(BESIDE.format(3), "the number on the line")
        self.settle()
        number = self.there("[data-marks] li:nth-child(3)", "its place in the list")
        self.assertIn("Keeper’s gate into the gate of Breath", number.text)
        ActionChains(self.driver).move_to_element(number).perform()
        self.wait(lambda: self.lit(3) >= 2, "the number to be lit on the map")
        texts = self.text_of("svg[aria-label='Map of the patch']")
        self.assertIn("opens with each note", texts, "what a line is for stands beside it where there is room")

    def test_a_step_on_paper_has_its_text_its_marks_its_map_and_its_lenses(self) -> None:
        self.open_step(5)
        self.there("[data-marks] li", "the marks of the demo's step")
        printed = self.driver.execute_cdp_cmd("Page.printToPDF", {"paperWidth": 8.27, "paperHeight": 11.69})
        with TemporaryDirectory() as folder:
            file = Path(folder) / "step.pdf"
            file.write_bytes(b64decode(printed["data"]))
            text = subprocess.check_output(["pdftotext", "-layout", file, "-"], text=True)
        for word in ("A filter that gives it distance", "Bell mouth", "Marks", "Do this", "low-pass", "Hz (A"):
            self.assertIn(word, text)
        for word in ("Play live", "Shelf", "Connections", "Publish", "Done when"):
            self.assertNotIn(word, text)


if __name__ == "__main__":
    unittest.main()
