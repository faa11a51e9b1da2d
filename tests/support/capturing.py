"""Writing a lesson by capture, with the keyboard where that is shorter; every action is counted."""

from selenium.webdriver.common.keys import Keys

from tests.support.writing import WritingTest


class CapturingTest(WritingTest):
    """A click, a key and a typed word are one action each."""

    actions = 0

    def click(self, what: str) -> None:
        super().click(what)
        self.actions += 1

    def typed(self, *words: str) -> None:
        """Type a word, or press a key."""
        self.press(*words)
        self.actions += 1

    def key(self, letter: str) -> None:
        """Press a key that is a command."""
        self.body().send_keys(letter)
        self.actions += 1

    def begin_by_capture(self, title: str) -> str:
        """Begin a lesson at the shelf, with capture on; returns its id."""
        self.open("/shelf")
        self.click("form input")
        self.typed(title)
        self.typed(Keys.ENTER)
        self.wait(lambda: "/desk/" in self.driver.current_url, "the desk")
        self.settle()
        self.click("//button[.='Capture']")
        return str(self.driver.current_url.split("/")[-2])

    def put_in(self, what: str) -> None:
        """Add a module where it usually goes; behind a colon stands its name."""
        self.key("a")
        self.there("[role=dialog] input:focus", "the palette")
        self.typed(what)
        self.there("[role=dialog] [role=option]", "an answer")
        self.typed(Keys.ENTER)
        self.gone("[role=dialog]", "the palette to close")
        self.settle()
        name = what.rsplit(": ", maxsplit=1)[-1]
        self.there(f"section[aria-label='Settings of {name}']", f"the name {name}")

    def type_value(self, setting: str, value: str) -> None:
        """Type the value of a setting; it is kept by whatever is clicked next. The rarer ones stand under More."""
        field = self.there(f"section input[aria-label='{setting}, typed']", setting)
        if not field.is_displayed():
            self.click("section details summary")
        self.click(f"section input[aria-label='{setting}, typed']")
        self.typed(value)

    def at(self, module: str) -> None:
        """Select a module on the map."""
        self.click(f"[data-card={module}]")
