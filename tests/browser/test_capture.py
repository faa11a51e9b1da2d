"""The eight-step demo lesson, built by capture: a scripted educator, whose actions are counted."""

import unittest

from selenium.webdriver.common.keys import Keys

from inner_tone.core.patch.model import Patch
from inner_tone.demo import bell
from tests.support.capturing import CapturingTest
from tests.support.patches import settled

MOST_ACTIONS = 100  # it was 134 before a module could be named where it is found


class EightStepsTest(CapturingTest):
    def choose_stages(self, word: str) -> None:
        """Choose the stages of an envelope in the inspector."""
        self.click("//section//button[starts-with(@aria-label, 'stages:')]")
        self.click(f"//*[@role='option'][normalize-space()='{word}']")

    def finish(self, step: int) -> None:
        """Give the step its title, close it, and come to the next one."""
        self.settle()
        self.click("h1 textarea")
        self.press(Keys.CONTROL, "a")
        self.typed(bell.STEPS[step - 1].title)
        if step == len(bell.STEPS):
            return
        self.typed(Keys.ENTER)
        self.key("f")
        self.there(f"[aria-current=step][aria-label^='Step {step + 1}:']", f"step {step + 1}")
        self.settle()

    def partial(self, step: int, name: str, ratio: str) -> None:
        """Add another sine beside the first."""
        self.at("oscillator")
        self.put_in(f"sine oscillator: {name}")
        self.type_value("ratio", ratio)
        self.finish(step)

    def test_ships_bell_from_nothing(self) -> None:
        lesson = self.begin_by_capture(bell.TITLE)
        self.put_in("sine oscillator: Prime")
        self.finish(1)
        self.at("oscillator")
        self.put_in("amplifier: Loudness")
        self.finish(2)
        self.at("amplifier")
        self.put_in("envelope: Ring")
        self.choose_stages("attack, decay")
        self.type_value("attack", "2 ms")
        self.type_value("decay", "2.5 s")
        self.finish(3)
        self.partial(4, "Tierce", "1.2")
        self.partial(5, "Hum", "0.5")
        self.partial(6, "Nominal", "2.01")
        self.at("amplifier")
        self.put_in("filter: Bronze")
        self.type_value("cutoff", "300")
        self.put_in("envelope: Blow")
        self.choose_stages("attack, decay")
        self.type_value("attack", "2 ms")
        self.type_value("decay", "800 ms")
        self.finish(7)
        self.at("filter")
        self.put_in("reverb: Fog")
        self.type_value("decay", "3.5 s")
        self.type_value("mix", "0.35")
        self.finish(8)
        self.settle()

        with self.application.client() as client:
            steps = client.get(f"/api/lessons/{lesson}").json()["steps"]
        self.assertEqual([one["content"]["title"] for one in steps], [one.title for one in bell.STEPS])
        for step, patch in zip(steps, bell.PATCHES, strict=True):
            self.assertEqual(settled(Patch.model_validate(step["content"]["patch"])), settled(patch))
        print(f"Eight steps by capture: {self.actions} actions.")
        self.assertLess(self.actions, MOST_ACTIONS)
        self.assert_no_errors_logged()


if __name__ == "__main__":
    unittest.main()
