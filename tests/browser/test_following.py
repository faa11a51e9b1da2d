"""Following at one’s own bench: steps done, a wrong turn, hints, being shown, variants, questions, recordings."""

import tempfile
import unittest
import uuid
from pathlib import Path

from selenium.webdriver.common.keys import Keys

from inner_tone.api.accounts import DemoAccount
from inner_tone.core.outside import recorded
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import SetValue
from inner_tone.demo import foghorn
from inner_tone.demo.seed import MAREN
from inner_tone.formats.audio import write_wav
from inner_tone.store import accounts
from inner_tone.store.database import connect, sessions
from tests.support.browser import sign_in_browser, start_chromium
from tests.support.writing import WritingTest

PASSWORD = "a long password"


def hearing(path: Path) -> tuple[str, ...]:
    """Return the arguments by which Chromium's simulated microphone plays a file once."""
    return (
        "--use-fake-ui-for-media-stream",
        "--use-fake-device-for-media-stream",
        f"--use-file-for-fake-audio-capture={path}%noloop",
    )


class FollowingTest(WritingTest):
    """Each test has a learner of its own."""

    def setUp(self) -> None:
        self.learner = self.new_learner("Ada Quist")
        sign_in_browser(self.driver, self.application, self.learner)
        self.lesson = self.application.lesson_called("Foghorn")

    def new_learner(self, name: str) -> DemoAccount:
        made_up = DemoAccount(sign_in=f"learner-{uuid.uuid4().hex[:8]}", name=name, role="learner", password=PASSWORD)
        engine = connect(self.application.database)
        with sessions(engine).begin() as session:
            accounts.create_account(session, made_up.sign_in, name, "learner", PASSWORD)
        engine.dispose()
        return made_up

    def open_own(self, step: int) -> None:
        """Open a step at one's own bench."""
        self.open(f"/practice/{self.lesson}/{step}")
        self.settle()
        self.push("My own bench")
        self.ready()

    def ready(self) -> None:
        """Wait until the bench is there, and all of it kept."""
        self.there("[data-own-keeping=kept]", "the own bench, kept")
        self.settle()

    def state(self, wanted: str) -> None:
        """Ask how near one is, and wait for the answer that is expected."""
        self.push("How near am I?")
        self.there(f"[data-near={wanted}]", wanted)

    def ticks(self) -> list[bool]:
        return [one.get_attribute("data-done") == "true" for one in self.all_css("article ol li[data-done]")]

    def type_attack(self, value: str) -> None:
        self.click("[data-card=breath]")
        field = self.there("section input[aria-label='attack, typed']", "the attack")
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(value, Keys.ENTER)
        self.ready()

    def test_three_steps_with_a_wrong_turn_and_one_that_is_shown(self) -> None:
        self.open_own(2)
        self.state("untouched")
        self.assertIn("Nothing is done yet", self.text_of("[data-near]"))
        self.add("amplifier")
        self.ready()
        self.wait(lambda: self.ticks() and self.ticks()[0], "the first instruction to be ticked")
        self.add("comb")  # a wrong turn
        self.ready()
        self.push("How near am I?")
        self.says("[data-near]", "left to do", "what is left")
        self.assertIn("Remove Comb.", self.hints_until("Remove"))
        self.click("//button[starts-with(., 'Show me all')]")
        self.gone("[data-card^=comb]", "the comb to go")
        self.there("[data-near=done]", "done, without the comb")
        self.ready()
        self.state("done")
        self.assertTrue(self.find("//a[contains(@aria-label, 'Step 2') and contains(@aria-label, '(done)')]"))

        self.push("Next step")
        self.there("//span[.='Step 3 of 5']", "step 3")
        self.ready()
        self.state("untouched")
        self.push("A hint")
        self.there("[data-hint=where]", "the hint")
        self.push("A plainer hint")
        self.says("[data-hint=what]", "Let the gate of Keeper", "the plainer hint")
        self.assert_accessible()
        self.push("Show me")
        self.there("[data-near=done]", "done")
        self.ready()
        self.push("Undo")
        self.wait(lambda: self.ticks() == [False], "what was shown to be taken back")
        self.push("Redo")
        self.wait(lambda: self.ticks() == [True], "and done again")

        self.push("Next step")
        self.there("//span[.='Step 4 of 5']", "step 4")
        self.ready()
        self.state("untouched")
        self.push("A hint")
        self.click("//button[starts-with(., 'Show me all')]")
        self.there("[data-near=done]", "done")
        self.type_attack("30 ms")
        self.wait(lambda: self.ticks() == [True, False], "the value to count no longer")
        self.state("near")
        self.assertIn("comes up faster", self.text_of("[data-near]"))
        self.push("What should I turn?")
        self.says("[data-advice]", "Turn the attack of Breath up", "the advice")
        self.assert_accessible()

    def hints_until(self, word: str) -> str:
        """Take hints, one plainer than the other, and return the plain one; it must have a word."""
        self.push("A hint")
        self.there("[data-hint=where]", "the hint")
        self.assertIn("needed?", self.text_of("[data-hint=where]"))
        self.push("A plainer hint")
        self.there("[data-hint=what]", "the plainer hint")
        self.assertIn(word, self.text_of("[data-hint=what]"))
        return self.text_of("[data-hint=what]")

    def test_browser_closed_in_mid_step_and_a_variant(self) -> None:
        self.open_own(4)
        self.add("envelope")
        self.ready()
        self.choose("Variants…", "Keep a variant…")
        self.there("[data-variant='My bench 2']", "the variant")
        self.ready()
        with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder:
            other = start_chromium(Path(folder))
            here, self.driver = self.driver, other
            try:
                sign_in_browser(other, self.application, self.learner)
                self.open_own(4)
                self.assertEqual(self.attribute("[data-variant]", "data-variant"), "My bench 2")
                self.assertTrue(self.css("[data-card=envelope]"), "what was put in is still there")
                self.push("Undo")  # beyond the page: there is nothing before the variant
                self.choose("Variants (2)…", "Open “My bench”")
                self.there("[data-variant='My bench']", "the first bench")
                self.ready()
                self.push("Undo")
                self.gone("[data-card=envelope]", "what was done before to be taken back")
            finally:
                other.quit()
                self.driver = here

    def test_question_at_the_very_place_the_answer_and_who_sees_it(self) -> None:
        self.open_own(4)
        self.state("untouched")
        self.push("A hint")
        self.push("Ask the educator")
        field = self.there("[data-questions] textarea", "the question")
        field.send_keys("What would breathe here?")
        self.push("Ask")
        self.says("[data-questions]", "not answered yet", "the question to be asked")

        sign_in_browser(self.driver, self.application, MAREN)
        self.open(f"/desk/{self.lesson}/4")
        self.settle()
        self.lesson_menu("Learners…")
        self.there(f"[data-learner='{self.learner.name}']", "the learner")
        self.assert_accessible()
        self.click("//a[contains(., 'Step 4: “My bench”')]")
        self.there(f"[data-looked-at='{self.learner.name}']", "the attempt")
        self.settle()
        self.assertFalse(self.find("//button[.='Undo']"), "nothing can be changed here")
        answer = self.there("[data-question=open] textarea", "the place for the answer")
        answer.send_keys("An envelope, between gate and level.")
        self.push("Answer")
        self.there("[data-question=answered]", "the answer")
        address = self.driver.current_url

        sign_in_browser(self.driver, self.application, self.learner)
        self.open_own(4)
        self.says("[data-questions]", "An envelope, between", "the answer")

        sign_in_browser(self.driver, self.application, self.new_learner("Bo Renk"))
        self.driver.get(address)
        self.wait(lambda: "no such attempt" in self.text_of("[role=alert]").lower(), "nothing to be seen")
        self.open_own(4)
        self.assertFalse(self.css("[data-questions] article"))

    def test_recording_of_another_instrument(self) -> None:
        step = foghorn.LESSON.steps[3]
        envelope = next(one.id for one in step.patch.modules if one.type == "envelope")
        barking = made(step.patch, [SetValue(module=envelope, setting="attack", value=0.02)]).patch
        self.open_own(4)
        self.click("//summary[.='On another instrument']")
        with tempfile.TemporaryDirectory() as folder:
            for name, patch, wanted in (("barking", barking, "otherwise"), ("right", step.patch, "same")):
                self.give(Path(folder) / f"{name}.wav", patch)
                self.there(f"[data-compared={wanted}]", wanted)
                if name == "barking":
                    self.assertIn("comes up faster", self.text_of("[data-compared]"))
                    self.click("[data-compared] .button")
                    self.says("[data-advice]", "attack of Breath up", "the advice")
                    self.push("Show it behind the lenses")
                    self.says(self.caption_of("wave"), "barking.wav", "the recording behind the lens")
                    self.assert_accessible()
            bad = Path(folder) / "bad.wav"
            bad.write_bytes(b"no sound")
            self.send(bad)
            self.says("[data-played] [role=alert]", "not a sound file", "what is wrong with it")

    def test_recording_by_the_microphone(self) -> None:
        step = foghorn.LESSON.steps[3]
        with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder:
            heard = Path(folder) / "heard.wav"
            write_wav(heard, recorded("worn", step.patch, step.phrase).T, 48_000.0)
            other = start_chromium(Path(folder) / "profile", 1280, 800, *hearing(heard))
            here, self.driver = self.driver, other
            try:
                sign_in_browser(other, self.application, self.learner)
                self.open_own(4)
                self.click("//summary[.='On another instrument']")
                self.push("Record here")
                self.there("//button[.='Stop and compare']", "the recording to begin")
                self.there("//*[@data-recorded-s >= 6]", "the phrase to be over")
                self.push("Stop and compare")
                self.there("[data-compared=same]", "the same, as the microphone heard it")
                self.assertIn("recorded", self.text_of("[data-played]"))
            finally:
                other.quit()
                self.driver = here

    def give(self, path: Path, patch: Patch) -> None:
        """Play a patch on a simulated instrument, and give the recording."""
        write_wav(path, recorded("worn", patch, foghorn.LESSON.steps[3].phrase).T, 48_000.0)
        self.send(path)
        self.says("[data-played]", path.name, "the recording")

    def send(self, path: Path) -> None:
        """Choose a file."""
        self.choose_file("[data-played] input[type=file]", path)


if __name__ == "__main__":
    unittest.main()
