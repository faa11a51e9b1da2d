"""Takes the pictures in docs/screenshots: each main view at 1280×800, with the demo data in a database of its own.

Usage: python -m tests.screenshots, by way of bin/screenshots
"""

import tempfile
from pathlib import Path

from selenium import webdriver

from tests.support.application import Application
from tests.support.browser import start_chromium
from tests.support.patience import wait_for

FOLDER = Path(__file__).resolve().parents[1] / "docs" / "screenshots"
READY = "[data-behind=false][data-render]"


def wait_css(driver: webdriver.Chrome, selector: str) -> None:
    wait_for(lambda: driver.find_elements("css selector", selector), what=selector)


def take(driver: webdriver.Chrome, address: str, name: str, ready: str) -> None:
    """Open an address, wait until it is ready and still, and keep the picture."""
    driver.get(address)
    wait_css(driver, ready)
    driver.execute_async_script("document.fonts.ready.then(() => setTimeout(arguments[0], 500))")
    driver.save_screenshot(str(FOLDER / f"{name}.png"))
    print(FOLDER / f"{name}.png")


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    application = Application()
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as profile:
        driver = start_chromium(profile)
        try:
            take(driver, f"{application.address}/shelf", "shelf", "h2 a")
            link = driver.find_element("css selector", "h2 a").get_attribute("href")
            lesson = str(link).rsplit("/", 2)[1]
            take(driver, f"{application.address}/desk/{lesson}/5", "desk", READY)
            take(driver, f"{application.address}/practice/{lesson}/4", "practice", READY)
        finally:
            driver.quit()
            application.stop()


if __name__ == "__main__":
    main()
