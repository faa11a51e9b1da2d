"""Headless Chromium on the running application, in the words of the people who use it."""

import re
import subprocess
import tempfile
import time
import unittest
from contextlib import suppress
from functools import lru_cache
from pathlib import Path
from typing import Any

from selenium import webdriver
from selenium.common.exceptions import (
    ElementClickInterceptedException,
    ElementNotInteractableException,
    JavascriptException,
    StaleElementReferenceException,
    WebDriverException,
)
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from inner_tone.api.access import COOKIE
from inner_tone.api.accounts import DemoAccount
from inner_tone.demo.seed import MAREN
from tests.support.application import ROOT, Place, PlacedTest
from tests.support.lasting import LASTING
from tests.support.patience import wait_for

AXE = ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js"
# The focus moves into an open menu or list as into a dialog, wherever on the page it hangs: neither needs a landmark.
MENUS_LIKE_DIALOGS = """axe.configure({checks: [{id: 'region', options: {
  regionMatcher: 'dialog, [role=dialog], [role=alertdialog], svg, [role=menu], [role=listbox]'}}]})"""
# of what is in order, axe need say nothing
LOOK_FOR_VIOLATIONS = """const done = arguments[0];
// what lies beneath a dialog is inert, and was looked at before
const open = document.querySelector('[role=dialog], [role=alertdialog]') ?? document;
axe.run(open, {resultTypes: ['violations']}).then(({violations}) => done(violations))"""
# Waits inside of the page until a look at it is true, and looks again whenever anything has changed; what shows in no
# mark, as the place in a sound, is looked at a few times a second.
UNTIL = """
const given = arguments[0], ends = performance.now() + arguments[1], done = arguments[arguments.length - 1];
const isPath = (what) => /^\\(*\\//.test(what);
const see = (what) => isPath(what)
  ? document.evaluate(what, document, null, XPathResult.FIRST_ORDERED_NODE_TYPE, null).singleNodeValue
  : document.querySelector(what);
const text = (what) => { const one = see(what); return one && (one.innerText ?? one.textContent).trim(); };
const look = () => { %s };
const heard = ["input", "focusin", "focusout", "scroll", "transitionend", "load"];
let asked;
const end = (found) => {
  watcher.disconnect();
  clearInterval(clock);
  clearTimeout(asked);
  for (const one of heard) removeEventListener(one, soon, true);
  done(found);
};
const now = () => {
  asked = undefined;
  const found = look();
  if (found) end([found]);
  else if (performance.now() > ends) end(null);
};
const soon = () => { asked ??= setTimeout(now, 0); };
const watcher = new MutationObserver(soon);
watcher.observe(document, {subtree: true, childList: true, attributes: true, characterData: true});
for (const one of heard) addEventListener(one, soon, true);
const clock = setInterval(soon, 100);
now();
"""
# Waits until the page has changed, and stood still for a moment; but no longer than that, where nothing changes.
CHANGED = """
const done = arguments[arguments.length - 1];
let still;
const end = () => { watcher.disconnect(); clearTimeout(still); clearTimeout(most); done(); };
const watcher = new MutationObserver(() => { clearTimeout(still); still = setTimeout(end, 15); });
watcher.observe(document, {subtree: true, childList: true, attributes: true, characterData: true});
const most = setTimeout(end, 150);
"""
# Goes to another address within the page, if the page is one of ours.
GO = """
if (!document.getElementById('root')) return false;
history.pushState({idx: (history.state?.idx ?? 0) + 1, key: 'test', usr: null}, '', arguments[0]);
dispatchEvent(new PopStateEvent('popstate', {state: history.state}));
return true;
"""
SETTLED = """
const kept = !location.pathname.includes('/desk/') || see('[data-keeping=kept]');
return kept && see('[data-behind=false][data-render]')"""
# a render that was given up because another is wanted answers so
STOPPED = re.compile(r"/api/renders - Failed to load resource: .* 409 ")
PATIENCE_S = 60.0
BINARY = "/usr/lib/chromium/chromium-headless-shell"  # the same browser without windows: half the work
ARGUMENTS = (
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-dev-shm-usage",
    "--autoplay-policy=no-user-gesture-required",
    "--force-prefers-reduced-motion",
)


class Shell(webdriver.Chrome):
    """A driver of a Chromium without windows.

    That opens no page of its own, and ChromeDriver waits for one: so it is started with one and then joined.
    """

    def __init__(self, process: subprocess.Popen[bytes], options: Options) -> None:
        self.process = process
        super().__init__(options=options, service=Service("/usr/bin/chromedriver"))

    def quit(self) -> None:
        """End both."""
        super().quit()
        self.process.terminate()
        self.process.wait(20)


