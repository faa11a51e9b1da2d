"""How long it takes from a changed setting to the new pictures and the new sound, and from an edit to the new map."""

import statistics
import tempfile
from pathlib import Path

from selenium import webdriver

from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.step import StepContent
from inner_tone.demo.seed import MAREN
from tests.support.application import Application
from tests.support.browser import sign_in_browser, start_chromium
from tests.support.edits import patch_of
from tests.support.figures import record
from tests.support.patience import wait_for

CHANGES = 45

# one key on the cutoff's ruler; done when both lenses are drawn and, for the sound, when it has been fetched
CHANGE = """
const done = arguments[0];
const lenses = document.querySelector('[data-render]');
const before = lenses.dataset.render;
const ruler = document.querySelector('[role=slider][aria-valuemax="20000"]');
performance.clearResourceTimings(); // a page remembers 250 of them and no more
const start = performance.now();
let drawn = 0;
const look = () => {
  const shown = lenses.dataset.render !== before && lenses.dataset.behind === 'false';
  if (shown && !drawn) drawn = performance.now() - start;
  const sounds = performance.getEntriesByType('resource').filter((one) => one.name.endsWith('/sound'));
  const sound = sounds.find((one) => one.name.includes(lenses.dataset.render));
  if (drawn && sound) done([drawn, sound.responseEnd - start]);
  else requestAnimationFrame(look);
};
ruler.focus();
ruler.dispatchEvent(new KeyboardEvent('keydown', {key: 'ArrowRight', bubbles: true}));
requestAnimationFrame(look);
"""


# one key on a card; done when the map has more or fewer cards
EDIT = """
const [key, ctrlKey, done] = arguments;
const count = () => document.querySelectorAll('[data-card]').length;
const before = count();
const start = performance.now();
const look = () => (count() === before ? requestAnimationFrame(look) : done(performance.now() - start));
document.body.dispatchEvent(new KeyboardEvent('keydown', {key, ctrlKey, bubbles: true}));
requestAnimationFrame(look);
"""


def main() -> None:
    """Print the table."""
    application = Application()
    try:
        with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as profile:
            driver = start_chromium(Path(profile))
            sign_in_browser(driver, application, MAREN)
            try:
                driver.set_script_timeout(20)
                pictures, sounds = measured(application, driver)
                layouts = laid_out(application, driver)
            finally:
                driver.quit()
    finally:
        application.stop()
    middle, slow = statistics.median(layouts), sorted(layouts)[round(0.9 * (len(layouts) - 1))]
    print(f"From an edit of 40 modules to the new map: median {middle:.0f} ms, nine of ten within {slow:.0f}")
    record(
        "Speed", "from an edit of 40 modules to the new map", "100 ms", f"median {middle:.0f} ms, 90 % {slow:.0f} ms"
    )
    print(f"From a changed setting (step 5, a phrase of 5 s) to … in ms, over {CHANGES} changes")
    for name, times in (("both pictures", pictures), ("the sound", sounds)):
        middle, slow = statistics.median(times), sorted(times)[round(0.9 * (len(times) - 1))]
        print(f"  {name}: median {middle:.0f}, nine of ten within {slow:.0f}")
        record("Speed", f"from a changed setting to {name}", "250 ms", f"median {middle:.0f} ms, 90 % {slow:.0f} ms")


READY = "[data-behind=false][data-render]"


def measured(application: Application, driver: webdriver.Chrome) -> tuple[list[float], list[float]]:
    """Return the times in ms until the pictures and until the sound."""
    lesson = application.lesson_called("Foghorn")
    driver.get(f"{application.address}/desk/{lesson}/5")
    wait_for(lambda: driver.find_elements("css selector", READY), 60, "the lenses")
    times = [driver.execute_async_script(CHANGE) for _ in range(CHANGES + 2)][2:]
    return [pair[0] for pair in times], [pair[1] for pair in times]


def laid_out(application: Application, driver: webdriver.Chrome) -> list[float]:
    """Return the times in ms from a key to the map that it has changed: duplicating a module, and taking it back."""
    forty = LessonDocument(title="Forty", steps=(StepContent(title="Forty", patch=patch_of(40, 3)),))
    lesson = application.make(forty)
    driver.get(f"{application.address}/desk/{lesson}/1")
    wait_for(lambda: driver.find_elements("css selector", READY), 60, "the lenses")
    driver.find_elements("css selector", "[data-card]")[5].click()
    keys = [("d", False), ("z", True)] * CHANGES
    return [float(driver.execute_async_script(EDIT, *key)) for key in keys][2:]
