"""Writing a lesson: captured on the bench, changed early, decided, cut in two, joined and put into another order."""

import base64
import io
import time
import unittest

from PIL import Image
from selenium.webdriver.common.keys import Keys

from inner_tone.core.lesson.step import first_step
from tests.support.writing import WritingTest

# the server has closed the step, and the page does not know it yet
HOLD_THE_CLOSING = """
    const fetched = window.fetch;
    window.held = [];
    window.fetch = async (request) => {
        const answer = await fetched(request);
        const closing = request.method === "POST" && request.url.endsWith("/steps");
        if (closing) await new Promise((release) => window.held.push(release));
        return answer;
    };
"""


class CaptureTest(WritingTest):
    def test_building_is_writing(self) -> None:
        self.begin(first_step().patch)
        self.push("Capture")
        self.add("oscillator")
        self.settle()
        self.wait(self.moves, "what was done")
        self.body().send_keys("f")
        self.there("[aria-current=step][aria-label^='Step 2:']", "the second step")
        self.settle()
        self.assertEqual(self.moves(), [])
        self.select("oscillator")
        self.add("filter")
        self.settle()
        self.wait(lambda: any("filter" in one.lower() for one in self.moves()), "the filter")
        self.body().send_keys("f")
        self.there("[aria-current=step][aria-label^='Step 3:']", "the third step")
        self.go(1)
        self.assertEqual(self.title(), "Oscillator into Output")
        self.go(2)
        self.assertIn("Filter", self.title())
        self.assert_accessible()
        self.assert_no_errors_logged()

    def test_nothing_is_called_kept_while_a_move_is_worked_out(self) -> None:
        self.begin(first_step().patch)
        self.push("Capture")
        self.network(latency_ms=1_500)
        self.addCleanup(self.network)
        self.body().send_keys("a")
        self.there("[role=dialog] input:focus", "the palette")
        self.press("oscillator")
        self.there("[role=dialog] [role=option]", "an answer")
        self.press(Keys.ENTER)
        self.gone("[role=dialog]", "the palette to close")
        self.assertIsNone(self.css("[data-card=oscillator]"), "the answer is still on its way")
        self.assertEqual(self.attribute("[data-keeping]", "data-keeping"), "keeping")
        self.body().send_keys("f")
        self.wait(lambda: self.steps() == 2, "the step to be closed")
        self.network(latency_ms=0)
        self.assertIn("oscillator", self.modules(), "the step has the move that was on its way")

    def test_what_is_written_while_a_step_is_closed_is_kept(self) -> None:
        """The step gets its title by being closed: by nobody else, so there is nothing to be decided."""
        self.begin(first_step().patch)
        self.push("Capture")
        self.add("oscillator")
        self.settle()
        self.driver.execute_script(HOLD_THE_CLOSING)
        self.body().send_keys("f")
        self.wait(lambda: self.driver.execute_script("return held.length"), "the step to be closed")
        self.push("Write: Why")
        self.there("textarea[aria-label=Why]", "the field").send_keys("The reed begins alone.")
        time.sleep(0.6)  # longer than the pause before something is sent
        self.driver.execute_script("held.forEach((release) => release())")
        self.there("[aria-current=step][aria-label^='Step 2:']", "the second step")
        self.settle()
        self.assertEqual(self.kept("why"), "The reed begins alone.")
        self.assertEqual(self.kept("title"), "Oscillator into Output")
        self.assert_no_errors_logged()


