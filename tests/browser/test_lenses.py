"""Lenses: pointing, comparing, reading, plates, files, strips, the projector, and two sounds told apart by ear."""

import csv
import io
import re
import subprocess
import tempfile
import unittest
from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from tests.support.browser import BrowserTest


class MomentTest(BrowserTest):
    STRIP = "[role=slider][aria-label='What the lenses look at']"

    def looking(self, words: str) -> None:
        self.says("[data-moment]", words, words)
        self.settle()

    def test_moment_is_moved_by_keys_and_pointer_and_kept_with_the_step(self) -> None:
        self.open_step(4)
        self.looking("note 1 of 2, A3")
        self.focus(self.STRIP)
        self.press(Keys.ARROW_RIGHT)
        self.looking("note 2 of 2")
        self.driver.refresh()
        self.looking("note 2 of 2")
        strip = self.css(self.STRIP)
        assert strip is not None
        width = strip.size["width"]
        drag = ActionChains(self.driver).move_to_element_with_offset(strip, round(-0.4 * width), 0)
        drag.click_and_hold().move_by_offset(round(0.2 * width), 0).release().perform()
        self.looking("a stretch")
        self.focus(self.STRIP)
        self.press(Keys.ESCAPE)
        self.looking("note 1 of 2")
        self.assert_accessible()
        self.assert_no_errors_logged()

    def test_learner_looks_elsewhere_without_changing_the_lesson(self) -> None:
        self.open_step(4, "practice")
        self.push("whole")
        self.looking("the whole phrase")
        self.driver.refresh()
        self.looking("note 1 of 2")


class LensTest(BrowserTest):
    def point_at(self, start: str) -> None:
        """Click on the line of the map that comes from a port."""
        grip = self.there(f"[data-grip^='{start}']", f"the line from {start}")
        ActionChains(self.driver).move_to_element(grip).click().perform()

    def cursor_reads(self, lens: str, steps: int) -> str:
        cursor = self.there(f"[data-lens={lens}] [role=slider]", "the cursor")
        self.driver.execute_script("arguments[0].focus()", cursor)
        for _ in range(steps):
            self.press(Keys.ARROW_RIGHT)
        return str(cursor.get_attribute("aria-valuetext"))

    def plate(self) -> WebElement:
        """Return the last plate of the step: the one that was made just now."""
        found: WebElement = self.wait(lambda: self.all_css("[data-plate]"), "a plate")[-1]
        return found

    def more_for_plate(self, word: str) -> None:
        self.pick(f"More for picture {len(self.all_css('[data-plate]'))}", word)

    def keep(self, lens: str) -> None:
        """Keep a lens as a plate, and wait for it."""
        count = len(self.all_css("[data-plate]"))
        self.pick(f"More for the lens {lens}", "Keep in the step as a plate")
        self.wait(lambda: len(self.all_css("[data-plate]")) == count + 1, "the plate")
        self.settle()

    def caption(self) -> str:
        return str(self.plate().find_element(By.CSS_SELECTOR, "textarea").get_attribute("value"))

    def downloads_to(self, folder: str) -> None:
        wish = {"behavior": "allow", "downloadPath": folder}
        self.driver.execute_cdp_cmd("Browser.setDownloadBehavior", wish)

    def downloaded(self, folder: Path, suffix: str) -> bytes:
        found: Path = self.wait(lambda: next(iter(folder.glob(f"*.{suffix}")), None), f"the file {suffix}")
        self.wait(lambda: found.stat().st_size > 0, "all of it")
        return found.read_bytes()


