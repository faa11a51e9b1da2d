"""Adding, moving, deleting and restoring steps; two windows; a server that dies."""

import unittest
from collections.abc import Callable
from typing import Any

from selenium.webdriver.common.action_chains import ActionChains
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
        self.there("[aria-current=step][title='New step']", "the new step to be open")
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
        self.there("[aria-current=step][title='Fog rolls in (copy)']", "the copy to be open")
        self.settle()
        self.choose("Move later")
        self.wait(lambda: self.titles()[4:5] == ["Fog rolls in (copy)"], "the move")
        self.there("[aria-current=step][aria-label^='Step 5']", "to go along")
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
        entry = self.there("form input", "the form")
        entry.send_keys("Gulls", Keys.ENTER)
        self.wait(lambda: "/desk/" in self.driver.current_url, "the desk")
        self.settle()
        self.assertEqual(self.titles(), ["First step"])
        self.choose("Delete this step")
        self.there("//h1[contains(., 'no steps yet')]", "the empty lesson")
        self.assert_accessible()
        self.push("Add the first step")
        self.wait(lambda: self.titles() == ["First step"], "a first step")

    def test_lesson_is_renamed_where_its_title_stands(self) -> None:
        self.open("/shelf")
        entry = self.there("form input", "the form")
        entry.send_keys("Surf", Keys.ENTER)
        self.wait(lambda: "/desk/" in self.driver.current_url, "the desk")
        self.settle()
        title = self.css("[aria-label='Title of the lesson']")
        assert title is not None
        title.send_keys(Keys.CONTROL, "a")
        title.send_keys("Surf at night", Keys.ENTER)
        self.open("/shelf")
        self.there("//h2/a[text()='Surf at night']", "the new title")

    def test_lesson_is_deleted_and_brought_back(self) -> None:
        self.open("/shelf")
        entry = self.there("form input", "the form")
        entry.send_keys("Rain", Keys.ENTER)
        self.wait(lambda: "/desk/" in self.driver.current_url, "the desk")
        self.open("/shelf")
        self.push("Delete “Rain”")
        self.gone("//h2/a[text()='Rain']", "the deletion")
        self.push("Bring it back")
        self.there("//h2/a[text()='Rain']", "the lesson that comes back")