def start_chromium(profile: Path, width: int = 1280, height: int = 800, *more: str) -> Shell:
    """Return a driver with an empty profile in the folder `profile`, started with `more` arguments."""
    command = [BINARY, *ARGUMENTS, *more, f"--user-data-dir={profile}", f"--window-size={width},{height}"]
    shell = subprocess.Popen([*command, "--remote-debugging-port=0", "about:blank"], stderr=subprocess.DEVNULL)
    told = profile / "DevToolsActivePort"
    port = wait_for(lambda: told.exists() and told.read_text().partition("\n")[0], 60, "Chromium")
    options = Options()
    options.debugger_address = f"127.0.0.1:{port}"
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    driver = Shell(shell, options)
    size = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
    driver.set_script_timeout(2 * PATIENCE_S)
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
    return driver


@lru_cache(maxsize=1)
def chromium() -> Shell:
    """Return the browser of this process, which its classes use one after the other."""
    folder = LASTING.enter_context(tempfile.TemporaryDirectory(ignore_cleanup_errors=True))
    driver = start_chromium(Path(folder) / "profile")
    LASTING.callback(driver.quit)
    return driver


def button_path(word: str) -> str:
    """Return the path to the button or link with a word on it, or with that accessible name."""
    return f"//*[self::button or self::a][normalize-space()='{word}' or @aria-label='{word}']"


def slider_path(name: str) -> str:
    """Return the path to the ruler of a setting in the inspector."""
    return f"//section//*[@role='slider'][@aria-labelledby=//span[normalize-space()='{name}']/@id]"


def sign_in_browser(driver: webdriver.Chrome, application: Place, who: DemoAccount) -> None:
    """Sign a browser in as somebody, without going through the page."""
    driver.get(application.address + "/api/account/session")
    driver.delete_all_cookies()
    with application.client(who) as client:
        cookie = {"name": COOKIE, "value": client.cookies[COOKIE], "httpOnly": True, "sameSite": "Strict"}
    driver.add_cookie(cookie)


def is_another_page(error: WebDriverException) -> bool:
    """Tell whether a script ended because its page has gone."""
    return any(word in str(error.msg) for word in ("unloaded", "navigat", "Cannot find context", "detached", "stale"))


