"""Headless Chromium on the running application, in the words of the people who use it."""

import atexit
import re
import subprocess
import tempfile
import unittest
from functools import lru_cache
from pathlib import Path
from typing import Any

from selenium import webdriver
from selenium.common.exceptions import (
    ElementClickInterceptedException,
    ElementNotInteractableException,
    StaleElementReferenceException,
)
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from inner_tone.api.access import COOKIE
from inner_tone.api.accounts import DemoAccount
from inner_tone.demo.seed import MAREN
from tests.support.application import ROOT, Application
from tests.support.patience import wait_for

AXE = ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js"
# The focus moves into an open menu or list as into a dialog, wherever on the page it hangs: neither needs a landmark.
MENUS_LIKE_DIALOGS = """axe.configure({checks: [{id: 'region', options: {
  regionMatcher: 'dialog, [role=dialog], [role=alertdialog], svg, [role=menu], [role=listbox]'}}]})"""
# of what is in order, axe need say nothing
LOOK_FOR_VIOLATIONS = """const done = arguments[0];
axe.run(document, {resultTypes: ['violations']}).then(({violations}) => done(violations))"""
# a render that was given up because another is wanted answers so
STOPPED = re.compile(r"/api/renders - Failed to load resource: .* 409 ")
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
    driver.set_script_timeout(60)
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
    return driver


@lru_cache(maxsize=1)
def chromium() -> Shell:
    """Return the browser of this process, which its classes use one after the other."""
    folder = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
    driver = start_chromium(Path(folder.name) / "profile")
    atexit.register(folder.cleanup)
    atexit.register(driver.quit)
    return driver


def button_path(word: str) -> str:
    """Return the path to the button or link with a word on it, or with that accessible name."""
    return f"//*[self::button or self::a][normalize-space()='{word}' or @aria-label='{word}']"


def slider_path(name: str) -> str:
    """Return the path to the ruler of a setting in the inspector."""
    return f"//section//*[@role='slider'][@aria-labelledby=//span[normalize-space()='{name}']/@id]"


def sign_in_browser(driver: webdriver.Chrome, application: Application, who: DemoAccount) -> None:
    """Sign a browser in as somebody, without going through the page."""
    driver.get(application.address + "/api/account/session")
    driver.delete_all_cookies()
    with application.client(who) as client:
        cookie = {"name": COOKIE, "value": client.cookies[COOKIE], "httpOnly": True, "sameSite": "Strict"}
    driver.add_cookie(cookie)


class BrowserTest(unittest.TestCase):
    """A test with an application of its own and a browser that is open on it."""

    application: Application
    driver: webdriver.Chrome

    port = 0  # of all applications of this process, one after the other: the browser knows the page's files then

    @classmethod
    def setUpClass(cls) -> None:
        cls.application = Application(BrowserTest.port)
        cls.addClassCleanup(cls.application.stop)
        BrowserTest.port = cls.application.port
        cls.driver = chromium()
        wish = {"origin": cls.application.address, "storageTypes": "local_storage"}
        cls.driver.execute_cdp_cmd("Storage.clearDataForOrigin", wish)
        cls.driver.get_log("browser")  # type: ignore[no-untyped-call] # what others have left
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
        self.wait(lambda: self.see(field), field).send_keys(str(file))

    def open(self, path: str) -> None:
        self.driver.get(self.application.address + path)

    def open_step(self, place: int, screen: str = "desk", lesson: str = "Foghorn") -> None:
        """Open a step of one of the demo's lessons."""
        with self.application.client() as client:
            found = {one["title"]: one["id"] for one in client.get("/api/lessons").json()}
        self.open(f"/{screen}/{found[lesson]}/{place}")
        self.settle()

    def settle(self) -> None:
        """Wait until everything is kept, and the pictures show what is set."""
        self.wait(lambda: self.css("[data-behind=false][data-render]"), "the lenses")
        if "/desk/" in self.driver.current_url:
            self.wait(lambda: self.css("[data-keeping=kept]"), "everything kept")

    def wait(self, look: Any, what: str, seconds: float = 60.0) -> Any:
        """Return what `look` returns as soon as it is true; what the page draws anew meanwhile is looked for again."""

        def calmly() -> Any:
            try:
                return look()
            except StaleElementReferenceException:
                return None

        return wait_for(calmly, seconds, what)

    def see(self, what: str) -> WebElement | None:
        """Return what a selector or a path leads to, if it is there."""
        return self.find(what) if what.lstrip("(").startswith("/") else self.css(what)

    def click(self, what: str) -> None:
        """Click what a selector or a path leads to, as soon as it is there and nothing lies over it."""

        def clicked() -> bool:
            element = self.see(what)
            try:
                if element:
                    element.click()
                return element is not None
            except (ElementClickInterceptedException, ElementNotInteractableException):
                return False

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
        found: list[str | None] = self.wait(lambda: (element := self.see(what)) and [element.get_attribute(name)], what)
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
        found: WebElement = self.wait(lambda: self.find(button_path(word)), f"the button {word}")
        return found

    def text_of(self, selector: str) -> str:
        found = self.wait(lambda: (element := self.css(selector)) and [element.text], selector)
        return str(found[0])

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
        found: WebElement = self.wait(lambda: self.find(slider_path(name)), f"the ruler {name}")
        return found

    def value(self, name: str) -> float:
        return float(str(self.attribute(slider_path(name), "aria-valuenow")))

    def render_key(self) -> str:
        return str(self.attribute("[data-behind=false][data-render]", "data-render"))

    def sentence(self, lens: str) -> str:
        return self.text_of(f"[data-lens={lens}] figcaption")

    def select(self, module: str) -> None:
        """Choose a card on the map with the keyboard."""
        self.focus(f"[data-card={module}]")
        self.press(Keys.ENTER)

    def hold(self, name: str) -> None:
        """Put the focus on the ruler of a setting."""
        self.focus(slider_path(name))

    def focus(self, what: str) -> None:
        """Put the focus on what a selector or a path leads to, as soon as it is there."""
        script = "arguments[0].focus(); return true"
        self.wait(lambda: (element := self.see(what)) and self.driver.execute_script(script, element), what)

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
