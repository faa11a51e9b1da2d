"""The shelf: an educator's first minutes lead to a sounding patch and a written step, a learner's shows the way."""

import unittest

from selenium.webdriver.common.keys import Keys

from inner_tone.api.accounts import DemoAccount
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.demo.bell import STEPS as BELL
from inner_tone.demo.seed import MAREN
from tests.support.browser import sign_in_browser
from tests.support.writing import WritingTest

FRAUKE = DemoAccount(sign_in="frauke", name="Frauke Petersen", role="educator", password="a long password")
TJARK = DemoAccount(sign_in="tjark", name="Tjark Harms", role="learner", password="a long password")


class FirstVisitTest(WritingTest):
    def tearDown(self) -> None:
        sign_in_browser(self.driver, self.application, MAREN)

    def test_educator_comes_to_a_sounding_patch_and_a_written_step(self) -> None:
        sign_in_browser(self.driver, self.application, FRAUKE)
        self.open("/shelf")
        self.focus("//section[@aria-label='Begin your first lesson']//button[contains(., 'A tone under the keys')]")
        self.assert_accessible()
        self.press(Keys.ENTER)
        self.wait(lambda: "/desk/" in self.driver.current_url, "the desk")
        self.settle()
        self.assertIn("peak −", self.text_of("body"), "it sounds")
        self.assertTrue(self.find("//*[@role='tab'][starts-with(., 'Checkup: all well')]"))
        self.focus("[data-write=Why]")
        self.press(Keys.ENTER)
        self.there("textarea[aria-label=Why]", "the field").send_keys("A tone has a beginning.")
        self.press(Keys.ESCAPE)
        self.settle()
        self.open("/shelf")
        self.notice("A tone under the keys")
        self.assertFalse(self.css("[aria-label='Begin your first lesson']"))

    def test_learner_sees_what_is_new_where_they_are_and_what_they_have_followed(self) -> None:
        sign_in_browser(self.driver, self.application, TJARK)
        self.open("/shelf")
        self.there("section[aria-label='New for you']", "what is new")
        self.assertFalse(self.css("section[aria-label='Where you are']"))
        with self.application.client(TJARK) as client:
            lessons = {one["title"]: one["id"] for one in client.get("/api/practice").json()}
        self.open(f"/practice/{lessons['Foghorn']}/2")
        self.settle()
        self.open("/shelf")
        self.says("section[aria-label='Where you are']", "Foghorn", "where they are")
        self.assertEqual(self.attribute("[data-way]", "data-way"), "2/5")
        self.open(f"/practice/{lessons['Foghorn']}/5")
        self.settle()
        self.open("/shelf")
        self.says("section[aria-label='Followed to the end']", "Foghorn", "that it is followed")
        self.assertTrue(self.find("//section[@aria-label='Followed to the end']//a[.='Look again']"))
        self.assert_accessible()


class BundleTest(WritingTest):
    def offer(self, name: str, data: bytes) -> None:
        """Choose a file in the place for bundles."""
        self.choose_file("input[aria-label='A bundle']", self.file(name, data))

    def test_a_bundle_is_looked_into_and_opened(self) -> None:
        bell = self.application.lesson_called("Ship’s bell")
        with self.application.client() as client:
            data = client.get(f"/api/lessons/{bell}/bundle").content
        self.open("/shelf")
        self.there("//button[.='Open a bundle…']", "the shelf")
        self.offer("gull.zip", b"no bundle at all")
        self.says("[role=dialog] [role=alert]", "not a bundle", "what is wrong with it")
        self.push("Leave it")
        self.offer("bell.zip", data)
        self.says("[role=dialog] h2", "Ship’s bell", "what would come")
        self.assertEqual(len(self.all_css("[role=dialog] ol > li")), 8)
        self.assertIn("the very same lesson already", self.text_of("[role=dialog]"))
        self.assert_accessible()
        self.push("Open another copy")
        self.wait(lambda: "/desk/" in self.driver.current_url, "the desk")
        self.settle()
        self.assertNotIn(bell, self.driver.current_url)
        self.assertEqual(self.title(), BELL[0].title)


class PublishingTest(WritingTest):
    def test_steps_are_told_with_their_gaps_and_what_the_short_edition_leaves_out(self) -> None:
        steps = (BELL[0].model_copy(update={"why": "", "title": "New step"}), *BELL[1:])
        lesson = self.application.make(LessonDocument(title="A bell of mine", steps=steps))
        self.open(f"/desk/{lesson}/1")
        self.settle()
        self.lesson_menu("Publish…")
        self.says("[data-steps] h3", "to look at", "what the checkup says")
        rows = [one.text.replace("\n", " ") for one in self.all_css("[data-steps] ol > li")]
        self.assertEqual(len(rows), 8)
        self.assertIn("still called “New step”", rows[0])
        self.assertIn("does not say why", rows[0])
        self.assertIn("not in the short edition", rows[5])
        self.assertIn(BELL[1].title, rows[1])
        self.assertFalse(any("does not say why" in one for one in rows[1:]))
        self.assertIn("8 steps, 7 of them in the short edition", self.text_of("[data-steps] h3"))
        self.assert_accessible()
        self.press(Keys.ESCAPE)


if __name__ == "__main__":
    unittest.main()
