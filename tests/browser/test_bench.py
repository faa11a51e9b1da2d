"""The bench: building with the keyboard alone and with the mouse, connecting, grouping, undoing, mending."""

import unittest
from typing import Any

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from inner_tone.core.patch.model import Patch
from inner_tone.demo.foghorn import DISTANT
from tests.support.bench import BenchTest

VOICE = {
    "player.pitch>oscillator.pitch",
    "player.pitch>oscillator-2.pitch",
    "oscillator.out>filter.in",
    "oscillator-2.out>filter.in",
    "filter.out>amplifier.in",
    "amplifier.out>output.left",
    "amplifier.out>output.right",
    "player.gate>envelope.gate",
    "player.gate>envelope-2.gate",
    "envelope.out>amplifier.level",
    "envelope-2.out>filter.cutoff",
}


class BuildingTest(BenchTest):
    """A voice of two oscillators, a filter and two envelopes, from nothing, in under 30 actions."""

    def test_with_the_keyboard_alone(self) -> None:
        self.begin(Patch(), "By keys")
        self.assertIn("Nothing is here yet", self.text_of("[data-map]"))
        actions = 0

        def key(*keys: str) -> None:
            nonlocal actions
            actions += 1
            self.press(*keys)

        def add(word: str, module: str, *then: str) -> None:
            key("a")
            self.there("[role=dialog] input:focus", "the palette")
            key(word)
            self.there("[role=option][data-focus]", "an offer")
            key(*then, Keys.ENTER)
            self.wait_focus(module)

        add("player", "player")
        add("output", "output")
        add("oscillator", "oscillator")
        add("oscillator", "oscillator-2")
        add("filter", "filter", Keys.ARROW_DOWN)  # on both oscillators, rather than behind the selected one
        add("amplifier", "amplifier")
        add("envelope", "envelope")
        key(Keys.ARROW_UP)
        self.wait_focus("amplifier")
        key(Keys.ARROW_LEFT)
        self.wait_focus("filter")
        add("envelope", "envelope-2")
        self.assertEqual(self.lines(), VOICE)
        self.assertLess(actions, 30)
        self.assertGreater(self.peak(), 0.05, "it is heard")
        self.assertIn("all well", self.text_of("[data-foot=checkup]"))
        self.assert_no_errors_logged()

    def test_with_the_mouse(self) -> None:
        self.begin(Patch(), "By mouse")
        actions = 0

        def add(title: str, module: str, where: str = "") -> None:
            nonlocal actions
            actions += 2
            self.push("Add…")
            if where:  # the first place of a type is shown at once, the others where it is asked for
                actions += 1
                self.press(title)
            self.click(f"//*[@role='option'][.//{'b' if where else 'span'}[normalize-space()='{where or title}']]")
            self.card(module)

        add("Player", "player")
        add("Output", "output")
        add("Oscillator", "oscillator")
        add("Oscillator", "oscillator-2")
        add("Filter", "filter", "before Output, on all that comes in")
        add("Amplifier", "amplifier")
        add("Envelope", "envelope")
        actions += 1
        self.click("[data-card=filter]")
        add("Envelope", "envelope-2")
        self.assertEqual(self.lines(), VOICE)
        self.assertLess(actions, 30)
        self.assertGreater(self.peak(), 0.05, "it is heard")