class BrowserTest(PlacedTest):
    """A test with an educator of its own at an application, and a browser that is open on it."""

    driver: webdriver.Chrome
    loaded = False  # whether this test has loaded the page

    def run(self, result: unittest.TestResult | None = None) -> unittest.TestResult | None:
        """Run the test; what the page has written down for another is no concern of it."""
        self.driver.get_log("browser")  # type: ignore[no-untyped-call]
        return super().run(result)

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.driver = chromium()
        wish = {"origin": cls.application.address, "storageTypes": "local_storage"}
        cls.driver.execute_cdp_cmd("Storage.clearDataForOrigin", wish)
        sign_in_browser(cls.driver, cls.application, MAREN)
        cls.addClassCleanup(cls.driver.get, "about:blank")

    def file(self, name: str, data: bytes) -> Path:
        """Write a file that is there until the test ends: a page reads it when it wants, not when it is chosen."""
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        file = Path(folder.name) / name
        file.write_bytes(data)
        return file

    def choose_file(self, field: str, file: Path) -> None:
        """Choose a file in the field that a selector or a path leads to, as soon as it is there."""
        self.there(field).send_keys(str(file))

    def open(self, path: str) -> None:
        """Load the page anew, at a path."""
        self.driver.get(self.application.address + path)
        self.loaded = True

    def go_to(self, path: str) -> None:
        """Go to a path within the page, as its links do; a test's first page is loaded anew."""
        if self.loaded and self.driver.execute_script(GO, path):
            self.there(f"[aria-current=step][href$='{path}']", f"{path} to be shown")
        else:
            self.open(path)

    def open_step(self, place: int, screen: str = "desk", lesson: str = "Foghorn") -> None:
        """Open a step of one of the demo's lessons."""
        self.go_to(f"/{screen}/{self.application.lesson_called(lesson)}/{place}")
        self.settle()

    def settle(self) -> None:
        """Wait until everything is kept, and the pictures show what is set."""
        self.until(SETTLED, what="the lenses, and everything kept")

    def until(self, look: str, *given: object, what: str, seconds: float = PATIENCE_S) -> Any:
        """Return what some script in the page returns as soon as that is true."""
        end = time.monotonic() + seconds
        while (left := end - time.monotonic()) > 0:
            try:
                found = self.driver.execute_async_script(UNTIL % look, given, 1000 * left)
            except (JavascriptException, StaleElementReferenceException) as error:
                if not is_another_page(error):
                    raise
                continue
            if found is not None:
                return found[0]
        raise AssertionError(f"Waited {seconds:g} s for {what} in vain.")

    def wait(self, look: Any, what: str, seconds: float = PATIENCE_S) -> Any:
        """Return what `look` returns as soon as it is true; it looks whenever the page has changed."""
        end = time.monotonic() + seconds
        while True:
            with suppress(StaleElementReferenceException):
                found = look()
                if found:
                    return found
            if time.monotonic() > end:
                raise AssertionError(f"Waited {seconds:g} s for {what} in vain.")
            try:
                self.driver.execute_async_script(CHANGED)
            except JavascriptException as error:
                if not is_another_page(error):
                    raise

    def there(self, what: str, words: str = "", seconds: float = PATIENCE_S) -> WebElement:
        """Return what a selector or a path leads to, as soon as it is there."""
        found: WebElement = self.until("return see(given[0])", what, what=words or what, seconds=seconds)
        return found

    def gone(self, what: str, words: str = "", seconds: float = PATIENCE_S) -> None:
        """Wait until a selector or a path leads to nothing."""
        self.until("return !see(given[0])", what, what=words or what, seconds=seconds)

    def says(self, what: str, text: str, words: str = "", seconds: float = PATIENCE_S) -> None:
        """Wait until a text is part of what can be read at a place."""
        self.until("return text(given[0])?.includes(given[1])", what, text, what=words or text, seconds=seconds)

    def says_no_longer(self, what: str, text: str, words: str = "", seconds: float = PATIENCE_S) -> None:
        """Wait until a text is no part of what can be read at a place."""
        look = "const read = text(given[0]); return read !== null && !read.includes(given[1])"
        self.until(look, what, text, what=words or text, seconds=seconds)

    def see(self, what: str) -> WebElement | None:
        """Return what a selector or a path leads to, if it is there."""
        return self.find(what) if what.lstrip("(").startswith("/") else self.css(what)

    def click(self, what: str) -> None:
        """Click what a selector or a path leads to, as soon as it is there and nothing lies over it."""

        def clicked() -> bool:
            try:
                self.there(what).click()
            except (ElementClickInterceptedException, ElementNotInteractableException):
                return False
            return True

        self.wait(clicked, f"{what} to be clicked")

    def pick(self, label: str, word: str) -> None:
        """Open a list or a menu and choose."""
        self.click(f"button[aria-label^='{label}']")
        self.click(f"//*[@role='option' or @role='menuitem'][normalize-space()=\"{word}\"]")

    def push(self, word: str) -> None:
        """Click the button or link with a word on it, or with that accessible name."""
        self.click(button_path(word))

    def attribute(self, what: str, name: str) -> str | None:
        """Return an attribute of what a selector or a path leads to, as soon as it is there."""
        found: list[str | None] = self.wait(lambda: [self.there(what).get_attribute(name)], what)
        return found[0]

    def css(self, selector: str) -> WebElement | None:
        found = self.driver.find_elements(By.CSS_SELECTOR, selector)
        return found[0] if found else None

    def all_css(self, selector: str) -> list[WebElement]:
        return self.driver.find_elements(By.CSS_SELECTOR, selector)

    def find(self, xpath: str) -> WebElement | None:
        found = self.driver.find_elements(By.XPATH, xpath)
        return found[0] if found else None

    def button(self, word: str) -> WebElement:
        return self.there(button_path(word), f"the button {word}")

    def text_of(self, selector: str) -> str:
        return str(
            self.until("const read = text(given[0]); return read !== null && [read]", selector, what=selector)[0]
        )

    def press(self, *keys: str) -> None:
        """Press keys where the focus is, as soon as it is somewhere."""

        def pressed() -> bool:
            try:
                self.driver.switch_to.active_element.send_keys(*keys)
            except ElementNotInteractableException:
                return False
            return True

        self.wait(pressed, "the keys to be pressed")

    def slider(self, name: str) -> WebElement:
        return self.there(slider_path(name), f"the ruler {name}")

    def value(self, name: str) -> float:
        return float(str(self.attribute(slider_path(name), "aria-valuenow")))

    def render_key(self) -> str:
        return str(self.attribute("[data-behind=false][data-render]", "data-render"))

    def sentence(self, lens: str) -> str:
        return self.text_of(self.caption_of(lens))

    def caption_of(self, lens: str) -> str:
        return f"[data-lens={lens}] figcaption"

    def select(self, module: str) -> None:
        """Choose a card on the map with the keyboard."""
        self.focus(f"[data-card={module}]")
        self.press(Keys.ENTER)

    def hold(self, name: str) -> None:
        """Put the focus on the ruler of a setting."""
        self.focus(slider_path(name))

    def focus(self, what: str) -> None:
        """Put the focus on what a selector or a path leads to, as soon as it is there."""
        self.until("const one = see(given[0]); one?.focus(); return one !== null", what, what=what)

    def assert_accessible(self) -> None:
        """Let axe look for violations of WCAG 2.2 AA and of good practice."""
        if not self.driver.execute_script("return 'axe' in window"):
            self.driver.execute_script(AXE.read_text())
            self.driver.execute_script(MENUS_LIKE_DIALOGS)
        found = [
            f"{one['id']}: {one['help']}: {[node['html'][:160] for node in one['nodes'][:3]]}"
            for one in self.driver.execute_async_script(LOOK_FOR_VIOLATIONS)
        ]
        self.assertEqual(found, [])

    def assert_no_errors_logged(self) -> None:
        entries = self.driver.get_log("browser")  # type: ignore[no-untyped-call]
        logged = [entry["message"] for entry in entries if entry["level"] == "SEVERE"]
        self.assertEqual([one for one in logged if not STOPPED.search(one)], [])
