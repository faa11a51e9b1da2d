"""Own sounds at the bench: brought, described, chosen for a sampler, shaped, made of what is heard, and refused."""

import unittest
from pathlib import Path
from typing import Any

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.support.samples import file_of, tone
from tests.support.writing import WritingTest

ROW = "//article[@data-sound-row='{}']"


class SoundsTest(WritingTest):
    def give(self, name: str, data: bytes) -> None:
        """Bring a file in the panel."""
        self.bring(self.file(name, data))
        self.push("Keep it")
        there = "//article[contains(., 'Here. ')]"
        self.wait(lambda: self.css("[data-new-sound] [role=alert]") or self.find(there), "an answer")

    def bring(self, file: Path) -> None:
        """Choose a file in the panel, which asks for its name then."""
        self.choose_file("[role=dialog] input[type=file]", file)
        self.there("[data-new-sound]", "to be asked for its name")

    def kept(self, lesson: str) -> Any:
        with self.application.client() as client:
            return client.get(f"/api/lessons/{lesson}").json()["steps"][1]["content"]["patch"]

    def test_a_file_becomes_what_a_sampler_plays(self) -> None:
        lesson = self.open_foghorn(2)
        self.choose("Do…", "Sounds for samplers…")
        self.there("[data-sounds]:not([data-sounds=busy])", "the sounds")
        self.give("Hawser.wav", file_of(tone(233.08, 1.5)))
        told = self.there(ROW.format("Hawser"), "the sound").text
        self.assertIn("Its root is A♯3; a loop is proposed from", told)
        self.click(f"{ROW.format('Hawser')}//button[.='Describe…']")
        source = f"{ROW.format('Hawser')}//input[@placeholder='Who, where, when']"
        field = self.there(source, "the field for its source")
        field.send_keys("The quay, at night")
        self.push("Keep")
        self.there(f"{ROW.format('Hawser')}[contains(., 'The quay, at night')]", "its source")
        self.click(f"{ROW.format('Hawser')}//button[.='Put in a sampler']")
        self.there("[data-inspector] [data-sound='Hawser'] svg", "the sampler with its wave")
        self.settle()
        (sampler,) = [one for one in self.kept(lesson)["modules"] if one["type"] == "sampler"]
        self.assertTrue(sampler["settings"]["sound"].endswith(" Hawser"))
        self.assertAlmostEqual(sampler["settings"]["root"], -2.0, delta=0.02)
        self.assertGreater(sampler["settings"]["loop_to"], sampler["settings"]["loop_from"])
        self.assertTrue(self.find("//article//*[contains(., '“Hawser”')]"), "the instructions call it by its name")
        self.assertFalse(self.find(f"//article//*[contains(., '{sampler['settings']['sound'][:12]}')]"))
        self.click("//*[@role='radio'][normalize-space()='on']")
        self.settle()
        edge = self.there("[data-inspector] [data-place=loop_to]", "the end of the loop")
        before = sampler["settings"]["loop_to"]
        self.drag(edge, -40)
        self.settle()
        (sampler,) = [one for one in self.kept(lesson)["modules"] if one["type"] == "sampler"]
        self.assertLess(sampler["settings"]["loop_to"], before)

    def drag(self, what: Any, x: int) -> None:
        ActionChains(self.driver).click_and_hold(what).move_by_offset(x, 0).release().perform()

    def test_a_sound_of_what_is_heard(self) -> None:
        self.open_foghorn(4)
        self.choose("Do…", "Sounds for samplers…")
        self.there("[data-sounds]:not([data-sounds=busy])", "the sounds")
        self.push("Of what is heard here: Of what is heard here…")
        self.click("//*[@role='option'][normalize-space()='Reed, all of it']")
        self.push("Keep it")
        row = self.there(ROW.format("Reed"), "the sound")
        self.assertIn("A1", row.text, "55 Hz")
        self.click(f"{ROW.format('Reed')}//button[.='Delete']")
        self.gone(ROW.format("Reed"), "it to be gone")
        self.press(Keys.ESCAPE)

    def test_what_is_no_sound_is_refused_and_nothing_is_lost(self) -> None:
        self.open_foghorn(2)
        self.choose("Do…", "Sounds for samplers…")
        self.there("[data-sounds]:not([data-sounds=busy])", "the sounds")
        self.give("Rope.wav", b"no sound at all")
        said = self.there("[data-new-sound] [role=alert]", "to be told").text
        self.assertIn("not a sound file", said)
        self.assertEqual(self.attribute("[data-new-sound] input", "value"), "Rope")
        self.push("Leave it")
        gone = self.file("Gone.wav", file_of(tone(220.0, 0.5)))
        self.bring(gone)
        gone.unlink()
        self.push("Keep it")
        said = self.there("[data-new-sound] [role=alert]", "to be told").text
        self.assertIn("“Gone.wav” cannot be read", said)
        self.assertNotIn("server", said, "which is well")
        self.push("Leave it")
        self.press(Keys.ESCAPE)


if __name__ == "__main__":
    unittest.main()
