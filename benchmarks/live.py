"""Playing live, measured at the output of the browser: how soon a key sounds, how soon a setting is seen, and gaps.

`python -m benchmarks live` plays for a minute; MINUTES=10 for as long as is asked.
"""

import asyncio
import json
import os
import statistics
import tempfile
import time
from pathlib import Path
from typing import Any

from selenium.webdriver.common.by import By
from websockets.asyncio.client import connect
from websockets.typing import Origin

from inner_tone.api.access import COOKIE, page_token
from inner_tone.api.accounts import DemoAccount
from inner_tone.demo.seed import MAREN
from tests.support.application import ROOT, Application
from tests.support.browser import Shell, sign_in_browser, start_chromium
from tests.support.figures import record

MINUTES = float(os.environ.get("MINUTES", "1"))
STRIKES = 60
PLAYING = """
const strip = () => document.querySelector("[data-live]").dataset;
const done = arguments[arguments.length - 1];
const wait = (ms) => new Promise((go) => setTimeout(go, ms));
const key = (type, code) => document.body.dispatchEvent(new KeyboardEvent(type, { code, key: "x", bubbles: true }));
"""
STRIKE = (
    PLAYING
    + """
(async () => {
  const times = [];
  for (let n = 0; n < arguments[0]; n++) {
    const before = strip().heardMs;
    key("keydown", ["KeyX", "KeyC", "KeyV"][n % 3]);
    await wait(120);
    key("keyup", ["KeyX", "KeyC", "KeyV"][n % 3]);
    await wait(500 + 40 * (n % 7));
    if (strip().heardMs !== before) times.push(Number(strip().heardMs));
  }
  done(times);
})();
"""
)


def main() -> None:
    """Print and record the figures."""
    application = Application()
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder:
        driver = start_chromium(Path(folder))
        try:
            begin(driver, application)
            strikes(driver)
            settings(driver)
            long(driver)
        finally:
            driver.quit()
            application.stop()


def begin(driver: Shell, application: Application) -> None:
    """Open a short sound at the desk and begin to play."""
    sign_in_browser(driver, application, MAREN)
    lesson = application.lesson_called("Foghorn")
    driver.get(f"{application.address}/desk/{lesson}/3")
    wait(lambda: driver.find_elements(By.CSS_SELECTOR, "[data-behind=false][data-render]"))
    driver.find_element(By.XPATH, "//button[.='Play live']").click()
    wait(lambda: driver.find_elements(By.CSS_SELECTOR, "[data-live=on]"))
    time.sleep(8.0)


def wait(look: Any) -> None:
    """Wait until something is there."""
    end = time.monotonic() + 60.0
    while not look():
        assert time.monotonic() < end
        time.sleep(0.05)


def strip(driver: Shell) -> dict[str, str]:
    """Return what the strip knows."""
    found: dict[str, str] = driver.execute_script("return {...document.querySelector('[data-live]').dataset}")
    return found


def strikes(driver: Shell) -> None:
    """Strike keys, and see how soon the first sample of each is at the output."""
    times = driver.execute_async_script(STRIKE, STRIKES)
    spread = statistics.quantiles(times, n=20)
    say("key to first sample at the output: median; 95 %", "40; 60 ms", f"{spread[9]:.0f}; {spread[18]:.0f} ms")
    say("of so many keys were heard from silence", "—", f"{len(times)} of {STRIKES}")


def settings(driver: Shell) -> None:
    """Turn a ruler by its keys while a note sounds, and see how soon a picture shows it."""
    driver.execute_script(PLAYING + "key('keydown', 'KeyX')")
    ruler = driver.find_elements(By.CSS_SELECTOR, "[data-inspector] [role=slider]")
    times = []
    for _ in range(30 if ruler else 0):
        before = strip(driver).get("seenMs")
        ruler[0].send_keys("\ue014")
        time.sleep(0.4)
        after = strip(driver).get("seenMs")
        if after != before:
            times.append(float(after or 0.0))
    spread = statistics.quantiles(times, n=20) if len(times) > 1 else [0.0] * 19
    say("first picture that shows a changed setting: median; 95 %", "100 ms", f"{spread[9]:.0f}; {spread[18]:.0f} ms")


