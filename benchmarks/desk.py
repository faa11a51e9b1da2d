"""The page in the browser: how soon the desk can be used, how a ruler follows the pointer, how soon an edit is a map.

All of it is measured by the page's own clock and frames, in a Chromium without windows.
"""

import itertools
import statistics
import tempfile
import time
from pathlib import Path
from typing import Any

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from inner_tone.core.patch.model import Patch
from inner_tone.core.phrase import Note, Phrase
from inner_tone.demo.seed import MAREN
from tests.support.application import Application
from tests.support.browser import Shell, sign_in_browser, start_chromium
from tests.support.edits import harbour
from tests.support.figures import record
from tests.support.patience import wait_for

LOADS = 10
EDITS = 20
DRAG_S = 5.0
# when the page shows its map with a ruler that can be moved, and when the pictures are those of what is set
READY = """
window.ready = {};
const looked = {
  usable: () => document.querySelector("[data-card]") && document.querySelector("[data-inspector] [role=slider]"),
  pictures: () => document.querySelector("[data-behind=false][data-render]"),
};
const look = () => {
  for (const [name, there] of Object.entries(looked))
    if (!(name in window.ready) && there()) window.ready[name] = performance.now();
  if (Object.keys(window.ready).length < 2) requestAnimationFrame(look);
};
requestAnimationFrame(look);
"""
# from a key to the frame that shows another number of cards
WATCH = """
const map = document.querySelector("svg[aria-label='Map of the patch']");
const cards = () => map.querySelectorAll("[data-card]").length;
window.shown = [];
let [began, before] = [0, cards()];
const press = (event) => {
  if (event.key !== "Control") [began, before] = [performance.now(), cards()];
};
window.addEventListener("keydown", press, true);
new MutationObserver(() => {
  if (!began || cards() === before) return;
  const from = began;
  began = 0;
  requestAnimationFrame(() => setTimeout(() => window.shown.push(performance.now() - from)));
}).observe(map, { childList: true, subtree: true });
"""
FRAMES = """
window.frames_ = [];
const tick = (now) => { window.frames_.push(now); if (window.ticking) requestAnimationFrame(tick) };
window.ticking = true;
requestAnimationFrame(tick);
"""
TONE = Phrase(beats=4, notes=(Note(start=0, length=2, pitch=57),))


def main() -> None:
    """Print and record the figures."""
    application = Application()
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder:
        driver = start_chromium(Path(folder))
        try:
            sign_in_browser(driver, application, MAREN)
            loads(driver, application)
            drag(driver)
            edits(driver, application)
        finally:
            driver.quit()
            application.stop()


def loads(driver: Shell, application: Application) -> None:
    """Open the desk again and again."""
    lesson = application.lesson_called("Foghorn")
    driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": READY})
    times = []
    for _ in range(LOADS):
        driver.get(f"{application.address}/desk/{lesson}/5")
        wait_for(lambda: len(driver.execute_script("return window.ready ?? {}")) == 2, 60, "the desk")
        times.append(driver.execute_script("return window.ready"))
    first, *later = times
    middle = {name: statistics.median(one[name] for one in later) for name in first}
    say("the desk can be used; its pictures are there: first load", "1 s; —", seconds(first))
    say(f"the same, median of the {len(later)} loads after it", "1 s; —", seconds(middle))


def seconds(times: dict[str, float]) -> str:
    """Return two times, in s."""
    return "; ".join(f"{times[name] / 1000.0:.2f} s" for name in ("usable", "pictures"))


def drag(driver: Shell) -> None:
    """Draw a ruler to and fro with the pointer, and count the frames."""
    box = driver.find_element(By.CSS_SELECTOR, "[data-inspector] [role=slider]").rect
    x, y = box["x"] + 0.5 * box["width"], box["y"] + 8

    def mouse(kind: str, at: float) -> None:
        wish = {"type": kind, "x": at, "y": y, "button": "left", "buttons": 1, "clickCount": 1}
        driver.execute_cdp_cmd("Input.dispatchMouseEvent", wish)

    mouse("mousePressed", x)
    driver.execute_script(FRAMES)
    begun = time.monotonic()
    moves = 0
    while (passed := time.monotonic() - begun) < DRAG_S:
        mouse("mouseMoved", x + 0.3 * box["width"] * ((passed % 1.0) - 0.5))
        moves += 1
    frames = driver.execute_script("window.ticking = false; return window.frames_")
    mouse("mouseReleased", x)
    gaps = [b - a for a, b in itertools.pairwise(frames)]
    rate = 1000.0 * len(gaps) / (frames[-1] - frames[0])
    late = sum(gap > 25.0 for gap in gaps)
    worst = statistics.quantiles(gaps, n=20)[18]
    say(
        f"frames a second while a ruler is dragged ({moves / DRAG_S:.0f} moves a second); 95 % of the gaps; missed",
        "60; 17 ms; 0",
        f"{rate:.0f}; {worst:.0f} ms; {late} of {len(gaps)}",
    )


def edits(driver: Shell, application: Application) -> None:
    """Take a module out of forty and bring it back, again and again."""
    open_patch(driver, application, harbour(40))
    driver.execute_script(WATCH)
    times: list[float] = []
    for number in range(EDITS):
        if number % 2 == 0:
            driver.execute_script("document.querySelectorAll('[data-card]')[arguments[0]].focus()", 3 + number)
            driver.switch_to.active_element.send_keys(Keys.ENTER, Keys.DELETE)
        else:
            driver.find_element(By.TAG_NAME, "body").send_keys(Keys.CONTROL + "z")
        times = shown(driver, number + 1)
        wait_for(lambda: driver.find_elements(By.CSS_SELECTOR, "[data-behind=false]"), 120, "the pictures")
    for name, some in (("a module out of 40 taken out, and bridged", times[::2]), ("brought back", times[1::2])):
        spread = statistics.quantiles(some, n=20)
        say(f"{name}: from the key to the new map, median; 95 %", "—; 100 ms", f"{spread[9]:.0f}; {spread[18]:.0f} ms")


def shown(driver: Shell, count: int) -> list[float]:
    """Wait for so many new maps; returns how long each has taken, in ms."""

    def look() -> list[float] | None:
        found: list[float] = driver.execute_script("return window.shown")
        return found if len(found) >= count else None

    return wait_for(look, 60, "the map")


def open_patch(driver: Shell, application: Application, patch: Patch) -> None:
    """Open a lesson with a patch at the desk."""
    with application.client() as client:
        lesson = client.post("/api/lessons", json={"title": "Forty"}).json()
        step = lesson["steps"][0]
        content: dict[str, Any] = {"patch": patch.to_json(), "phrase": TONE.model_dump(mode="json")}
        client.put(f"/api/steps/{step['id']}", json={"version": step["version"], "content": content})
    driver.get(f"{application.address}/desk/{lesson['id']}/1")
    wait_for(lambda: driver.find_elements(By.CSS_SELECTOR, "[data-behind=false][data-render]"), 120, "the pictures")
    time.sleep(2.0)


def say(figure: str, asked: str, measured: str) -> None:
    """Print and record a figure."""
    print(f"{figure}: {measured} (asked: {asked})")
    record("the page", figure, asked, measured)
