"""Every state that one can bring a screen into: all that is written can be read, and each action looks like one."""

import unittest
from collections.abc import Callable

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.support.bench import BenchTest
from tests.support.figures import record
from tests.support.texts import COLLISIONS, GRAMMAR

PANELS = ("About the lesson…", "Share with an educator…", "Publish…", "Editions…", "Learners…", "Hand it out…")
SHORTCUTS = {"a": "palette", "c": "connect", "r": "another type", "g": "section", "?": "keys"}

# what the page would do that its policy forbids
REPORTED = """
  window.againstPolicy = [];
  document.addEventListener("securitypolicyviolation", (event) =>
    window.againstPolicy.push(`${event.violatedDirective}: ${event.blockedURI} ${event.sample}`));
"""


class StatesTest(BenchTest):
    def setUp(self) -> None:
        self.found: dict[str, list[str]] = {}
        listening = self.driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": REPORTED})
        forget = "Page.removeScriptToEvaluateOnNewDocument"
        self.addCleanup(self.driver.execute_cdp_cmd, forget, {"identifier": listening["identifier"]})

    def look(self, state: str) -> None:
        """Look for what cannot be read, for actions that look like something else, and for what the policy forbids."""
        self.wait(lambda: self.driver.execute_script("return document.fonts.status === 'loaded'"), "the typefaces")
        _, collisions = self.driver.execute_script(COLLISIONS)
        against = self.driver.execute_script("return window.againstPolicy")
        self.found[state] = [*collisions, *self.driver.execute_script(GRAMMAR), *against]

    def menu(self, button: str, word: str | None = None) -> None:
        """Open a menu by how its button begins, and choose."""
        self.click(f"//button[starts-with(@aria-label, '{button}') or starts-with(normalize-space(), '{button}')]")
        self.there("[role=menu]", f"the menu {button}")
        if word:
            self.click(f"//*[@role='menuitem'][normalize-space()='{word}']")

    def leave(self, what: str) -> None:
        """Close what lies over the page."""
        self.press(Keys.ESCAPE)
        self.gone(what, "the page again")

    def tell(self, screen: str) -> None:
        """Check that nothing was found, and put the count into the table."""
        self.assertEqual({state: found for state, found in self.found.items() if found}, {})
        record("the page", f"{screen}: states looked at; texts that collide or are cut", "0", f"{len(self.found)}; 0")

    def test_what_opens_over_the_desk(self) -> None:
        self.open_step(5)
        for word in PANELS:
            self.menu("Lesson…", word)
            self.there("[role=dialog] h2", word)
            self.settled_dialog()
            self.look(word)
            self.leave("[role=dialog]")
        for button in ("Lesson…", "This step", "More for the lens spectrum", "More"):
            self.menu(button)
            self.look(f"menu {button}")
            self.leave("[role=menu]")
        self.menu("This step", "On other instruments…")
        self.settled_dialog()
        self.look("on other instruments")
        self.leave("[role=dialog]")
        self.menu("More for the lens spectrum", "Strip over a setting…")
        self.there("[data-strip] canvas", "the strip")
        self.look("strip")
        self.leave("[role=dialog]")
        self.push("Do…")
        self.click("//*[@role='menuitem'][normalize-space()='Sounds for samplers…']")
        self.there("[data-sounds]:not([data-sounds=busy])", "the sounds")
        self.look("sounds")
        self.leave("[role=dialog]")
        self.tell("what opens over the desk")

    def settled_dialog(self) -> None:
        """Wait until a dialog has fetched what it shows."""
        busy = "return document.querySelector('[role=dialog]')?.innerText.match(/Loading|Computing|Looking/) ?? null"
        self.wait(lambda: self.css("[role=dialog]") and not self.driver.execute_script(busy), "all of it")

    def test_what_letters_open(self) -> None:
        self.open_step(5)
        for key, what in SHORTCUTS.items():
            self.select("bell")
            ActionChains(self.driver).send_keys(key).perform()
            self.there("[role=dialog]", what)
            self.look(what)
            self.leave("[role=dialog]")
        for key in ("s", "m", "w"):
            self.select("bell")
            ActionChains(self.driver).send_keys(key).perform()
            self.settle()
            self.look(f"key {key}")
            ActionChains(self.driver).send_keys(key).perform()
        self.settle()
        self.tell("what letters open")

    def test_each_lens_at_the_desk(self) -> None:
        self.open_step(5)
        self.click("button[aria-label^='Lens: Wave']")
        words = [one.text for one in self.wait(lambda: self.all_css("[role=option]"), "the lenses")]
        self.press(Keys.ESCAPE)
        shown = "Wave"
        for word in words:
            if word in (shown, "Spectrum"):
                continue
            self.pick(f"Lens: {shown}", word)
            shown = word
            self.settle()
            self.look(f"lens {word}")
        self.tell("each kind of lens")

    def test_playing_live(self) -> None:
        self.open_step(3)
        self.push("Play live")
        self.there("[data-live=on]", "the bench to be an instrument")
        self.look("live")
        ActionChains(self.driver).key_down("x").perform()
        self.there("[data-key][aria-pressed=true]", "a key to be down")
        self.look("live, a key down")
        ActionChains(self.driver).key_up("x").perform()
        self.click("//button[.='Letters play notes']")
        self.look("live, letters are commands")
        self.push("Stop playing")
        self.settle()
        self.tell("playing live")

    def test_company(self) -> None:
        self.open_step(5)
        self.body_keys("5")
        self.there("[data-company='0']", "the company")
        self.look("nobody in company")
        for count, name in enumerate(("Low reeds", "Bells", "Rain"), 1):
            self.push(name)
            self.there(f"[data-company='{count}']", name)
        self.look("three in company")
        self.push("A step of a lesson…")
        self.look("a step as company")
        self.body_keys("1")
        self.pick("Behind the lenses", "the company")
        self.settle()
        self.look("company behind the lenses")
        self.pick("Behind the lenses", "all together")
        self.settle()
        self.look("all together behind the lenses")
        self.body_keys("5")
        for _ in range(3):
            self.click("[data-part] .act-away")
        self.there("[data-company='0']", "nobody in company")
        self.settle()
        self.tell("company")

    def body_keys(self, keys: str) -> None:
        """Press keys where nothing is typed into."""
        ActionChains(self.driver).send_keys(keys).perform()

    def test_screens_beside_the_bench(self) -> None:
        for path, there in (("/shelf", "//h2"), ("/account", "//h1"), ("/nowhere", "//a")):
            self.open(path)
            self.there(there, path)
            self.look(path)
        self.tell("screens beside the bench")

    def test_classes(self) -> None:
        self.school.open_class()
        self.open("/classes")
        self.there("//a[.='Tuesday evening on the mole']", "the class")
        self.look("classes")
        self.click("//a[.='Tuesday evening on the mole']")
        self.there("[data-member]", "its members")
        self.look("a class")
        self.click("//main//ol//a[.='Foghorn']")
        self.there("[data-at-work]", "those at work")
        self.look("a class at work")
        self.tell("classes")

    def test_practice_at_the_own_bench(self) -> None:
        self.open_step(2, screen="practice")
        self.look("watching")
        self.push("My own bench")
        self.settle()
        self.there("[data-near]", "how near one is")
        self.look("own bench")
        self.each_part(lambda part: self.look(f"own bench, {part}"))
        self.push("The lesson")
        self.settle()
        self.tell("practice")

    def each_part(self, look: Callable[[str], None]) -> None:
        for foot in ("connections", "checkup", "phrase", "lenses"):
            self.click(f"[data-foot={foot}]")
            look(foot)


if __name__ == "__main__":
    unittest.main()