class MovesTest(BenchTest):
    def setUp(self) -> None:
        self.begin(DISTANT)

    def test_palette_finds_by_purpose(self) -> None:
        self.select("bell")
        self.press("a")
        self.there("[role=dialog] input:focus", "the palette")
        self.press("make it wobble")
        self.says("[role=option]", "LFO", "the LFO")
        self.assertIn("steers the cutoff of Bell mouth", self.text_of("[role=option]"))
        self.press(Keys.ESCAPE)
        self.gone("[role=dialog]", "the palette gone")
        self.assertEqual(len(self.modules()), 6)

    def test_connecting_by_keyboard_gives_a_depth_that_is_heard(self) -> None:
        self.select("breath")
        self.press("c")
        self.there("[role=option][data-focus]", "the offers")
        self.press("cutoff")
        self.says("[role=option]", "steers cutoff, in semitones", "the cutoff")
        self.press(Keys.ENTER)
        self.wait(lambda: "breath.out>bell.cutoff" in self.lines(), "the connection")
        line = next(one for one in self.patch()["connections"] if one["to"] == "bell.cutoff")
        self.assertEqual(line["depth"], 24)

    def test_connecting_by_dragging_from_card_to_card(self) -> None:
        self.click("[data-card=breath]")
        grip = self.there("[data-grip-of=breath]", "the grip")
        ActionChains(self.driver).click_and_hold(grip).move_to_element(self.card("bell")).release().perform()
        self.there("[role=option][data-focus]", "the offers")
        offers = [one.text for one in self.all_css("[role=option]")]
        self.assertTrue(all("Bell mouth" in one for one in offers), offers)
        self.press(Keys.ENTER)
        self.wait(lambda: "breath.out>bell.cutoff" in self.lines(), "the connection")

    def test_line_is_selected_inserted_into_moved_and_removed(self) -> None:
        grip = self.css("[data-grip='reed.out>bell.in@1']")
        self.driver.execute_script("arguments[0].dispatchEvent(new MouseEvent('click', {bubbles: true}))", grip)
        self.there("[data-line='reed.out>bell.in@1'][data-selected=true]", "the line")
        self.chord("a")
        self.there("[role=dialog] input:focus", "the palette")
        self.press("distort")
        self.says("[role=option]", "between Reed and Bell mouth", "the place")
        self.press(Keys.ENTER)
        self.wait_focus("shaper")
        self.assertLessEqual({"reed.out>shaper.in", "shaper.out>bell.in"}, self.lines())
        self.press(Keys.DELETE)
        self.wait(lambda: "reed.out>bell.in" in self.lines(), "the bridge")

    def test_rename_duplicate_replace(self) -> None:
        self.select("bell")
        self.press(Keys.F2)
        self.there("[data-card] input:focus", "the field on the card")
        self.press(Keys.CONTROL, "a")
        self.press("Trumpet", Keys.ENTER)
        self.wait(lambda: "Trumpet" in self.name_of("bell"), "the name")
        self.select("bell")
        self.press("d")
        self.wait_focus("bell-2")
        self.assertLessEqual({"reed.out>bell-2.in", "bell-2.out>amp.in"}, self.lines())
        self.press("r")
        self.there("[role=dialog] input:focus", "the types")
        self.press("ladder", Keys.ENTER)
        self.wait(lambda: self.patch()["modules"][-1]["type"] == "ladder", "the ladder")

    def test_listening_changes_what_is_heard_and_not_the_lesson(self) -> None:
        before, patch = self.render_key(), self.patch()
        self.select("bell")
        self.press("y")
        self.wait(lambda: "bypassed" in self.name_of("bell"), "bypassed")
        self.wait(lambda: self.render_key() != before, "another sound")
        self.press("m")
        self.select("reed")
        self.press("m")
        self.wait(lambda: "muted" in self.name_of("reed"), "muted")
        self.wait(lambda: self.peak() == 0.0, "silence")
        self.foot("checkup")
        self.assertIn("The checkup waits", self.text_of("#foot"))
        self.assertFalse(self.css("[data-finding-mark]"), "the lesson is not silent")
        self.push("Hear all")
        self.wait(lambda: self.render_key() == before, "all of it again")
        self.assertEqual(self.patch(), patch)

    def test_section_is_grouped_closed_kept_and_taken_apart(self) -> None:
        self.select("bell")
        ActionChains(self.driver).key_down(Keys.SHIFT).click(self.card("amp")).key_up(Keys.SHIFT).perform()
        self.press("g")
        self.there("[role=dialog] input:focus", "the question for a name")
        self.press("Horn body", Keys.ENTER)
        self.wait(lambda: self.patch()["sections"], "the section")
        self.there("[data-card]:focus", "the focus")
        self.press("o")
        self.card("section")
        self.assertFalse(self.css("[data-card=bell]"))
        self.assertEqual(self.attribute("section h2 input", "value"), "Horn body")
        self.select("section")
        self.press("k")
        self.there("//*[@role='status'][contains(., 'on your list')]", "the list")
        self.press("o")
        self.card("bell")
        self.select("bell")
        self.chord(Keys.SHIFT, "g")
        self.wait(lambda: not self.patch()["sections"], "taken apart")
        self.press("a")
        self.there("[role=dialog] input:focus", "the palette")
        self.press("horn")
        self.says("[role=option]", "Horn body", "the kept section")
        self.press(Keys.ENTER)
        self.wait(lambda: len(self.modules()) == 8, "its modules")
        self.gone("[role=dialog]", "the palette to close")
        self.press("a")
        self.there("[role=dialog] input:focus", "the palette")
        self.assert_accessible()
        self.focus("//*[@role='dialog']//button[.='Forget “Horn body”']")
        self.press(Keys.ENTER)
        self.gone("//*[@role='dialog']//button[starts-with(., 'Forget')]", "the list without it")

    def test_inspector_adds_a_source_and_changes_it(self) -> None:
        self.select("bell")
        self.push("Connect something to cutoff")
        self.there("[role=option][data-focus]", "the offers")
        self.press("breath", Keys.ENTER)
        self.wait(lambda: "breath.out>bell.cutoff" in self.lines(), "the source")
        self.select("bell")
        entry = self.there("[aria-label^='Depth from Breath to cutoff']", "its depth")
        entry.send_keys(Keys.CONTROL, "a")
        entry.send_keys("1 oct", Keys.ENTER)
        self.wait(lambda: self.depth("bell.cutoff") == 12, "an octave in semitones")
        self.click("[aria-label='Breath to cutoff is on']")
        self.wait(lambda: self.line("bell.cutoff")["off"], "switched off")

    def line(self, target: str) -> dict[str, Any]:
        found: dict[str, Any] = next(one for one in self.patch()["connections"] if one["to"] == target)
        return found

    def depth(self, target: str) -> float:
        return float(self.line(target)["depth"])

    def test_handle_of_a_picture_is_dragged(self) -> None:
        self.select("bell")
        handle = self.there("[data-handle='Cutoff and resonance']", "the handle")
        before = self.value("cutoff")
        ActionChains(self.driver).click_and_hold(handle).move_by_offset(40, -15).release().perform()
        self.wait(lambda: self.value("cutoff") > 1.5 * before, "a higher cutoff")
        self.assertGreater(self.value("resonance"), 0.25)
        self.select("breath")
        handle = self.there("[data-handle='End of the attack']", "the handle")
        before = self.value("attack")
        ActionChains(self.driver).click_and_hold(handle).move_by_offset(-20, 0).release().perform()
        self.wait(lambda: self.value("attack") < 0.8 * before, "a shorter attack")

    def test_routing_table_is_filtered_sorted_and_edited(self) -> None:
        self.foot("connections")
        rows = self.wait(lambda: self.all_css("tr[data-row]"), "the rows")
        self.assertEqual(len(rows), 7)
        field = self.css("[aria-label='Show only connections with']")
        assert field is not None
        field.send_keys("breath")
        self.wait(lambda: len(self.all_css("tr[data-row]")) == 2, "two rows")
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(Keys.BACKSPACE)
        self.click("//th/button[starts-with(normalize-space(), 'From')]")
        names = [one.text for one in self.all_css("tr[data-row] td:first-child")]
        self.assertEqual(names, sorted(names))
        self.click("//tr[@data-row='reed.out>bell.in']//button")
        self.there("[data-line='reed.out>bell.in@1'][data-selected=true]", "the line on the map")
        entry = self.css("tr[data-row='reed.out>bell.in'] input[aria-label^=Depth]")
        assert entry is not None
        entry.send_keys(Keys.CONTROL, "a")
        entry.send_keys("0.5", Keys.ENTER)
        self.wait(lambda: self.depth("bell.in") == 0.5, "the depth")
        self.assert_accessible()

    def test_accessible_with_every_panel_open(self) -> None:
        self.select("breath")
        self.assert_accessible()
        for key in ("a", "c", "r", "?"):
            self.press(key)
            self.there("[role=dialog] [role=option], [role=dialog] dl", key)
            self.assert_accessible()
            self.press(Keys.ESCAPE)
            self.gone("[role=dialog]", "the panel gone")
            self.select("breath")
        self.press("g")
        self.there("[role=dialog] input:focus", "the question for a name")
        self.assert_accessible()
        self.press("Lungs", Keys.ENTER)
        self.says("[data-card=breath]", "Lungs", "the section on the card")
        self.push("Do…")
        self.there("[role=menuitem]", "the menu")
        self.assert_accessible()
        self.press(Keys.ESCAPE)
        self.select("breath")
        self.press("o")
        self.card("section")
        self.assert_accessible()


