"""The practice view, and every screen under axe."""

import unittest

from selenium.webdriver.common.keys import Keys

from tests.support.browser import BrowserTest


class PracticeTest(BrowserTest):
    def test_learner_sees_and_hears_the_same_and_can_change_nothing(self) -> None:
        self.open_step(5)
        key = self.render_key()
        self.open_step(5, "practice")
        self.assertEqual(self.render_key(), key)
        self.assertEqual(self.text_of("h1"), "A filter that gives it distance")
        self.assertFalse(self.css("textarea"))
        self.assertFalse(self.css("section input:not([type=range])"))
        ruler = self.slider("cutoff")
        self.assertEqual(ruler.get_attribute("aria-readonly"), "true")
        self.driver.execute_script("arguments[0].focus()", ruler)
        self.press(Keys.PAGE_UP)
        self.assertEqual(self.value("cutoff"), 420)
        self.press(" ")
        self.there("[data-playing=true]", "the sound")
        self.press(" ")

    def test_learner_goes_through_the_lesson(self) -> None:
        self.open_step(1, "practice")
        for place in ("Step 2 of 5", "Step 3 of 5", "Step 4 of 5", "The last step"):
            self.push("Next step")
            self.there(f"//span[.='{place}']", place)
        self.assertFalse(self.find("//a[text()='Next step']"))
        self.assertTrue(self.find("//a[text()='To the shelf']"))
        self.push("Back")
        self.there("//span[.='Step 4 of 5']", "step 4")

    def test_each_step_begins_at_its_top(self) -> None:
        self.open_step(4, "practice")
        scroll = "const text = document.querySelector('[aria-label=\"Text of this step\"]'); "
        self.driver.execute_script(scroll + "text.style.height = '200px'; text.scrollTop = 150")
        self.assertGreater(self.driver.execute_script(scroll + "return text.scrollTop"), 50)
        self.push("Next step")
        self.there("//span[.='The last step']", "step 5")
        self.assertEqual(self.driver.execute_script(scroll + "return text.scrollTop"), 0)

    def test_practice_opens_with_the_lenses_of_the_step(self) -> None:
        def kinds() -> list[str | None]:
            return [one.get_attribute("data-lens") for one in self.all_css("[data-lens]")]

        self.open_step(5)
        self.assertEqual(kinds(), ["wave", "spectrum"])
        self.push("More for the lens spectrum")
        self.click("//*[@role='menuitem'][normalize-space()='One more lens']")
        self.wait(lambda: len(kinds()) == 3, "the third lens")
        self.settle()
        kept = kinds()
        self.push("More for the lens wave")
        self.click("//*[@role='menuitem'][normalize-space()='Close this lens']")
        self.wait(lambda: kinds() == kept[1:], "two lenses")
        self.settle()
        self.open_step(4, "practice")
        self.assertEqual(kinds(), ["wave", "spectrum"], "this step has none of its own")
        self.push("Next step")
        self.wait(lambda: kinds() == kept[1:], "the lenses of the step")
        self.push("Back")
        self.there("//span[.='Step 4 of 5']", "step 4")


class AccessibilityTest(BrowserTest):
    def test_shelf(self) -> None:
        self.open("/shelf")
        self.there("h2", "the lessons")
        self.assert_accessible()

    def test_the_last_step_in_practice(self) -> None:
        self.open_step(5, "practice")
        self.assert_accessible()

    def test_desk_with_a_menu_and_a_list_open(self) -> None:
        self.open_step(5)
        self.push("This step")
        self.there("[role=menuitem]", "the menu")
        self.assert_accessible()
        self.press(Keys.ESCAPE)
        self.click("[data-lens=wave] button[aria-haspopup=listbox]")
        self.there("[role=option]", "the list")
        self.assert_accessible()
        self.press(Keys.ESCAPE)
        self.push("Write: Why")
        self.assert_accessible()

    def test_addresses_where_nothing_is(self) -> None:
        self.open("/nowhere")
        self.there("//h1[contains(., 'nothing at this address')]", "the message")
        self.assert_accessible()
        self.open("/desk/00000000-0000-0000-0000-000000000000")
        self.says("main [role=alert]", "no such lesson", "the message")
        self.assert_accessible()


if __name__ == "__main__":
    unittest.main()