class ChangingTest(WritingTest):
    def test_early_change_is_carried_forward_decided_and_taken_back(self) -> None:
        self.open_foghorn(5)
        self.nudge("breath", "attack", Keys.PAGE_UP)
        later = self.value("attack")
        self.go(4)
        self.nudge("breath", "attack", Keys.PAGE_DOWN)
        earlier = self.value("attack")
        self.there("[data-carry]", "the offer")
        self.assert_accessible()
        self.push("Carry it forward")
        self.notice("The change is in 1 later step now")
        self.gone("[data-carry]", "the offer to go")
        self.go(5)
        self.assertIn("attack of Breath", self.text_of("[data-decisions]"))
        self.assert_accessible()
        self.select("breath")
        self.assertAlmostEqual(self.value("attack"), later)
        self.click("//button[starts-with(., 'From the earlier step')]")
        self.gone("[data-decisions]", "the decision")
        self.wait(lambda: abs(self.value("attack") - earlier) < 1e-6, "the earlier value")
        self.settle()

    def test_change_without_a_conflict_can_be_taken_back_as_one(self) -> None:
        self.open_foghorn(2)
        self.select("reed")
        self.click("//*[@role='radio'][normalize-space()='triangle']")
        self.there("[data-carry]", "the offer")
        self.push("Carry it forward")
        self.notice("The change is in 3 later steps now")
        self.push("Take it back")
        self.there("[data-carry]", "the offer again")
        self.go(3)
        self.select("reed")
        checked = self.there("//*[@role='radio'][@aria-checked='true'][.='saw']", "the saw")
        self.assertTrue(checked)
        self.go(2)
        self.select("reed")
        self.there("//*[@role='radio'][@aria-checked='true'][.='triangle']", "the triangle")
        self.click("//*[@role='radio'][normalize-space()='saw']")
        self.gone("[data-carry]", "nothing to carry")
        self.settle()

    def test_split_and_join(self) -> None:
        self.open_foghorn(3)
        self.go(5)
        count = self.steps()
        first = self.moves()[0]
        self.push("Split the step before instruction 2")
        self.wait(lambda: self.steps() == count + 1, "one more step")
        self.settle()
        self.assertEqual(self.moves(), [first])
        self.go(6)
        self.assertNotIn(first, self.moves())
        self.menu("Join with the step before")
        self.wait(lambda: self.steps() == count, "one step less")
        self.settle()
        self.wait(lambda: first in self.moves(), "both together")

    def test_order_that_cannot_work_is_refused_with_its_reason(self) -> None:
        self.open_foghorn(3)
        self.menu("Move earlier")
        self.says("[role=alert]", "Loudness, which would come in only later", "the reason")
        self.assertTrue(self.css("[aria-current=step][aria-label^='Step 3: A gate']"))

    def test_order_is_one_act_that_is_undone_also_after_a_reload(self) -> None:
        self.open_foghorn(4)
        self.menu("Move later")
        self.there("[aria-current=step][aria-label^='Step 5: An envelope']", "the other place")
        self.driver.refresh()
        self.there("[aria-current=step][aria-label^='Step 5: An envelope']", "the lesson again")
        self.push("Lesson…")
        self.click("//*[@role='menuitem'][starts-with(normalize-space(), 'Undo: Steps 4 and 5')]")
        self.there("[aria-label^='Step 4: An envelope']", "the old order")

    def test_detour_is_built_shown_beside_the_step_and_never_carried_on(self) -> None:
        lesson = self.open_foghorn(4)
        self.push("Branch off here")
        name = self.there("[data-detour] input", "the detour")
        name.send_keys(Keys.CONTROL, "a")
        name.send_keys("Far too slow")
        self.nudge("breath", "attack", Keys.PAGE_UP)
        slow = self.value("attack")
        self.says("[data-detour]", "attack to", "what differs")
        self.assert_accessible()
        self.push("Back to the step")
        self.settle()
        self.select("breath")
        self.assertAlmostEqual(self.value("attack"), 0.35, places=3)
        self.select("amp")
        self.push("Show and hear")
        self.says(self.caption_of("spectrum"), "Against Far too slow", "the detour behind the lenses")
        self.assertTrue(self.find("//section[@aria-label='Playing']//button[text()='Far too slow']"))
        self.go(5)
        self.select("breath")
        self.assertNotAlmostEqual(self.value("attack"), slow)
        self.open(f"/practice/{lesson}/4")
        self.settle()
        self.assertIn("Far too slow", self.text_of("[data-detour]"))
        self.assert_accessible()
        self.assert_no_errors_logged()

    def test_live_fields_follow_the_patch(self) -> None:
        self.open_foghorn(5)
        self.says("article .prose", "cutoff of 420 Hz the partials", "the value in the text")
        self.nudge("bell", "cutoff", Keys.PAGE_UP)
        self.says("article .prose", "of 838 Hz the partials", "the new value in the text")
        self.push("Write: Listen for")
        area = self.there("textarea[aria-label='Listen for']", "the text")
        area.send_keys(Keys.CONTROL, "a")
        area.send_keys("At {the measured pitch of Reed}, {the taste of Reed}. ")
        self.click("button[aria-label^='Field…']")
        self.click("//*[@role='menuitem'][normalize-space()='the tempo']")
        self.says("[aria-label='Preview: Listen for']", "55 Hz (A1)", "what was measured")
        self.says("[aria-label='Preview: Listen for']", "96 beats", "the tempo")
        gap = "[aria-label='Preview: Listen for'] [data-gap]"
        self.assertEqual(self.text_of(gap), "the taste of Reed", "what means nothing is marked, without its braces")
        self.assertIn("96 beats a minute", self.text_of("[aria-label='Preview: Listen for']"))
        self.assert_accessible()
        self.body().click()
        self.settle()

        self.push("the taste of Reed – mend…: there is no such thing here")
        self.assert_accessible()
        self.click("//*[@role='menuitem'][normalize-space()='Take it out']")
        self.gone("[data-gap]", "the gap to be gone")
        self.settle()
        self.press(Keys.ESCAPE)
        self.driver.execute_script("document.querySelector('[data-reading]').focus()")
        self.chord(Keys.CONTROL, "z")
        self.there("[data-gap]", "the gap again: texts have undo")
        self.chord(Keys.CONTROL, Keys.SHIFT, "z")
        self.gone("[data-gap]", "and redo")
        self.settle()
        self.assert_no_errors_logged()

    def test_three_voices(self) -> None:
        self.open_foghorn(1)
        plain = self.moves()
        self.push("brief")
        self.wait(lambda: self.moves() != plain, "brief instructions")
        self.assertTrue(self.moves()[0].startswith("+ Reed"), self.moves())
        self.push("explained")
        self.says("article ol", "Oscillator:", "what an oscillator is")
        self.push("plain")
        self.wait(lambda: self.moves() == plain, "plain ones")