class CheckupTest(BenchTest):
    def test_silence_is_shown_on_the_map_and_mended_by_a_button(self) -> None:
        self.open_step(2)
        self.assertIn("Checkup: 1", self.text_of("[data-foot=checkup]"))
        self.assertIn("sound is lost here", self.text_of("[data-card=amp]"))
        self.foot("checkup")
        finding = self.there("[data-finding=no-sound]", "the finding")
        self.assertIn("its level is 0, and nothing drives it", finding.text)
        self.assert_accessible()
        self.click("//*[@data-finding='no-sound']//button[contains(., 'drive its level')]")
        self.gone("[data-finding=no-sound]", "the finding gone")
        self.wait(lambda: "silent" not in self.name_of("amp"), "sound")
        self.chord(Keys.CONTROL, "z")
        self.there("[data-finding=no-sound]", "undone")
        self.settle()


class VoicesTest(BenchTest):
    def test_notes_at_once_are_set_at_the_player(self) -> None:
        self.begin(DISTANT)
        self.select("player")
        entry = self.there("section input[aria-label='Notes at once, typed']", "the voices")
        entry.send_keys(Keys.CONTROL, "a")
        entry.send_keys("4", Keys.ENTER)
        self.wait(lambda: self.patch()["voices"] == 4, "four voices")
        self.settle()
        entry.send_keys(Keys.CONTROL, "a")
        entry.send_keys("99", Keys.ENTER)
        self.there("//*[@role='alert'][contains(., '1 to 16')]", "to be told")
        self.assertEqual(self.patch()["voices"], 4)


