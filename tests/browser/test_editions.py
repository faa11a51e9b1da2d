"""Publishing, writing on, and the learner who stays in the edition that they began; two educators at once."""

import tempfile
import unittest
from pathlib import Path

from selenium.webdriver.common.keys import Keys

from inner_tone.api.accounts import DemoAccount
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.demo.bell import STEPS as BELL
from inner_tone.demo.seed import JONAS, MAREN
from tests.support.browser import sign_in_browser, start_chromium
from tests.support.writing import WritingTest

WIEBKE = DemoAccount(sign_in="wiebke", name="Wiebke Janssen", role="educator", password="a long password")


class EditionTest(WritingTest):
    def setUp(self) -> None:
        sign_in_browser(self.driver, self.application, MAREN)

    def publish(self, notes: str, reason: str | None = None) -> None:
        self.lesson_menu("Publish…")
        self.there("[role=dialog] button[type=submit]", "the panel")
        self.says_no_longer("[role=dialog]", "goes through all", "the checkup of all steps")
        field = self.css("[role=dialog] label textarea")
        assert field is not None
        field.send_keys(notes)
        if reason is not None:
            self.overrule(reason)
        self.click("[role=dialog] button[type=submit]:enabled")
        self.notice("is published")

    def overrule(self, reason: str) -> None:
        """Say of each thing that is still to be looked at that it is right; why, of the first."""
        ticks = self.all_css("[role=dialog] input[type=checkbox]:not(:checked)")
        for number, _ in enumerate(ticks):
            self.assertFalse(self.button(f"Still to look at: {len(ticks) - number}").is_enabled())
            self.click("[role=dialog] input[type=checkbox]:not(:checked)")
        self.all_css("[role=dialog] input[aria-label^='Why it is right']")[0].send_keys(reason)

    def test_learner_stays_in_the_edition_that_they_began(self) -> None:
        lesson = self.open_foghorn(4)
        self.lesson_menu("Publish…")
        self.there("//h3[contains(., 'things to look at')]", "what the checkup says")
        self.assert_accessible()
        self.press(Keys.ESCAPE)
        self.gone("[role=dialog]", "the panel to close")
        self.publish("The first one.", "The first steps show on purpose what is missing.")
        self.assert_accessible()
        self.press(Keys.ESCAPE)

        sign_in_browser(self.driver, self.application, JONAS)
        self.open(f"/practice/{lesson}")
        self.settle()
        self.push("Next step")
        self.there("//span[.='Step 2 of 5']", "step 2")
        self.open("/shelf")
        self.notice("You are at step 2")

        self.write_on(lesson)
        changed = self.value("cutoff")
        self.publish_again()

        sign_in_browser(self.driver, self.application, JONAS)
        self.open("/shelf")
        self.notice("edition 2 is out")
        self.open(f"/practice/{lesson}/5")
        self.settle()
        self.assertEqual(self.text_of("h1"), "A filter that gives it distance")
        self.select("bell")
        self.assertEqual(self.value("cutoff"), 420)
        self.assertIn("You are in edition 1", self.text_of("[data-edition]"))
        self.assert_accessible()
        self.push("Move on to edition 2")
        self.there("//span[contains(., 'edition 2')]", "the second edition")
        self.go_in_practice(5)
        self.assertEqual(self.text_of("h1"), "Farther out")
        self.select("bell")
        self.assertEqual(self.value("cutoff"), changed)
        self.assert_no_errors_logged()

    def write_on(self, lesson: str) -> None:
        """Change the last step of a lesson as its educator."""
        sign_in_browser(self.driver, self.application, MAREN)
        self.open(f"/desk/{lesson}/5")
        self.settle()
        self.nudge("bell", "cutoff", Keys.PAGE_DOWN)
        title = self.css("h1 textarea")
        assert title is not None
        title.send_keys(Keys.CONTROL, "a")
        title.send_keys("Farther out")
        self.there("[data-keeping=kept]", "everything kept")

    def publish_again(self) -> None:
        """Publish a second edition, and read what is new in it."""
        self.lesson_menu("Publish…")
        self.there("//h3[contains(., 'things to look at')]", "what the checkup says")
        reason = self.attribute("[role=dialog] input[aria-label^='Why it is right']", "value")
        self.assertIn("on purpose", str(reason), "what was overruled in the last edition is so still")
        while self.css("[role=dialog] input[type=checkbox]:not(:checked)"):  # what is new
            self.click("[role=dialog] input[type=checkbox]:not(:checked)")
        self.push("Publish")
        self.notice("Edition 2 is published")
        self.push("All editions")
        self.there("[data-revision]", "what differs")
        self.assert_accessible()
        said = self.text_of("[data-revision]")
        for word in ("Changed: Farther out", "A filter that gives it distance", "cutoff to"):
            self.assertIn(word, said)
        self.press(Keys.ESCAPE)

    def go_in_practice(self, step: int) -> None:
        self.click(f"nav[aria-label=Steps] a[aria-label^='Step {step}:']")
        self.settle()

    def test_short_edition_and_the_target_first(self) -> None:
        lesson = self.application.make(LessonDocument(title="A bell of mine", steps=BELL[4:]))
        self.open(f"/desk/{lesson}/1")
        self.settle()
        self.lesson_menu("About the lesson…")
        self.push("Open with the target")
        self.write("What to say there (Markdown)", "It ends at {the cutoff of Bronze}.")
        self.assert_accessible()
        self.push("Keep")
        self.click("a[aria-label^='The aim']")
        self.says("article", "It ends at 300 Hz.", "what is said of the target")
        self.settle()
        self.assertTrue(self.css("[data-card=reverb]"), "the patch of the last step")
        self.assert_accessible()
        self.publish("")
        sign_in_browser(self.driver, self.application, JONAS)
        self.open(f"/practice/{lesson}")
        self.says("article", "Where we are heading", "the target first")
        self.push("Begin")
        self.there("//span[.='Step 1 of 4']", "the first step")
        self.push("Follow the short edition")
        self.there("//span[.='Step 1 of 3']", "the short edition")
        self.push("Next step")
        self.wait(lambda: self.text_of("h1") == "Bronze drinks the highs first", "the step behind the extra one")
        self.settle()
        said = " ".join(one.text for one in self.all_css("article ol li"))
        self.assertIn("Nominal", said, "what the extra step did is told here")
        self.open(f"/practice/{lesson}")
        self.there("//span[.='Step 2 of 3']", "where one has come to, in the short edition")