def long(driver: Shell) -> None:
    """Play on with an edit every second; count the gaps, and see whether the memory grows."""
    before = int(strip(driver)["gaps"])
    heap = driver.execute_script("return performance.memory?.usedJSHeapSize ?? 0")
    end = time.monotonic() + 60.0 * MINUTES
    ruler = driver.find_elements(By.CSS_SELECTOR, "[data-inspector] [role=slider]")[0]
    turned = 0
    while time.monotonic() < end:
        ruler.send_keys("\ue014" if turned % 20 < 10 else "\ue012")
        turned += 1
        time.sleep(1.0)
    gaps = int(strip(driver)["gaps"]) - before
    grown = (driver.execute_script("return performance.memory?.usedJSHeapSize ?? 0") - heap) / 1e6
    say(f"gaps in {MINUTES:g} min with {turned} edits", "0", f"{gaps}; heap {grown:+.0f} MB")


SEATS, SEAT_SECONDS, BLOCK, AHEAD = 8, 20.0, 256, 1024


def crowd() -> None:
    """Play eight sessions of four voices at once, each with two lenses, and count what comes too late."""
    for seats in (1, 2, 4, SEATS):
        application = Application()
        try:
            asyncio.run(together(application, seats))
        finally:
            application.stop()


async def together(application: Application, seats: int) -> None:
    """Let some people play at once; a gap is sound that comes later than what was there lasts."""
    people = [
        DemoAccount(sign_in=f"p{n}", name=f"P {n}", role="learner", password="a long password") for n in range(seats)
    ]
    tokens = [application.client(one).cookies[COOKIE] for one in people]
    found = await asyncio.gather(*(seat(application.address, token) for token in tokens))
    gaps, late = sum(one[0] for one in found), [ms for one in found for ms in one[1]]
    spread = statistics.quantiles(late, n=1000)
    say(
        f"{seats} sessions of four voices, {SEAT_SECONDS:g} s: gaps; answer median, 99.9 %",
        "0",
        f"{gaps}; {spread[499]:.1f} ms, {spread[998]:.1f} ms",
    )


async def seat(address: str, token: str) -> tuple[int, list[float]]:
    """Play for a while; returns the gaps, and how long each answer took in ms."""
    patch = json.loads((ROOT / "docs" / "examples" / "levers-and-chord.patch.json").read_text()) | {"voices": 4}
    gaps, late, heard = 0, [], 0
    async with connect(
        address.replace("http", "ws") + "/api/live",
        origin=Origin(address),
        additional_headers={"Cookie": f"{COOKIE}={token}"},
        max_size=1 << 24,
    ) as line:
        await line.send(json.dumps({"kind": "hello", "token": page_token(token)}))
        await line.recv()
        await line.send(json.dumps({"kind": "open", "patch": patch}))
        views = [{"kind": "wave", "taps": ["out.left"]}, {"kind": "spectrum", "taps": ["out.left"]}]
        await line.send(json.dumps({"kind": "look", "views": views}))
        for pitch in (48, 52, 55, 59):
            await line.send(json.dumps({"kind": "note_on", "pitch": pitch}))
        begun = time.perf_counter()
        for turn in range(round(SEAT_SECONDS * 48_000 / BLOCK)):
            due = begun + turn * BLOCK / 48_000
            await asyncio.sleep(max(0.0, due - time.perf_counter()))
            asked = time.perf_counter()
            await line.send(bytes([3]) + (turn * BLOCK + AHEAD).to_bytes(8, "big"))
            while heard < turn * BLOCK + AHEAD:
                data = await line.recv()
                if isinstance(data, bytes):
                    heard += (len(data) - 9) // 8
                elif '"pictures"' in data:
                    await line.send('{"kind":"drawn"}')
            late.append(1000.0 * (time.perf_counter() - asked))
            if turn * BLOCK / 48_000 > 2.0 and late[-1] > 1000.0 * AHEAD / 48_000:
                gaps += 1
        await line.send('{"kind":"close"}')
    return gaps, late


def say(figure: str, asked: str, measured: str) -> None:
    """Print a figure and keep it for docs/accuracy.md."""
    print(json.dumps([figure, asked, measured], ensure_ascii=False), flush=True)
    record("playing live", figure, asked, measured)


if __name__ == "__main__":
    main()