class BackTest(BenchTest):
    def test_undo_and_redo_across_a_reload(self) -> None:
        self.begin(DISTANT)
        first = self.patch()
        self.select("bell")
        self.press(Keys.DELETE)
        self.wait(lambda: "bell" not in self.modules(), "the filter gone")
        self.chord(Keys.CONTROL, "z")
        self.wait(lambda: "bell" in self.modules(), "the filter back")
        self.assertEqual(self.patch(), first)
        self.chord(Keys.CONTROL, Keys.SHIFT, "z")
        self.wait(lambda: "bell" not in self.modules(), "gone again")
        self.driver.refresh()
        self.settle()
        self.chord(Keys.CONTROL, "z")
        self.wait(lambda: self.patch() == first, "undone from the step's history")

    def test_a_drag_is_one_step_back(self) -> None:
        self.begin(DISTANT)
        self.select("bell")
        before = self.value("cutoff")
        ruler = self.slider("cutoff")
        drag = ActionChains(self.driver).click_and_hold(ruler)
        for _ in range(6):
            drag.move_by_offset(8, 0)
        drag.release().perform()
        self.wait(lambda: self.value("cutoff") != before, "another value")
        self.chord(Keys.CONTROL, "z")
        self.wait(lambda: self.value("cutoff") == before, "the value before the drag")

    def test_copied_modules_go_to_another_lesson(self) -> None:
        self.begin(DISTANT, "From here")
        self.select("bell")
        ActionChains(self.driver).key_down(Keys.SHIFT).click(self.card("amp")).key_up(Keys.SHIFT).perform()
        self.chord(Keys.CONTROL, "c")
        self.there("//*[@role='status'][contains(., 'Copied 2 modules')]", "copied")
        self.begin(Patch(), "To there")
        self.chord(Keys.CONTROL, "v")
        self.wait(lambda: self.lines() == {"bell.out>amp.in"}, "both with the line between them")
        self.chord(Keys.CONTROL, "a")
        self.chord(Keys.CONTROL, "x")
        self.wait(lambda: self.modules() == [], "cut")
        self.chord(Keys.CONTROL, "v")
        self.wait(lambda: self.lines() == {"bell.out>amp.in"}, "pasted again")


class AwayTest(BenchTest):
    alone = True

    def test_server_that_is_away_loses_nothing(self) -> None:
        self.begin(DISTANT)
        self.own.kill()
        try:
            self.select("bell")
            self.press(Keys.DELETE)
            self.there("//*[@role='alert'][contains(., 'does not answer')]", "what is wrong")
            self.assertTrue(self.css("[data-card=bell]"))
        finally:
            self.own.start()
        self.select("bell")
        self.press(Keys.DELETE)
        self.wait(lambda: "bell" not in self.modules(), "the filter gone at last")


if __name__ == "__main__":
    unittest.main()
