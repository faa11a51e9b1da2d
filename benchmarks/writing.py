"""How long writing waits: difference and merge of 40 modules, and a lesson of sixty steps opened and edited."""

import random
import statistics
import tempfile
import time
from collections.abc import Sequence
from pathlib import Path

from selenium import webdriver

from benchmarks.timing import best_of
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.step import StepContent
from inner_tone.core.patch.difference import difference
from inner_tone.core.patch.edit import edited
from inner_tone.core.patch.merge import decidable
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import RemoveModules, SetValue
from inner_tone.demo.seed import MAREN
from tests.support.application import Application
from tests.support.browser import sign_in_browser, start_chromium
from tests.support.edits import harbour, patch_of, random_edits, tried
from tests.support.figures import record
from tests.support.patience import wait_for

STEPS = 60
TIMES = 15
CHANGES = 10
READY = "[data-behind=false][data-render]"

# done when the step's title stands on the page
OPENED = """
const done = arguments[0];
const look = () => (document.querySelector('h1 textarea') ? done(performance.now()) : requestAnimationFrame(look));
look();
"""

# one key on a ruler of the level; done when the ruler shows the new value, and when it is kept
TURNED = """
const done = arguments[0];
const ruler = document.querySelector('section [role=slider]');
const before = ruler.getAttribute('aria-valuenow');
const start = performance.now();
let moved = 0;
const look = () => {
  if (!moved && ruler.getAttribute('aria-valuenow') !== before) moved = performance.now() - start;
  if (moved && document.querySelector('[data-keeping=kept]')) done([moved, performance.now() - start]);
  else requestAnimationFrame(look);
};
ruler.focus();
ruler.dispatchEvent(new KeyboardEvent('keydown', {key: 'ArrowLeft', bubbles: true}));
requestAnimationFrame(look);
"""


def growing() -> list[Patch]:
    """Return sixty patches: up to forty modules one by one, then a setting at a time."""
    patches = [harbour()]
    while len(patches) < 39:
        last = [one.id for one in patches[-1].modules if one.type not in ("player", "output")][-1]
        patches.append(edited(patches[-1], [RemoveModules(modules=(last,))]).patch)
    patches.reverse()
    for number in range(STEPS - len(patches)):
        edit = SetValue(module="filter", setting="cutoff", value=400.0 + 20 * number)
        patches.append(edited(patches[-1], [edit]).patch)
    return patches


def changed(patch: Patch, seed: int) -> Patch:
    """Return a patch after a number of random moves."""
    dice = random.Random(seed)
    for _ in range(CHANGES):
        patch = tried(patch, random_edits(patch, dice, 44))
    return patch


def sixty() -> LessonDocument:
    """Return a lesson of sixty steps."""
    steps = [
        StepContent(title=f"Step {number}", why="Why it is so. " * 40, listen="What is heard. " * 10, patch=patch)
        for number, patch in enumerate(growing(), 1)
    ]
    return LessonDocument(title="Sixty", steps=tuple(steps))


def main() -> None:
    """Print and record the figures."""
    base, other = patch_of(40, 1), patch_of(40, 2)
    early, late = (changed(base, seed) for seed in (3, 4))
    step = 1000 * best_of(TIMES, lambda: difference(base, early))
    say(f"difference of 40 modules, {CHANGES} changes", "20 ms", f"{step:.1f} ms")
    far = 1000 * best_of(TIMES, lambda: difference(base, other))
    say("difference of 40 modules that have nothing in common", "20 ms", f"{far:.1f} ms")
    merging = 1000 * best_of(TIMES, lambda: decidable(base, early, late))
    say(
        f"merge of 40 modules, {CHANGES} changes on either side, conflicts with their remedies",
        "20 ms",
        f"{merging:.1f} ms",
    )
    application = Application()
    try:
        with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as profile:
            driver = start_chromium(Path(profile))
            try:
                lesson_of_sixty(application, driver)
            finally:
                driver.quit()
    finally:
        application.stop()


def say(figure: str, asked: str, measured: str) -> None:
    """Print and record a figure."""
    print(f"{figure}: {measured}")
    record("Writing", figure, asked, measured)


def lesson_of_sixty(application: Application, driver: webdriver.Chrome) -> None:
    """Measure a lesson of sixty steps: opened for the first time and again, and edited in its middle and at its end."""
    lesson = application.make(sixty())
    with application.client() as client:
        start = time.perf_counter()
        client.get(f"/api/lessons/{lesson}").raise_for_status()
        cold = 1000 * (time.perf_counter() - start)
    sign_in_browser(driver, application, MAREN)
    opened = []
    for step in (1, 30, 60, 30, 60):
        driver.get(f"{application.address}/desk/{lesson}/{step}")
        opened.append(float(driver.execute_async_script(OPENED)))
        wait_for(lambda: driver.find_elements("css selector", READY), 60, "the lenses")
    say("a lesson of 60 steps, answered by the server for the first time", "1 s", f"{cold:.0f} ms")
    say("a lesson of 60 steps, from its address to its text on the page", "1 s", spread(opened))
    moved, kept = [], []
    for _ in range(TIMES):
        pair = driver.execute_async_script(TURNED)
        moved.append(pair[0])
        kept.append(pair[1])
    say("in it, from a key to the ruler that shows it", "no lag", spread(moved))
    say("in it, from a key to “everything kept” (with the pause of 250 ms)", "no lag", spread(kept))


def spread(times: Sequence[float]) -> str:
    """Return the middle and the greatest of some times in ms."""
    return f"median {statistics.median(times):.0f} ms, most {max(times):.0f} ms"


if __name__ == "__main__":
    main()