class TextTest(WritingTest):
    """What comes into a text from elsewhere, and what keys mean beside it."""

    def pasted(self, kind: str, data: str) -> None:
        """Paste into the text that is written."""
        script = """
            const transfer = new DataTransfer();
            if (arguments[0] === "image/png") {
                const bytes = Uint8Array.from(atob(arguments[1]), (one) => one.charCodeAt(0));
                transfer.items.add(new File([bytes], "mole.png", { type: "image/png" }));
            } else transfer.setData(arguments[0], arguments[1]);
            const pasting = new ClipboardEvent("paste", { clipboardData: transfer, bubbles: true, cancelable: true });
            document.querySelector("textarea[aria-label=Why]").dispatchEvent(pasting);
        """
        self.driver.execute_script(script, kind, data)

    def test_page_comes_in_as_markdown_and_an_image_as_a_file(self) -> None:
        self.open_foghorn(4)
        self.push("Write: Why")
        area = self.there("textarea[aria-label=Why]", "the text")
        area.send_keys(Keys.CONTROL, "a")
        area.send_keys(Keys.DELETE)
        page = (
            "<h2>Winds</h2><p>From <b>north</b>.<script>alert(1)</script></p><ul><li>one</li></ul>"
            "<table><thead><tr><th>wind</th><th>sound</th></tr></thead><tbody><tr><td>north</td><td>low</td></tr></tbody>"
            "</table><img src='https://elsewhere.example/x.png' alt='a map'>"
        )
        self.pasted("text/html", page)
        self.wait(lambda: "## Winds" in str(area.get_attribute("value")), "the page")
        text = str(area.get_attribute("value"))
        for part in ("From **north**.", "-   one", "| north | low |", "a map"):
            self.assertIn(part, text)
        for part in ("alert", "elsewhere", "<"):
            self.assertNotIn(part, text)
        self.there("[aria-label='Preview: Why'] table", "the table")
        image = io.BytesIO()
        Image.new("RGB", (40, 20), (20, 60, 90)).save(image, "PNG")
        self.pasted("image/png", base64.b64encode(image.getvalue()).decode())
        shown = self.there("[aria-label='Preview: Why'] img[alt=mole]", "the image")
        self.wait(lambda: shown.get_attribute("naturalWidth") == "40", "its pixels")
        self.assert_accessible()
        self.pasted("image/png", base64.b64encode(b"no image at all").decode())
        self.says("[role=alert]", "no image that can be read", "why not")
        self.body().click()
        self.settle()

    def test_keys_beside_a_text_and_from_place_to_place(self) -> None:
        self.open_foghorn(4)
        self.select("breath")
        cards = len(self.all_css("[data-card]"))
        self.driver.execute_script("document.querySelector('[data-reading]').focus()")
        self.press("p", Keys.DELETE, "w", "x")
        self.chord(Keys.CONTROL, "a")
        self.assertFalse(self.css("[data-projector]"))
        self.assertEqual(len(self.all_css("[data-card]")), cards)
        self.press("q")
        self.wait_focus("breath")
        self.press("i")
        self.there("[data-inspector] :focus", "the inspector")
        self.press("u")
        area = self.there("textarea[aria-label=Why]:focus", "the text")
        self.assertNotIn("u", str(area.get_attribute("value"))[:1], "the key itself is not written")
        self.press(Keys.ESCAPE)

    def test_value_left_by_clicking_elsewhere_is_kept_and_nothing_of_it_is_a_command(self) -> None:
        self.open_foghorn(4)
        self.select("breath")
        cards = len(self.all_css("[data-card]"))
        self.click("section input[aria-label='attack, typed']")
        self.press("120 ms")
        self.card("amp").click()
        self.settle()
        self.select("breath")
        self.assertAlmostEqual(self.value("attack"), 0.12, places=4)
        self.assertEqual(len(self.all_css("[data-card]")), cards)
        self.click("section input[aria-label='attack, typed']")
        self.press("12 bananas")
        self.card("breath").click()
        self.says("section [role=alert]", "can be read here", "why")
        self.assertAlmostEqual(self.value("attack"), 0.12, places=4)


if __name__ == "__main__":
    unittest.main()
