"""Takes the pictures in docs/screenshots: each main view at 1280×800, with the demo data in a database of its own.

Usage: python -m tests.screenshots, by way of bin/screenshots
"""

import tempfile
from collections.abc import Sequence
from pathlib import Path

import httpx
from selenium import webdriver
from selenium.webdriver.common.action_chains import ActionChains

from tests.support.application import Application
from tests.support.browser import start_chromium
from tests.support.edits import harbour
from tests.support.patience import wait_for

FOLDER = Path(__file__).resolve().parents[1] / "docs" / "screenshots"
READY = "[data-behind=false][data-render]"
STILL = "document.fonts.ready.then(() => setTimeout(arguments[0], 600))"


class Camera:
    """A browser on the application."""

    def __init__(self, driver: webdriver.Chrome, address: str) -> None:
        self.driver = driver
        self.address = address

    def open(self, path: str, ready: str = READY) -> None:
        """Open an address and wait until it is ready."""
        self.driver.get(self.address + path)
        wait_for(lambda: self.driver.find_elements("css selector", ready), 60, ready)

    def take(self, name: str, keys: Sequence[str] = (), card: str = "") -> None:
        """Choose a card, press keys one after the other, and keep the picture when all is still."""
        if card:
            self.driver.find_element("css selector", f"[data-card={card}]").click()
            ActionChains(self.driver).move_to_element(self.driver.find_element("css selector", "header")).perform()
        for key in keys:
            self.driver.execute_async_script(STILL)
            ActionChains(self.driver).send_keys(key).perform()
        self.driver.execute_async_script(STILL)
        self.driver.save_screenshot(str(FOLDER / f"{name}.png"))
        print(FOLDER / f"{name}.png")


def large_lesson(address: str) -> str:
    """Make a lesson with a patch of forty modules; returns its id."""
    with httpx.Client(base_url=address, timeout=60) as client:
        lesson = client.post("/api/lessons", json={"title": "The whole harbour"}).json()
        step = lesson["steps"][0]
        content = {**step["content"], "title": "All its sounds at once", "patch": harbour().to_json()}
        client.put(f"/api/steps/{step['id']}", json={"version": step["version"], "content": content})
    return str(lesson["id"])


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    application = Application()
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as profile:
        driver = start_chromium(profile)
        camera = Camera(driver, application.address)
        try:
            camera.open("/shelf", "h2 a")
            camera.take("shelf")
            lesson = str(driver.find_element("css selector", "h2 a").get_attribute("href")).rsplit("/", 2)[1]
            camera.open(f"/desk/{lesson}/5")
            camera.take("desk")
            camera.take("palette", ("a", "make it wobble"))
            camera.open(f"/desk/{lesson}/4")
            camera.take("connections", ("2",), card="breath")
            camera.open(f"/desk/{lesson}/2")
            camera.take("checkup", ("3",))
            camera.open(f"/practice/{lesson}/4")
            camera.take("practice")
            camera.open(f"/desk/{large_lesson(application.address)}/1")
            camera.take("forty-modules", ("w",), card="filter")
        finally:
            driver.quit()
            application.stop()


if __name__ == "__main__":
    main()