class PlateTest(LensTest):
    def test_from_pointing_to_a_file(self) -> None:
        self.open_step(5)
        self.point_at("amp.out")
        self.wait(lambda: "Spectrum listens to Loudness" in self.labels(), "the lens on the line")
        self.pick("Behind the lenses", "the step before")
        self.says(self.caption_of("spectrum"), "Against the step before", "the step before behind it")
        self.settle()
        self.assertRegex(self.cursor_reads("spectrum", 2), r"^110 Hz   A2   −1[12]\.?\d* dB   against it .* partial 2$")

        self.keep("spectrum")
        self.assertEqual(self.plate().get_attribute("data-outdated"), "false")
        first = self.caption()
        self.assertIn("55 Hz (A1): all partials, falling 6 dB per octave; cut off above 4", first)
        self.settle()

        self.select("bell")
        self.hold("cutoff")
        self.press(Keys.PAGE_UP)
        self.wait(lambda: self.plate().get_attribute("data-outdated") == "true", "the plate to be marked")
        self.assertIn("The step has moved on", self.plate().text)
        self.click("(//*[@data-plate])[last()]//button[text()='Refresh']")
        self.wait(lambda: self.plate().get_attribute("data-outdated") == "false", "the plate to be fresh")
        self.assertNotEqual(self.caption(), first)
        self.assert_accessible()
        self.assert_files()

    def labels(self) -> list[str]:
        return [str(one.get_attribute("aria-label")) for one in self.all_css("[data-lens] button[aria-label]")]

    def assert_files(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            self.downloads_to(name)
            self.more_for_plate("Save as SVG")
            drawn = self.downloaded(folder, "svg")
            done = subprocess.run(["xmllint", "--noout", "-"], input=drawn, capture_output=True, check=False)
            self.assertEqual((done.returncode, done.stderr), (0, b""))
            self.assertIn(self.caption()[:40].encode(), drawn)
            self.more_for_plate("Save the numbers as CSV")
            rows = list(csv.DictReader(io.StringIO(self.downloaded(folder, "csv").decode())))
            partials = [row for row in rows if row["series"] == "partials"]
            self.assertAlmostEqual(float(partials[1]["x"]), 110.0, delta=0.01)
            self.pick("More for the lens spectrum", "Save the sound as FLAC")
            self.assertTrue(self.downloaded(folder, "flac").startswith(b"fLaC"))
        self.assert_no_errors_logged()

    def test_plate_is_shown_in_practice_and_opens_as_a_lens(self) -> None:
        self.open_step(4)
        self.select("breath")
        self.pick("Lens: Wave", "Level")
        self.says(self.caption_of("level"), "attack", "the level")
        self.settle()
        self.keep("level")
        self.driver.get(self.driver.current_url.replace("/desk/", "/practice/"))
        self.settle()
        self.assertIn("attack", self.plate().text)
        self.assertIsNone(self.css("[data-plate] textarea"))
        self.more_for_plate("Open as a lens")
        self.there("[data-lens=level]", "the level")


class LookingTest(LensTest):
    def setUp(self) -> None:
        """Let no step have lenses of its own that another test has set up."""
        self.open("/shelf")
        self.there("h2", "the shelf")
        with self.application.client() as client:
            for step in client.get(f"/api/lessons/{self.application.lesson_called('Foghorn')}").json()["steps"]:
                body = {"version": step["version"], "content": {"lenses": None}}
                client.put(f"/api/steps/{step['id']}", json=body).raise_for_status()

    def test_several_taps_by_pointing_and_from_the_list(self) -> None:
        self.open_step(5)
        self.select("reed")
        self.press("t")
        self.there("//*[contains(text(), 'Point at lines')]", "the question")
        for start in ("reed.out", "bell.out", "amp.out"):
            self.point_at(start)
        self.push("Done")
        self.settle()
        label = self.css("[data-lens=wave] button[aria-label*='listens to']")
        assert label is not None
        self.assertEqual(label.text, "Reed, Bell mouth, Loudness")
        self.pick("Wave listens to", "what is selected: Reed")
        self.wait(lambda: label.text == "Reed", "one tap again")

    def test_every_lens_says_and_draws_something(self) -> None:
        self.open_step(5)
        self.select("bell")
        words = {
            "Spectrum": "cut off above",
            "Sweep": "throughout",
            "Level": "LUFS",
            "Response": "Lows pass up to 4",
        }
        for name, word in words.items():
            self.click("[data-lens] button[aria-label^='Lens:']")
            self.click(f"//*[@role='option'][text()='{name}']")
            kind = name.lower()
            self.says(self.caption_of(kind), word, f"the {kind}")
            self.assertGreater(self.inked(kind), 500, kind)
        self.assert_accessible()
        self.assert_no_errors_logged()

    def inked(self, lens: str) -> int:
        """Return how many pixels of a lens are blue."""
        script = (
            "const c = document.querySelector(`[data-lens=${arguments[0]}] canvas`);"
            "const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data; let n = 0;"
            "for (let i = 0; i < d.length; i += 4) if (d[i + 2] > d[i] + 60) n++; return n"
        )
        return int(self.driver.execute_script(script, lens))

    def test_settings_of_a_lens(self) -> None:
        self.open_step(1)
        self.push("Set the lens spectrum")
        self.click("//*[@role='radio'][text()='linear']")
        low = self.there("input[aria-label='Highest frequency, typed']", "the span")
        low.send_keys(Keys.CONTROL, "a")
        low.send_keys("1k", Keys.ENTER)
        self.press(Keys.ESCAPE)
        self.settle()
        reading = self.cursor_reads("spectrum", 18)
        self.assertIn("partial 18", reading)
        self.assertIn("990 Hz", reading, "the last one below 1 kHz")
        self.press(Keys.ARROW_RIGHT)
        self.assertIn("partial 18", self.cursor_reads("spectrum", 0))

    def test_table_of_partials(self) -> None:
        self.open_step(1)
        self.pick("More for the lens spectrum", "Table of partials")
        rows = self.wait(lambda: self.all_css("[data-lens=spectrum] tbody tr"), "the rows")
        self.assertEqual(rows[2].text.split()[:3], ["3", "165", "E3"])

    def test_projector_fills_the_page_in_large_type(self) -> None:
        self.open_step(5)
        self.press("p")
        large = self.there("[data-projector]", "the projector")
        self.assertIn("5 of 5", large.text)
        self.there("[data-page=text] article", "the text")
        self.assert_accessible()
        self.press(Keys.ARROW_RIGHT)
        self.there("[data-page=map] [data-card]", "the map")
        self.assert_accessible()
        self.press(Keys.ARROW_RIGHT)
        large = self.there("[data-page='0']", "the first lens")
        self.assertIn("Wave", large.text)
        canvas = self.there("[data-projector] canvas", "the picture")
        self.assertGreater(canvas.size["width"], 1150)
        self.assert_accessible()
        self.press("g")
        self.there("[data-projector] [data-ground=dark]", "the dark ground")
        self.assert_accessible()
        self.assert_large()
        self.press("g", Keys.ARROW_RIGHT)
        self.there("[data-page='1']", "the second lens")
        self.press(*[Keys.ARROW_LEFT] * 4)
        self.wait(lambda: self.css("[data-page='1']") and self.driver.current_url.endswith("/4"), "the step before")
        self.press(Keys.ESCAPE)
        self.gone("[data-projector]", "the bench again")

    def assert_large(self) -> None:
        """Check that everything on the projector's page is set in type of at least 22 px."""
        sizes = self.driver.execute_script(
            "return [...document.querySelectorAll('[data-projector] *')].filter((one) =>"
            " [...one.childNodes].some((node) => node.nodeType === 3 && node.textContent.trim()))"
            ".map((one) => [parseFloat(getComputedStyle(one).fontSize), one.textContent])"
        )
        self.assertEqual([one for one in sizes if one[0] < 21.9], [])

    def test_strip_over_a_setting_becomes_a_plate(self) -> None:
        self.open_step(5)
        self.select("bell")
        self.settle()
        self.pick("More for the lens spectrum", "Strip over a setting…")
        self.wait(lambda: len(self.all_css("[data-strip] canvas")) == 5, "five pictures")
        self.click("//*[@role='radio'][text()='3']")
        self.wait(lambda: len(self.all_css("[data-strip] canvas")) == 3, "three pictures")
        self.assert_accessible()
        self.push("Keep as a plate")
        self.assertTrue(self.there("[data-plate]", "the plate"))
        self.assertRegex(
            self.all_css("[data-plate] textarea")[-1].get_attribute("value") or "", "^Cutoff of Bell mouth:"
        )

    def test_frozen_state_stands_behind_what_is_done_next(self) -> None:
        self.open_step(1)
        self.select("reed")
        self.press("j")
        self.settle()
        self.click("//*[@role='radio'][normalize-space()='square']")
        self.says(self.caption_of("spectrum"), "odd partials only", "the square")
        self.says(self.caption_of("spectrum"), "Against the frozen state", "the difference")
        self.assertRegex(self.sentence("spectrum"), r"partials gone, from 110 Hz on")
        self.press(Keys.CONTROL, "z")
        self.says(self.caption_of("spectrum"), "all partials", "the saw again")
        self.settle()


class ComparingTest(LensTest):
    def gain(self) -> float:
        return float(self.driver.execute_script("return window.__gain ?? 0"))

    def test_two_sounds_are_heard_equally_loud_and_blind(self) -> None:
        self.open_step(5)
        self.driver.execute_script(
            "const ramp = AudioParam.prototype.linearRampToValueAtTime;"
            "AudioParam.prototype.linearRampToValueAtTime = function (v, t)"
            " { window.__gain = v; return ramp.call(this, v, t) }"
        )
        self.press("l", " ")
        self.wait(lambda: self.css("[data-playing=true]") and self.gain() > 0, "the sound")
        levels = {}
        for which in ("this", "other"):
            self.wait(lambda: self.gain() > 0, "a gain")
            levels[which] = self.gain()
            self.press("b")
            self.wait(lambda which=which: self.gain() != levels[which], "the other sound")
        self.assertAlmostEqual(max(levels.values()), 1.0, places=6, msg="the softer one as it is")
        self.assertLess(min(levels.values()), 0.98, "the louder one turned down")
        self.assert_blind()

    def assert_blind(self) -> None:
        self.push("Blind")
        self.there("[data-blind]", "two sounds without names")
        self.assertNotIn("This step", self.text_of("section[aria-label=Playing]"))
        self.press("b")
        self.push("The first")
        told = self.text_of("[data-blind] [role=status]")
        self.assertTrue(re.match(r"(Right|No): it is the (first|second)\. [01] of 1", told), told)
        self.assert_accessible()
        self.push("Enough")
        self.gone("[data-blind]", "the names again")


if __name__ == "__main__":
    unittest.main()
