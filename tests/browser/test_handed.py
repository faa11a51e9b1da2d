"""A lesson in one file, opened from disk without a network: it plays, goes from step to step, and prints."""

import subprocess
import tempfile
import unittest
from base64 import b64decode
from pathlib import Path

from selenium.webdriver.common.keys import Keys

from inner_tone.demo.foghorn import LESSON
from inner_tone.formats.html import Front
from inner_tone.work.errand import Place
from inner_tone.work.handed import Wanted, handed
from inner_tone.work.studio import Studio
from tests.support.browser import BrowserTest


class OneFileTest(BrowserTest):
    def setUp(self) -> None:
        front = Front(LESSON.title, LESSON.summary, "", "By Maren Holt; edition 1")
        data = handed(Place(Studio(), long=True), Wanted("html"), LESSON, front, {}, {})
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        file = Path(folder.name) / "lesson.html"
        file.write_bytes(data)
        self.driver.execute_cdp_cmd("Network.enable", {})
        self.addCleanup(self.network, offline=False)
        self.network(offline=True)
        self.driver.get(file.as_uri())

    def network(self, *, offline: bool) -> None:
        """Put the network out of reach, or back."""
        wish = {"offline": offline, "latency": 0, "downloadThroughput": -1, "uploadThroughput": -1}
        self.driver.execute_cdp_cmd("Network.emulateNetworkConditions", wish)

    def place(self) -> str:
        return self.text_of("#where")

    def test_it_plays_and_goes_from_step_to_step(self) -> None:
        self.assertEqual(self.text_of("h1"), "Foghorn")
        self.assert_accessible()
        self.push("Begin")
        self.wait(lambda: self.place() == "Step 1 of 5", "the first step")
        self.press(Keys.ARROW_RIGHT)
        self.press(Keys.ARROW_RIGHT)
        self.press(Keys.ARROW_RIGHT)
        self.wait(lambda: self.place() == "Step 4 of 5", "the fourth step")
        self.assert_accessible()
        self.click("//section[@id='step-4']//button[.='Play this step']")
        playing = "const one = document.querySelector('#step-4 audio'); return one.currentTime > 0.2 && !one.paused"
        self.wait(lambda: self.driver.execute_script(playing), "the sound")
        self.click("//section[@id='step-4']//button[.='Before']")
        self.wait(lambda: self.css("#step-4 .play.playing:nth-of-type(2)"), "what was before")
        self.click("//section[@id='step-4']//button[starts-with(., 'Note 2')]")
        self.wait(lambda: self.css("#step-4 .moment.shown[data-place='1']"), "the second note")
        self.assertEqual(len(self.all_css("#step-4 .moment.shown svg")), 2)
        self.push("Next step")
        plays = "return [...document.querySelectorAll('audio')].some((one) => !one.paused)"
        self.assertFalse(self.driver.execute_script(plays))
        self.driver.execute_script("location.hash = '#step-2'")
        self.wait(lambda: self.place() == "Step 2 of 5", "the step that a link leads to")

    def test_it_prints_all_steps(self) -> None:
        data = b64decode(self.driver.print_page())
        with tempfile.NamedTemporaryFile(suffix=".pdf") as file:
            file.write(data)
            file.flush()
            words = subprocess.check_output(["pdftotext", file.name, "-"], text=True)
        for step in LESSON.steps:
            self.assertIn(step.title, words)
        self.assertNotIn("Next step", words)

    def test_it_fits_a_phone(self) -> None:
        size = self.driver.get_window_size()
        self.addCleanup(self.driver.set_window_size, size["width"], size["height"])
        self.driver.execute_cdp_cmd(
            "Emulation.setDeviceMetricsOverride", {"width": 390, "height": 844, "deviceScaleFactor": 1, "mobile": True}
        )
        self.addCleanup(self.driver.execute_cdp_cmd, "Emulation.clearDeviceMetricsOverride", {})
        for step in range(1, 6):
            self.driver.execute_script(f"location.hash = '#step-{step}'")
            self.wait(lambda step=step: self.place() == f"Step {step} of 5", "the step")
            wide = self.driver.execute_script("return document.documentElement.scrollWidth")
            self.assertLessEqual(wide, 390)


if __name__ == "__main__":
    unittest.main()
