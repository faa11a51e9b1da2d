"""A lesson on a telephone, with nothing but fingers: read, looked at, played, and done at one's own bench."""

import unittest

from selenium.webdriver.remote.webelement import WebElement

from tests.support.bench import BenchTest
from tests.support.figures import record

# what is to be tapped and is smaller than a finger hits: 24 pixels each way, or as much room around (WCAG 2.5.8)
SMALL = """
  const seen = (one) => one.checkVisibility({visibilityProperty: true, opacityProperty: true});
  const boxes = [...document.querySelectorAll('button, a[href], input, [role=slider], [role=tab]')]
    .filter((one) => seen(one) && !one.closest('article p, article li, [inert]'))
    .map((one) => ({one, ...one.getBoundingClientRect().toJSON()}))
    .filter((box) => box.width > 1 && box.height > 1);
  const middle = (box) => [box.left + box.width / 2, box.top + box.height / 2];
  const near = (a, b) => {
    const [x, y] = middle(a);
    const across = Math.max(b.left - x, 0, x - b.right), down = Math.max(b.top - y, 0, y - b.bottom);
    return Math.hypot(across, down) < 12;
  };
  return boxes
    .filter((a) => (a.width < 24 || a.height < 24)
      && boxes.some((b) => b !== a && !a.one.contains(b.one) && !b.one.contains(a.one) && near(a, b)))
    .map((a) => `${a.one.getAttribute('aria-label') ?? a.one.textContent}: ${a.width} x ${a.height}`);
"""

HIDDEN = "return arguments[0].scrollHeight - arguments[0].clientHeight"
SCROLLED = "return arguments[0].scrollTop"


class TouchTest(BenchTest):
    def setUp(self) -> None:
        screen = {"width": 390, "height": 844, "deviceScaleFactor": 2, "mobile": True}
        self.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", screen)
        self.driver.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": True, "maxTouchPoints": 2})
        self.addCleanup(self.driver.execute_script, "localStorage.clear()")
        self.addCleanup(self.driver.execute_cdp_cmd, "Emulation.clearDeviceMetricsOverride", {})
        self.addCleanup(self.driver.execute_cdp_cmd, "Emulation.setTouchEmulationEnabled", {"enabled": False})

    def finger(self, *way: tuple[float, float]) -> None:
        """Put a finger down, move it along a way in pixels of the page, and lift it."""
        for number, (across, down) in enumerate(way):
            self.touch("touchMove" if number else "touchStart", [{"x": across, "y": down}])
        self.touch("touchEnd", [])

    def touch(self, kind: str, points: list[dict[str, float]]) -> None:
        self.driver.execute_cdp_cmd("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})

    def middle(self, element: WebElement) -> tuple[float, float]:
        box = self.driver.execute_script("return arguments[0].getBoundingClientRect().toJSON()", element)
        return box["left"] + box["width"] / 2, box["top"] + box["height"] / 2

    def tap(self, what: str) -> None:
        """Tap what a selector or a path leads to, as soon as it is there."""
        element = self.there(what, what)
        self.driver.execute_script("arguments[0].scrollIntoView({block: 'nearest'})", element)
        self.finger(self.middle(element))

    def part(self, word: str) -> None:
        self.tap(f"//*[@role='tab'][normalize-space()='{word}'][not(@data-foot)]")

    def test_a_lesson_with_fingers_alone(self) -> None:
        self.open_step(2, screen="practice")
        self.tap("//button[normalize-space()='My own bench']")
        self.there("[data-near]", "one's own bench")
        self.settle()
        small: dict[str, list[str]] = {}

        self.part("Map")
        self.tap("[data-card=out]")
        self.there("[data-card=out][aria-pressed=true]", "a card to be chosen")
        small["map"] = self.driver.execute_script(SMALL)

        self.part("Rulers")
        before = self.value("level")
        ruler = self.slider("level")
        self.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", ruler)
        across, down = self.middle(ruler)
        self.finger((across, down), (across - 40, down), (across - 90, down))
        self.wait(lambda: self.value("level") < before, "the level to follow the thumb")
        self.settle()
        small["rulers"] = self.driver.execute_script(SMALL)

        self.part("Lenses")
        self.there("[data-lens] canvas", "a lens")
        small["lenses"] = self.driver.execute_script(SMALL)
        self.tap("button[aria-label^='Play']")
        self.there("button[aria-label^='Stop'], button[aria-label^='Pause']", "the sound")

        self.part("Text")
        reading = self.there("[data-reading]", "the text")
        small["text"] = self.driver.execute_script(SMALL)
        across, down = self.middle(reading)
        self.assertGreater(self.driver.execute_script(HIDDEN, reading), 40, "a text that is longer than the screen")
        self.finger((across, down + 150), (across, down + 50), (across, down - 50), (across, down - 150))
        self.wait(lambda: self.driver.execute_script(SCROLLED, reading) > 20, "the text to be moved")
        self.assertEqual({part: found for part, found in small.items() if found}, {})
        record("the page", "390 × 844, fingers alone: what is too small to be tapped", "0", "0")


if __name__ == "__main__":
    unittest.main()