class TwoEducatorsTest(WritingTest):
    def test_both_write_at_once_and_nobody_overwrites_the_other(self) -> None:
        lesson = self.open_foghorn(2)
        self.lesson_menu("Share with an educator…")
        with self.application.client(WIEBKE):
            pass  # she has an account now
        self.write("Sign-in name of another educator", "wiebke")
        self.click("//form//*[@role='radio'][.='for writing too']")
        self.push("Share it")
        self.notice("Wiebke Janssen")
        self.assert_accessible()
        self.press(Keys.ESCAPE)
        with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder:
            hers = start_chromium(Path(folder) / "profile")
            mine = self.driver
            try:
                sign_in_browser(hers, self.application, WIEBKE)
                type(self).driver = hers
                self.open("/shelf")
                self.notice("Maren Holt shares it with you for writing too")
                self.open(f"/desk/{lesson}/4")
                self.settle()
                self.nudge("breath", "attack", Keys.PAGE_UP)

                type(self).driver = mine  # another step: both changes stand
                self.nudge("amp", "level", Keys.PAGE_UP)
                self.settle()

                type(self).driver = hers  # the same step: she is told, and keeps hers beside mine
                self.open(f"/desk/{lesson}/2")
                self.settle()
                self.select("amp")
                self.hold("level")
                self.network(offline=True)  # else her page may show my change before she makes hers
                self.press(Keys.PAGE_DOWN)
                self.there("[data-keeping=failed]", "that it is not kept")
                type(self).driver = mine
                self.nudge("amp", "level", Keys.PAGE_UP)
                type(self).driver = hers
                self.network()
                self.there("[role=alertdialog]", "the conflict")
                self.push("Keep mine as a new step behind it")
                self.there("[aria-current=step][aria-label*='(my version)']", "her version")
                self.settle()
            finally:
                type(self).driver = mine
                hers.quit()
        self.driver.refresh()
        self.settle()
        titles = [one.get_attribute("title") for one in self.all_css("nav[aria-label=Steps] a")]
        self.assertEqual(len(titles), 6)
        self.assertIn("(my version)", str(titles[2]))


if __name__ == "__main__":
    unittest.main()
