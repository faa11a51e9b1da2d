"""Adding, moving, deleting and restoring steps; two windows; a server that dies."""

import unittest

from selenium.webdriver.common.keys import Keys

from tests.support.browser import BrowserTest


class StepsTest(BrowserTest):
    def titles(self) -> list[str]:
        links = "[...document.querySelectorAll('nav[aria-label=Steps] a')].map((link) => link.title)"
        found: list[str] = self.driver.execute_script(f"return {links}")
        return found

    def choose(self, word: str) -> None:
        self.push("This step")
        self.click(f"//*[@role='menuitem'][normalize-space()='{word}']")

    def test_add_write_duplicate_move_delete_and_bring_back(self) -> None:
        self.open_step(2)
        self.choose("Add a step after this one")
        self.wait(lambda: len(self.titles()) == 6 and self.titles()[2] == "New step", "the new step")
        self.settle()
        self.assertIn("The patch stays as it was.", self.text_of("article"))
        title = self.css("h1 textarea")
        assert title is not None
        title.send_keys(Keys.CONTROL, "a")
        title.send_keys("Fog rolls in", Keys.ENTER)
        self.wait(lambda: self.titles()[2] == "Fog rolls in", "the title")
        self.settle()

        self.choose("Duplicate")
        self.wait(lambda: self.titles()[3:4] == ["Fog rolls in (copy)"], "the copy")
        self.settle()
        self.choose("Move later")
        self.wait(lambda: self.titles()[4:5] == ["Fog rolls in (copy)"], "the move")
        self.wait(lambda: self.css("[aria-current=step][aria-label^='Step 5']"), "to go along")
        self.settle()

        before = self.titles()
        self.choose("Delete this step")
        self.wait(lambda: len(self.titles()) == 6, "the deletion")
        self.push("Bring it back")
        self.wait(lambda: self.titles() == before, "the step that comes back")
        self.driver.refresh()
        self.wait(lambda: self.titles() == before, "the same after reloading")

    def test_lesson_without_steps_offers_to_add_one(self) -> None:
        self.open("/shelf")
        entry = self.wait(lambda: self.css("form input"), "the form")
        entry.send_keys("Gulls", Keys.ENTER)
        self.wait(lambda: "/desk/" in self.driver.current_url, "the desk")
        self.settle()
        self.assertEqual(self.titles(), ["First step"])
        self.choose("Delete this step")
        self.wait(lambda: self.find("//h1[contains(., 'no steps yet')]"), "the empty lesson")
        self.assert_accessible()
        self.push("Add the first step")
        self.wait(lambda: self.titles() == ["First step"], "a first step")

    def test_lesson_is_renamed_where_its_title_stands(self) -> None:
        self.open("/shelf")
        entry = self.wait(lambda: self.css("form input"), "the form")
        entry.send_keys("Surf", Keys.ENTER)
        self.wait(lambda: "/desk/" in self.driver.current_url, "the desk")
        self.settle()
        title = self.css("[aria-label='Title of the lesson']")
        assert title is not None
        title.send_keys(Keys.CONTROL, "a")
        title.send_keys("Surf at night", Keys.ENTER)
        self.open("/shelf")
        self.wait(lambda: self.find("//h2/a[text()='Surf at night']"), "the new title")

    def test_lesson_is_deleted_and_brought_back(self) -> None:
        self.open("/shelf")
        entry = self.wait(lambda: self.css("form input"), "the form")
        entry.send_keys("Rain", Keys.ENTER)
        self.wait(lambda: "/desk/" in self.driver.current_url, "the desk")
        self.open("/shelf")
        self.push("Delete “Rain”")
        self.wait(lambda: not self.find("//h2/a[text()='Rain']"), "the deletion")
        self.push("Bring it back")
        self.wait(lambda: self.find("//h2/a[text()='Rain']"), "the lesson that comes back")


class TwoWindowsTest(BrowserTest):
    def change_elsewhere(self, place: int, title: str) -> None:
        """Change a step as another window would."""
        with self.application.client() as client:
            lesson = client.get(f"/api/lessons/{self.driver.current_url.split('/')[-2]}").json()
            step = lesson["steps"][place - 1]
            body = {"version": step["version"], "content": step["content"] | {"title": title}}
            self.assertEqual(client.put(f"/api/steps/{step['id']}", json=body).status_code, 200)

    def change_here(self) -> None:
        self.hold("level")
        self.press(Keys.PAGE_UP)

    def test_second_window_is_told_and_its_change_becomes_a_step_of_its_own(self) -> None:
        self.open_step(2)
        self.change_elsewhere(2, "Written elsewhere")
        self.change_here()
        self.wait(lambda: self.css("[role=alertdialog]"), "the conflict")
        self.assertIn("Not kept yet", self.text_of("[data-keeping=conflict]"))
        self.assert_accessible()
        self.push("Keep mine as a new step")
        self.wait(lambda: self.css("[aria-current=step][aria-label*='(my version)']"), "my version")
        self.settle()
        self.assertGreater(self.value("level"), 0.0)
        titles = [link.get_attribute("title") for link in self.all_css("nav[aria-label=Steps] a")]
        self.assertEqual(titles[1], "Written elsewhere")

    def test_second_window_can_let_its_change_go(self) -> None:
        self.open_step(4)
        self.select("amp")
        self.change_elsewhere(4, "The other one")
        self.change_here()
        self.push("Let mine go, show the other version")
        self.wait(lambda: self.css("[aria-current=step][title='The other one']"), "the other version")
        self.settle()
        self.assertEqual(self.value("level"), 0.0)


class DyingServerTest(BrowserTest):
    def test_what_was_shown_as_kept_survives_a_kill(self) -> None:
        self.open_step(5)
        self.hold("resonance")
        self.press(Keys.PAGE_UP)
        self.wait(lambda: not self.css("[data-keeping=kept]"), "the change to be noticed", 5)
        self.wait(lambda: self.css("[data-keeping=kept]"), "everything kept")
        self.application.kill()
        value = self.value("resonance")
        self.application.start()
        self.driver.refresh()
        self.settle()
        self.assertEqual(self.value("resonance"), value)

    def test_change_made_while_the_server_is_away_is_held_and_kept_later(self) -> None:
        self.open_step(3)
        self.application.kill()
        self.hold("level")
        self.press(Keys.PAGE_UP)
        self.wait(lambda: "does not answer" in self.text_of("[data-keeping]"), "to be told")
        value = self.value("level")
        self.application.start()
        self.wait(lambda: self.css("[data-keeping=kept]"), "everything kept", 30)
        self.driver.refresh()
        self.settle()
        self.assertEqual(self.value("level"), value)


if __name__ == "__main__":
    unittest.main()
