"""Company at the bench: brought in, set, heard alone, with and without by one key, seen in thirds, and kept."""

import unittest
from typing import Any

from inner_tone.demo.foghorn import STEPS
from tests.support.writing import WritingTest

PRESSED = "div[aria-label='In company'] button[aria-pressed=true]"


class CompanyTest(WritingTest):
    def kept(self, lesson: str) -> Any:
        """Return the company that the third step has on the server."""
        with self.application.client() as client:
            return client.get(f"/api/lessons/{lesson}").json()["steps"][2]["content"]["phrase"]["company"]

    def how(self) -> str:
        """Return how it is heard."""
        found = self.see(PRESSED)
        return found.text if found else ""

    def bring_in(self, name: str, count: int) -> None:
        self.push(name)
        self.there(f"[data-company='{count}']", name)

    def test_brought_in_heard_and_seen(self) -> None:
        lesson = self.open_foghorn(3)
        self.body().send_keys("5")
        self.there("[data-company='0']", "the company")
        self.bring_in("Low reeds", 1)
        self.bring_in("Bells", 2)
        self.bring_in("Bells", 3)
        self.settle()
        self.assertEqual([one["id"] for one in self.kept(lesson)], ["reeds", "bells", "bells-2"])
        self.assertTrue(self.find("//article//li[contains(., 'Let Low reeds sound along.')]"))
        self.assertEqual(self.how(), "With")
        self.body().send_keys("f")
        self.wait(lambda: self.how() == "Alone", "it alone")
        self.body().send_keys("F")
        self.wait(lambda: self.how() == "Without", "the company without it")
        self.body().send_keys("f")
        self.wait(lambda: self.how() == "With", "it in company again")
        self.click("[data-part='bells-2'] .act-away")
        self.there("[data-company='2']", "one to be gone")
        self.click("//article[@data-part='bells']//button[.='Mute']")
        self.settle()
        self.assertEqual([one["muted"] for one in self.kept(lesson)], [False, True])
        self.click("//article[@data-part='bells']//button[.='Alone']")
        self.there("[data-part='bells'] button[aria-pressed=true]", "the bells alone")
        self.body().send_keys("1")
        self.pick("Behind the lenses", "the company")
        self.settle()
        self.there("//figure[contains(., 'of the energy')]", "what it carries, with figures")

    def test_a_step_of_a_lesson_comes_in(self) -> None:
        lesson = self.open_foghorn(3)
        self.body().send_keys("5")
        self.push("A step of a lesson…")
        self.pick("Lesson", "A horn of mine")
        self.pick("Step", f"5. {STEPS[4].title}")
        self.there("[data-company='1']", "the step as a part")
        self.settle()
        (part,) = self.kept(lesson)
        self.assertEqual((part["name"], len(part["patch"]["modules"])), ("A horn of mine", len(STEPS[4].patch.modules)))
        self.push("Undo")
        self.there("[data-company='0']", "it to be gone again")
        self.settle()

    def test_what_is_heard_is_the_mix(self) -> None:
        self.open_foghorn(3)
        self.body().send_keys("5")
        self.bring_in("Low reeds", 1)
        self.settle()
        self.push("Play the phrase")
        self.there("[data-playing=true]", "it to be played")
        self.body().send_keys("f")
        self.push("Stop")
        self.there("[data-playing=false]", "silence")


if __name__ == "__main__":
    unittest.main()