class TwoWindowsTest(BrowserTest):
    def elsewhere(self, place: int, change: Callable[[dict[str, Any]], None]) -> None:
        """Change a step as another window would."""
        with self.application.client() as client:
            lesson = client.get(f"/api/lessons/{self.driver.current_url.split('/')[-2]}").json()
            step = lesson["steps"][place - 1]
            change(step["content"])
            body = {"version": step["version"], "content": step["content"]}
            self.assertEqual(client.put(f"/api/steps/{step['id']}", json=body).status_code, 200)

    def level_elsewhere(self, value: float) -> Callable[[dict[str, Any]], None]:
        def change(content: dict[str, Any]) -> None:
            amp = next(one for one in content["patch"]["modules"] if one["id"] == "amp")
            amp["settings"]["level"] = value

        return change

    def hold_back(self) -> None:
        """Let the page not learn by itself what others do."""
        self.driver.execute_cdp_cmd("Network.enable", {})
        self.driver.execute_cdp_cmd("Network.setBlockedURLs", {"urls": ["*/here"]})
        self.addCleanup(self.driver.execute_cdp_cmd, "Network.setBlockedURLs", {"urls": []})

    def change_here(self) -> None:
        self.hold("level")
        self.press(Keys.PAGE_UP)

    def test_what_two_windows_change_comes_together(self) -> None:
        self.open_step(3)
        self.hold_back()
        self.elsewhere(3, lambda content: content.update(title="Written elsewhere", why="One. Two. Three."))
        self.select("amp")
        self.change_here()
        self.settle()
        self.there("[aria-current=step][title='Written elsewhere']", "the other title")
        self.assertGreater(self.value("level"), 0.0)

    def test_what_others_change_is_seen_without_a_reload_and_undo_leaves_it_alone(self) -> None:
        self.open_step(4)
        self.select("amp")
        before = self.value("level")
        self.change_here()
        self.settle()
        self.elsewhere(4, lambda content: content["patch"]["modules"][1].update(label="Pipe"))
        self.says("[aria-label='Map of the patch']", "Pipe", "the other name")
        self.press(Keys.ESCAPE)
        ActionChains(self.driver).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
        self.settle()
        self.assertEqual(self.value("level"), before)
        self.assertIn("Pipe", self.text_of("[aria-label='Map of the patch']"))

    def test_the_very_same_is_decided_one_by_one(self) -> None:
        self.open_step(2)
        self.select("amp")
        self.hold_back()
        self.elsewhere(2, self.level_elsewhere(0.7))
        self.change_here()
        self.there("[role=alertdialog]", "the conflict")
        self.assertIn("Not kept yet", self.text_of("[data-keeping=conflict]"))
        self.assertIn("0.7", self.text_of("[role=alertdialog]"))
        self.assert_accessible()
        self.all_css("[role=alertdialog] input[type=radio]")[0].click()
        self.push("Keep it so")
        self.settle()
        self.assertEqual(self.value("level"), 0.7)

    def test_mine_can_become_a_step_of_its_own(self) -> None:
        self.open_step(2)
        self.select("amp")
        self.hold_back()

        def change(content: dict[str, Any]) -> None:
            self.level_elsewhere(0.9)(content)
            content["title"] = "Theirs"

        self.elsewhere(2, change)
        self.change_here()
        self.push("Keep mine as a new step behind it")
        self.there("[aria-current=step][aria-label*='Theirs (my version)']", "my version")
        self.settle()
        self.assertNotEqual(self.value("level"), 0.9)
        titles = [link.get_attribute("title") for link in self.all_css("nav[aria-label=Steps] a")]
        self.assertEqual(titles[1], "Theirs")

    def test_step_deleted_elsewhere_comes_back_with_what_was_changed(self) -> None:
        self.open_step(5)
        self.select("amp")
        self.hold_back()
        with self.application.client() as client:
            lesson = client.get(f"/api/lessons/{self.driver.current_url.split('/')[-2]}").json()
            self.assertEqual(client.delete(f"/api/steps/{lesson['steps'][4]['id']}").status_code, 204)
        self.change_here()
        changed = self.value("level")
        self.push("Bring the step back, with my changes")
        self.settle()
        self.assertEqual(self.value("level"), changed)
        self.driver.refresh()
        self.settle()
        self.select("amp")
        self.assertEqual(self.value("level"), changed)

    def test_one_stays_at_a_step_when_others_put_one_before_it_and_is_seen_there(self) -> None:
        self.open_step(3)
        title = self.attribute("[aria-current=step]", "title")
        with self.application.client() as client:
            lesson = client.get(f"/api/lessons/{self.driver.current_url.split('/')[-2]}").json()
            steps = lesson["steps"]
            wish = {"window": "6f1b5a9e-3c53-4a54-9a31-0a4f1f1f7a11", "step": steps[0]["id"]}
            here = client.post(f"/api/lessons/{lesson['id']}/here", json=wish).json()
            self.assertEqual([one["step"] for one in here["others"]], [steps[2]["id"]])
            added = client.post(f"/api/lessons/{lesson['id']}/steps", json={"after": steps[0]["id"]}).json()
            self.wait(lambda: self.driver.current_url.endswith("/4"), "the step at its new place")
            self.assertEqual(self.attribute("[aria-current=step]", "title"), title)
            self.assertTrue(self.css("nav[aria-label=Steps] a[aria-label*='here too: You, elsewhere']"))
            client.delete(f"/api/steps/{added['id']}")
            self.wait(lambda: self.driver.current_url.endswith("/3"), "the step at its old place")


class DyingServerTest(BrowserTest):
    alone = True

    def test_what_was_shown_as_kept_survives_a_kill(self) -> None:
        self.open_step(5)
        self.hold("resonance")
        self.press(Keys.PAGE_UP)
        self.gone("[data-keeping=kept]", "the change to be noticed", 5)
        self.there("[data-keeping=kept]", "everything kept")
        self.own.kill()
        value = self.value("resonance")
        self.own.start()
        self.driver.refresh()
        self.settle()
        self.assertEqual(self.value("resonance"), value)

    def test_change_made_while_the_server_is_away_is_held_and_kept_later(self) -> None:
        self.open_step(3)
        self.own.kill()
        self.hold("level")
        self.press(Keys.PAGE_UP)
        self.says("[data-keeping]", "does not answer", "to be told")
        value = self.value("level")
        self.own.start()
        self.there("[data-keeping=kept]", "everything kept", 30)
        self.driver.refresh()
        self.settle()
        self.assertEqual(self.value("level"), value)


if __name__ == "__main__":
    unittest.main()
