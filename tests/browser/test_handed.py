"""A lesson in one file, opened from disk without a network: it plays, goes from step to step, and prints."""

import io
import subprocess
import tempfile
import unittest
import zipfile
from base64 import b64decode
from pathlib import Path

from selenium.webdriver.common.keys import Keys

from inner_tone.demo.foghorn import LESSON
from inner_tone.demo.seed import JONAS, MAREN
from inner_tone.formats.html import Front
from inner_tone.work.errand import Workplace
from inner_tone.work.handed import Wanted, handed
from inner_tone.work.studio import Studio
from tests.support.browser import BrowserTest, sign_in_browser


class OneFileTest(BrowserTest):
    def setUp(self) -> None:
        front = Front(LESSON.title, LESSON.summary, "", "By Maren Holt; edition 1")
        data = handed(Workplace(Studio(), long=True), Wanted("html"), LESSON, front, {}, {})
        file = self.file("lesson.html", data)
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
        self.there("#step-4 .play.playing:nth-of-type(2)", "what was before")
        self.driver.execute_script("document.getElementById('moments-4').scrollIntoView()")
        self.click("//section[@id='step-4']//button[starts-with(., 'Note 2')]")
        self.there("#step-4 .moment.shown[data-place='1']", "the second note")
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


API = """
  window.told = { "cmi.core.lesson_status": "not attempted", "cmi.core.lesson_location": "" };
  window.calls = [];
  window.API = {
    LMSInitialize: () => { calls.push("begin"); return "true"; },
    LMSGetValue: (name) => told[name],
    LMSSetValue: (name, value) => { told[name] = value; return "true"; },
    LMSCommit: () => { calls.push("commit"); return "true"; },
    LMSFinish: () => "true",
  };
"""


class PackageTest(BrowserTest):
    def test_a_platform_is_told_how_far_one_is_and_that_one_has_been_through(self) -> None:
        front = Front(LESSON.title, LESSON.summary, "", "By Maren Holt; edition 1")
        data = handed(Workplace(Studio(), long=True), Wanted("package"), LESSON, front, {}, {})
        with tempfile.TemporaryDirectory() as folder:
            with zipfile.ZipFile(io.BytesIO(data)) as packed:
                packed.extractall(folder)
            added = self.driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": API})
            forget = "Page.removeScriptToEvaluateOnNewDocument"
            self.addCleanup(self.driver.execute_cdp_cmd, forget, {"identifier": added["identifier"]})
            self.driver.get((Path(folder) / "index.html").as_uri())
            told = "return [told['cmi.core.lesson_status'], told['cmi.core.lesson_location'], calls[0]]"
            for step in range(1, 6):
                self.press(Keys.ARROW_RIGHT)
                self.wait(lambda step=step: self.text_of("#where") == f"Step {step} of 5", "the step")
                status = "completed" if step == 5 else "incomplete"
                self.assertEqual(self.driver.execute_script(told), [status, str(step), "begin"])
            self.press(Keys.ARROW_LEFT)
            self.wait(lambda: self.text_of("#where") == "Step 4 of 5", "the step before")
            self.assertEqual(self.driver.execute_script(told)[0], "completed", "it stays so")


class HandOutTest(BrowserTest):
    def test_a_lesson_is_made_into_a_file_and_saved(self) -> None:
        sign_in_browser(self.driver, self.application, JONAS)
        self.addCleanup(sign_in_browser, self.driver, self.application, MAREN)
        self.open(f"/practice/{self.application.lesson_called('Foghorn')}/1")
        self.settle()
        self.push("On paper, in a file…")
        self.there("[role=dialog] input[type=radio]", "what it is to be")
        self.assert_accessible()
        self.click("//label[contains(., 'As text (Markdown)')]")
        self.push("Make it")
        link = self.there("//a[.='Save it again']", "the file")
        self.assertIn("/api/jobs/", str(link.get_attribute("href")))


if __name__ == "__main__":
    unittest.main()
