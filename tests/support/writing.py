"""The desk in the words of those who write at it."""

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.demo.foghorn import STEPS
from tests.support.bench import BenchTest


class WritingTest(BenchTest):
    """A test that writes a lesson."""

    def open_foghorn(self, place: int) -> str:
        """Make a lesson of this test's own with the steps of the foghorn, and open one; returns its id."""
        lesson = self.application.make(LessonDocument(title="A horn of mine", steps=STEPS))
        self.go_to(f"/desk/{lesson}/{place}")
        self.settle()
        return lesson

    def body(self) -> WebElement:
        return self.driver.find_element(By.TAG_NAME, "body")

    def add(self, what: str) -> None:
        """Add a module by the palette's first answer."""
        self.body().send_keys("a")
        field = self.there("[role=dialog] input", "the palette")
        field.send_keys(what)
        self.there("[role=dialog] [role=option]", "an answer")
        field.send_keys(Keys.ENTER)
        self.gone("[role=dialog]", "the palette to close")
        self.settle()

    def moves(self) -> list[str]:
        said = "[...document.querySelectorAll('article ol li')].map((one) => one.children[1].innerText)"
        found: list[str] = self.driver.execute_script(f"return {said}")
        return found

    def title(self) -> str:
        return str(self.attribute("h1 textarea", "value"))

    def steps(self) -> int:
        return len(self.all_css("nav[aria-label=Steps] li a"))

    def go(self, step: int) -> None:
        self.click(f"nav[aria-label=Steps] a[aria-label^='Step {step}:']")
        self.there(f"[aria-current=step][aria-label^='Step {step}:']", f"step {step} to be open")
        self.settle()

    def nudge(self, module: str, setting: str, key: str) -> None:
        """Move a ruler of a module."""
        self.select(module)
        before = self.value(setting)
        self.hold(setting)
        self.press(key)
        self.wait(lambda: self.value(setting) != before, "another value")
        self.settle()

    def network(self, latency_ms: int = 0, offline: bool = False) -> None:
        """Put the server at a distance, or out of reach."""
        wish = {
            "offline": offline,
            "latency": latency_ms,
            "downloadThroughput": -1,
            "uploadThroughput": -1,
        }
        self.driver.execute_cdp_cmd("Network.enable", {})  # without it nothing is put at a distance
        self.driver.execute_cdp_cmd("Network.emulateNetworkConditions", wish)

    def choose(self, menu: str, word: str) -> None:
        """Choose from a menu."""
        self.push(menu)
        self.click(f"//*[@role='menuitem'][normalize-space()='{word}']")

    def menu(self, word: str) -> None:
        self.choose("This step", word)

    def lesson_menu(self, word: str) -> None:
        self.choose("Lesson…", word)

    def notice(self, text: str) -> WebElement:
        has = f"contains(normalize-space(.), '{text}')"
        found: WebElement = self.there(f"//*[{has}][not(*[{has}])]", text)
        return found

    def write(self, label: str, text: str) -> None:
        """Write into a field by the words above it."""
        path = f"//label[span[normalize-space()='{label}']]/*[self::textarea or self::input]"
        field = self.there(path, f"the field {label}")
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text)
