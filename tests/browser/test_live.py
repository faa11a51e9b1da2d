"""Playing live in the browser: keys, rulers, modules, a line that is lost, a MIDI device, recording, and a learner."""

import time
import unittest
from statistics import median
from typing import Any

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.step import first_step
from inner_tone.core.phrase import Phrase
from inner_tone.demo.seed import JONAS, MAREN
from tests.live.test_session import VOICE
from tests.support.browser import sign_in_browser
from tests.support.patches import module, patch
from tests.support.writing import WritingTest

HEARD = """return Number(document.querySelector("[data-live]")?.dataset.loudest ?? 0)"""
STRIKE = """const key = (type) => document.body.dispatchEvent(
  new KeyboardEvent(type, {code: arguments[1], key: "x", bubbles: true}));
key(arguments[0]);"""


class LiveCase(WritingTest):
    def setUp(self) -> None:
        sign_in_browser(self.driver, self.application, MAREN)

    def from_menu(self, button: str, word: str) -> None:
        """Open a menu by how its button begins, and choose."""
        self.click(f"//button[starts-with(@aria-label, '{button}') or starts-with(normalize-space(), '{button}')]")
        self.click(f"//*[@role='menuitem'][normalize-space()='{word}']")

    def play(self, step: int, lesson: str = "Foghorn", screen: str = "desk") -> None:
        """Open a step and play it."""
        self.open_step(step, screen, lesson)
        self.push("Play live")
        self.there("[data-live=on]", "the bench to be an instrument")

    def loudest(self) -> float:
        return float(self.driver.execute_script(HEARD))

    def levels(self, seconds: float) -> list[float]:
        """Return what is told of the level meanwhile."""
        told, end = [self.loudest()], time.monotonic() + seconds
        while time.monotonic() < end:
            now = self.loudest()
            if now != told[-1]:
                told.append(now)
        return told

    def level(self) -> float:
        """Return the level of what sounds; on a busy machine there may be a gap just now."""
        return max(self.levels(0.5))

    def key(self, kind: str, code: str) -> None:
        self.driver.execute_script(STRIKE, kind, code)

    def sounds(self) -> None:
        self.wait(lambda: self.loudest() > 0.02, "sound at the output")

    def silent(self) -> None:
        self.wait(lambda: self.loudest() < 1e-3, "silence at the output")

    def spectrum(self) -> str:
        return self.sentence("spectrum")


class LostLineTest(LiveCase):
    alone = True

    def test_line_that_is_lost_comes_back_and_no_note_hangs(self) -> None:
        self.play(3)
        self.key("keydown", "KeyX")
        self.sounds()
        self.driver.execute_cdp_cmd("Network.enable", {})
        self.own.kill()
        self.there("[data-live=lost]", "the line to be lost")
        self.assertIn("coming back", self.text_of("[data-live]"))
        self.silent()
        self.own.start()
        self.there("[data-live=on]", "the line to be there again")
        self.silent()
        self.key("keyup", "KeyX")
        self.key("keydown", "KeyC")
        self.sounds()


