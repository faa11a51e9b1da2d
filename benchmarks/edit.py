"""How long it takes from a changed setting to the new pictures on the screen and the new sound in memory."""

import statistics
import tempfile

from tests.support.application import Application
from tests.support.browser import start_chromium
from tests.support.figures import record
from tests.support.patience import wait_for

CHANGES = 15

# one key on the cutoff's ruler; done when both lenses are drawn and, for the sound, when it has been fetched
CHANGE = """
const done = arguments[0];
const lenses = document.querySelector('[data-render]');
const before = lenses.dataset.render;
const ruler = document.querySelector('[role=slider][aria-valuemax="20000"]');
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


def main() -> None:
    """Print the table."""
    application = Application()
    try:
        with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as profile:
            pictures, sounds = measured(application, profile)
    finally:
        application.stop()
    print(f"From a changed setting (step 5, a phrase of 5 s) to … in ms, over {CHANGES} changes")
    for name, times in (("both pictures", pictures), ("the sound", sounds)):
        middle, slow = statistics.median(times), sorted(times)[round(0.9 * (len(times) - 1))]
        print(f"  {name}: median {middle:.0f}, nine of ten within {slow:.0f}")
        record("Speed", f"from a changed setting to {name}", "250 ms", f"median {middle:.0f} ms, 90 % {slow:.0f} ms")


def measured(application: Application, profile: str) -> tuple[list[float], list[float]]:
    """Return the times in ms until the pictures and until the sound."""
    driver = start_chromium(profile)
    try:
        driver.set_script_timeout(20)
        driver.get(application.address + "/shelf")
        link = wait_for(lambda: driver.find_elements("css selector", "h2 a"), what="the shelf")[0]
        driver.get(str(link.get_attribute("href")).rsplit("/", 1)[0] + "/5")
        wait_for(lambda: driver.find_elements("css selector", "[data-behind=false][data-render]"), what="the lenses")
        times = [driver.execute_async_script(CHANGE) for _ in range(CHANGES + 2)][2:]
    finally:
        driver.quit()
    return [pair[0] for pair in times], [pair[1] for pair in times]