class LiveTest(LiveCase):
    def test_letters_play_and_none_of_them_is_a_command(self) -> None:
        self.play(3)
        self.silent()
        self.key("keydown", "KeyX")
        self.sounds()
        self.assertTrue(self.css("[data-key='50'][aria-pressed=true]"))
        self.assertFalse(self.css("[role=dialog]"))
        self.key("keyup", "KeyX")
        self.silent()
        ActionChains(self.driver).send_keys("c").perform()  # would begin a connection
        self.assertFalse(self.css("[role=dialog]"))
        ActionChains(self.driver).send_keys(Keys.ESCAPE).perform()
        self.there("//button[.='Letters are commands']", "letters to be commands again")
        ActionChains(self.driver).send_keys("a").perform()
        self.there("[role=dialog]", "a letter to be a command")

    def test_keys_on_the_screen_by_keyboard_alone(self) -> None:
        self.play(3)
        self.click("//button[.='Letters play notes']")
        first = self.there("[data-key][tabindex='0']", "the key in reach")
        self.driver.execute_script("arguments[0].focus()", first)
        ActionChains(self.driver).send_keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT).key_down(Keys.ENTER).perform()
        self.sounds()
        self.assertTrue(self.css("[data-key='50'][aria-pressed=true]"))
        ActionChains(self.driver).key_up(Keys.ENTER).perform()
        self.silent()
        self.assert_accessible()

    def test_level_that_is_told_is_that_of_whole_cycles(self) -> None:
        self.play(3)
        self.key("keydown", "KeyZ")  # a saw of thirty milliseconds a cycle
        self.sounds()
        told = self.levels(3.0)[1:]
        self.assertGreater(median(told), 0.9 * max(told), told)
        self.key("keyup", "KeyZ")
        self.silent()

    def test_ruler_moves_what_sounds_and_what_is_seen_and_is_kept(self) -> None:
        self.play(5)
        self.key("keydown", "KeyG")
        self.sounds()
        self.wait(lambda: "Hz" in self.spectrum(), "what is said of it")
        self.click("[data-card=out]")
        field = self.there("section input[aria-label='level, typed']", "the level")
        before = self.level()
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys("-40 dB", Keys.ENTER)
        self.wait(lambda: self.loudest() < 0.2 * before, "the sound to be softer")
        self.wait(lambda: self.attribute("[data-live]", "data-seen-ms"), "a picture that shows it")
        self.there("[data-keeping=kept]", "the setting to be kept")
        self.push("Stop playing")
        self.settle()
        self.assertIn("40", self.value_of("level"))
        self.push("Undo")

    def value_of(self, setting: str) -> str:
        field = self.there(f"section input[aria-label='{setting}, typed']", setting)
        return (field.get_attribute("value") or "").split(" ")[0].split("\u202f")[0]

    def test_filter_that_is_put_in_while_it_sounds_is_heard(self) -> None:
        self.play(3)
        self.key("keydown", "KeyG")
        self.sounds()
        before = self.level()
        self.click("//button[.='Letters play notes']")
        self.click("[data-card=reed]")
        self.add("filter")
        card = self.there("[data-card^=filter]", "the filter")
        card.click()
        field = self.there("section input[aria-label='cutoff, typed']", "the cutoff")
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys("30 Hz", Keys.ENTER)
        self.wait(lambda: self.loudest() < 0.6 * before, "the filter to be heard")
        self.push("Undo")
        self.push("Undo")
        self.gone("[data-card^=filter]", "the filter to go")

    def test_simulated_device_plays_with_clock_wheel_and_a_lever_that_has_learnt(self) -> None:
        lesson = self.application.make(
            LessonDocument(title="A lever", steps=(first_step().model_copy(update={"patch": VOICE}),))
        )
        self.open(f"/desk/{lesson}/1")
        self.settle()
        self.push("Play live")
        self.there("[data-live=on]", "the bench to be an instrument")
        lever = "[data-control='lever:bright']"
        rests = self.attribute(lever, "value")
        self.from_menu("MIDI device", "Let a controller move Lever…")
        self.from_menu("MIDI device", "Simulated keyboard")
        self.sounds()
        self.there("[data-outside=true]", "the beat from outside")
        self.wait(lambda: abs(self.tempo() - 110.0) < 4.0, "its tempo")
        # both are there for a moment again and again, which the page itself cannot miss
        self.until("return Number(see(given[0])?.value ?? 0) > 0.3", "[data-control=wheel]", what="the wheel to move")
        learnt = "the lever to be moved by what it has learnt"
        self.until("return see(given[0])?.value !== given[1]", lever, rests, what=learnt)
        self.from_menu("MIDI device", "No MIDI device")
        self.silent()

    def test_every_lever_stands_and_moves_as_it_was_written(self) -> None:
        """Logarithmic, with notches, at a value of its own; and more of them than there is room for."""
        levers: dict[str, dict[str, Any]] = {
            "reach": {"low": 60, "high": 6000, "travel": "log", "value": 1000},
            "full": {"low": 0, "high": 1, "value": 1},
            "steps": {"low": 0, "high": 4, "step": 1},
            **{f"more{number}": {"value": 0.5} for number in range(4)},
        }
        modules = [module(name, "lever", **settings) for name, settings in levers.items()]
        many = patch([*modules, module("player", "player"), module("out", "output")])
        step = first_step().model_copy(update={"patch": many})
        lesson = self.application.make(LessonDocument(title="Many levers", steps=(step,)))
        for screen in ("desk", "practice"):
            self.open(f"/{screen}/{lesson}/1")
            self.settle()
            self.push("Play live")
            self.there("[data-live=on]", "the bench to be an instrument")
            stands = {name: self.stands(name) for name in levers}
            expected = {"reach": "1,000", "full": "1", "steps": "0", **{f"more{n}": "0.5" for n in range(4)}}
            self.assertEqual(stands, expected)
            slider = self.css("[data-control='lever:steps']")
            assert slider is not None
            slider.send_keys(Keys.ARROW_RIGHT * 60)  # 0.3 of its way, at 1.2 between two notches
            self.wait(lambda: self.stands("steps") == "1", "the notch that it stands at")
            self.push("Stop playing")
            self.settle()

    def stands(self, lever: str) -> str:
        return str(self.attribute(f"[data-control='lever:{lever}']", "aria-valuetext"))

    def test_part_that_fails_is_a_sentence_and_the_rest_goes_on(self) -> None:
        self.open_step(3)
        self.driver.execute_script(
            "window.format = Object.getOwnPropertyDescriptor(Intl.NumberFormat.prototype, 'format');"
            "Object.defineProperty(Intl.NumberFormat.prototype, 'format', {configurable: true, "
            "get() { throw new RangeError('maximumFractionDigits') }})"
        )
        self.click("[data-card=reed]")
        self.says("[data-failed]", "cannot be shown just now", "the part that fails to say so")
        self.assertTrue(self.css("[data-lens=wave] canvas") and self.css("h1"), "lenses and text are there")
        self.assert_accessible()
        self.driver.execute_script("Object.defineProperty(Intl.NumberFormat.prototype, 'format', window.format)")
        self.click("[data-failed] button")
        self.gone("[data-failed]", "all parts to be there again")
        self.select("reed")
        self.slider("octave")
        self.driver.get_log("browser")  # type: ignore[no-untyped-call] # the errors that were wished

    def tempo(self) -> float:
        return float(self.text_of("[data-outside]").split()[0])

    def test_what_is_recorded_is_the_phrase_and_can_be_taken_back(self) -> None:
        self.play(3)
        before = self.phrase_kept(3)
        self.from_menu("Record", "Record a phrase from now on")
        self.there("[data-taking=true]", "it to be recorded")
        for code in ("KeyX", "KeyV"):
            self.key("keydown", code)
            self.sounds()
            self.key("keyup", code)
            self.silent()
        self.click("[data-taking=true]")
        played = [50.0, 54.0]
        self.wait(lambda: [one.pitch for one in self.phrase_kept(3).notes] == played, "what was played to be kept")
        self.push("Stop playing")
        self.settle()
        self.push("Undo")
        self.wait(lambda: self.phrase_kept(3).notes == before.notes, "the phrase before to be back")

    def phrase_kept(self, place: int) -> Phrase:
        with self.application.client() as client:
            lesson = client.get(f"/api/lessons/{self.application.lesson_called('Foghorn')}").json()
        return Phrase.model_validate(lesson["steps"][place - 1]["content"]["phrase"])

    def test_learner_plays_and_leaves_the_lesson_as_it_was(self) -> None:
        sign_in_browser(self.driver, self.application, JONAS)
        lesson = self.application.lesson_called("Foghorn")
        with self.application.client() as client:
            before = client.get(f"/api/lessons/{lesson}").json()["steps"]
        self.open(f"/practice/{lesson}/4")
        self.settle()
        self.push("Play live")
        self.there("[data-live=on]", "the bench to be an instrument")
        self.key("keydown", "KeyG")
        self.sounds()
        slider = self.there("[data-control=wheel]", "the wheel")
        slider.send_keys(Keys.ARROW_RIGHT)
        self.push("Silence")
        self.silent()
        self.push("Stop playing")
        with self.application.client() as client:
            self.assertEqual(client.get(f"/api/lessons/{lesson}").json()["steps"], before)


if __name__ == "__main__":
    unittest.main()
