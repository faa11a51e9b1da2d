"""Takes the pictures in docs/screenshots: each main view at 1280×800, with the demo data in a database of its own.

Usage: python -m tests.screenshots, by way of bin/screenshots
"""

import subprocess
import tempfile
import time
from collections.abc import Sequence
from pathlib import Path

from selenium import webdriver
from selenium.webdriver.common.action_chains import ActionChains

from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.step import StepContent
from inner_tone.core.outside import recorded
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.moves import SetValue
from inner_tone.demo import foghorn
from inner_tone.demo.enrol import enrol
from inner_tone.demo.seed import JONAS, MAREN
from inner_tone.formats.audio import write_wav
from inner_tone.formats.html import Front
from inner_tone.live.look import COURSE_S
from inner_tone.store.database import connect, sessions
from inner_tone.work.errand import Workplace
from inner_tone.work.handed import Wanted, handed
from inner_tone.work.studio import Studio
from tests.support.application import Application
from tests.support.browser import sign_in_browser, start_chromium
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

    def lens(self, place: int, kind: str) -> None:
        """Put another lens in a place."""
        self.driver.find_elements("css selector", "[data-lens] button[aria-label^='Lens:']")[place].click()
        self.choose(kind)

    def more(self, lens: str, word: str) -> None:
        """Do something with a lens, from its menu."""
        self.driver.find_element("css selector", f"button[aria-label='More for the lens {lens}']").click()
        self.choose(word)

    def choose(self, word: str) -> None:
        """Choose from the list or the menu that is open."""
        path = f"//*[@role='option' or @role='menuitem' or @role='radio'][normalize-space()='{word}']"
        wait_for(lambda: self.driver.find_elements("xpath", path), 20, word)[0].click()
        wait_for(lambda: self.driver.find_elements("css selector", READY), 60, READY)

    def press(self, word: str) -> None:
        """Press a button by the word on it."""
        path = f"//button[normalize-space()='{word}']"
        wait_for(lambda: self.driver.find_elements("xpath", path), 20, word)[0].click()
        self.driver.execute_async_script(STILL)

    def scroll_to(self, selector: str) -> None:
        """Bring something into view."""
        element = wait_for(lambda: self.driver.find_elements("css selector", selector), 20, selector)[0]
        self.driver.execute_script("arguments[0].scrollIntoView({block: 'end'})", element)


def lens_pictures(camera: Camera, lesson: str) -> None:
    """Every lens, a comparison, a strip, the projector, and plates in a step."""
    camera.open(f"/desk/{lesson}/5")
    camera.lens(0, "Level")
    camera.lens(1, "Sweep")
    camera.take("level-and-sweep", card="amp")
    camera.lens(1, "Spectrum")
    camera.more("spectrum", "Strip over a setting…")
    wait_for(lambda: len(camera.driver.find_elements("css selector", "[data-strip] canvas")) == 5, 30, "the strip")
    camera.take("strip")
    camera.open(f"/practice/{lesson}/4")
    camera.scroll_to("[data-plate]")
    camera.take("plates")


ATTACK = "//section//*[@role='slider'][@aria-labelledby=//span[normalize-space()='attack']/@id]"


def live_picture(camera: Camera, lesson: str) -> None:
    """A note that is held while the bench is an instrument."""
    camera.open(f"/desk/{lesson}/5")
    camera.press("Play live")
    wait_for(lambda: camera.driver.find_elements("css selector", "[data-live=on]"), 30, "the bench to be an instrument")
    strike = "document.body.dispatchEvent(new KeyboardEvent('keydown', {code: 'KeyM', key: 'm', bubbles: true}))"
    camera.driver.execute_script(strike)
    said = "//*[@data-lens='spectrum']//figcaption[contains(., 'Hz')]"
    wait_for(lambda: camera.driver.find_elements("xpath", said), 30, "what is said of it")
    time.sleep(COURSE_S)
    camera.driver.save_screenshot(str(FOLDER / "playing-live.png"))
    camera.press("Stop playing")


def writing_pictures(camera: Camera, lesson: str) -> None:
    """A change that waits to be carried forward, the instructions explained."""
    for step, key in ((5, "\ue00e"), (4, "\ue00f")):  # a page up, a page down
        camera.open(f"/desk/{lesson}/{step}")
        camera.driver.find_element("css selector", "[data-card=breath]").click()
        wait_for(lambda: camera.driver.find_elements("xpath", ATTACK), 20, "the ruler")[0].send_keys(key)
        wait_for(lambda: camera.driver.find_elements("css selector", "[data-keeping=kept]"), 20, "all kept")
    camera.press("explained")
    camera.press("Capture")
    wait_for(lambda: camera.driver.find_elements("css selector", "[data-carry]"), 20, "the offer")
    camera.take("writing")
    camera.press("Carry it forward")
    wait_for(lambda: not camera.driver.find_elements("css selector", "[data-carry]"), 20, "the change in all steps")


SHOWN = ("Foghorn", "Fog comes in", "Three sources, blended", "Drawn from harmonics")


def put_course_in(application: Application) -> None:
    """Put in the course, as the demo has it."""
    engine = connect(application.database)
    enrol(sessions(engine))
    engine.dispose()


def sound_pictures(camera: Camera, blended: str, drawn: str) -> None:
    """The sounds that a sampler can play, and a sound in company."""
    camera.open(f"/desk/{blended}/7")
    camera.driver.find_element("css selector", "[data-card=bell]").click()
    camera.press("Another sound…")
    ready = "[data-sounds]:not([data-sounds=busy])"
    wait_for(lambda: camera.driver.find_elements("css selector", ready), 30, "the sounds")
    camera.take("sounds")
    camera.open(f"/desk/{drawn}/10")
    camera.take("company")


WHOLE_HARBOUR = LessonDocument(
    title="The whole harbour",
    steps=(StepContent(title="Some of its sounds", patch=harbour(16), phrase=foghorn.LESSON.steps[3].phrase),),
)


def edition_pictures(camera: Camera, lesson: str) -> None:
    """Publishing after a change."""
    camera.open(f"/desk/{lesson}/4")
    title = camera.driver.find_element("css selector", "h1 textarea")
    title.send_keys("\ue009a")  # all of it
    title.send_keys("An envelope that lends it breath")
    wait_for(lambda: camera.driver.find_elements("css selector", "[data-keeping=kept]"), 20, "all kept")
    camera.press("Lesson…")
    camera.choose("Publish…")
    wait_for(lambda: camera.driver.find_elements("xpath", "//h3[contains(., 'to look at')]"), 30, "the checkup")
    notes = camera.driver.find_element("css selector", "[role=dialog] label textarea")
    notes.send_keys("The horn speaks sooner, and takes its time where it is far away.")
    for tick in camera.driver.find_elements("css selector", "[role=dialog] input[type=checkbox]:not(:checked)"):
        tick.click()
    camera.take("publish")
    camera.driver.find_element("css selector", "body").send_keys("\ue00c")


def own_pictures(camera: Camera, application: Application, lesson: str) -> None:
    """A step done at one's own bench, nearly; a recording of another instrument; and what the educator sees of both."""
    sign_in_browser(camera.driver, application, JONAS)
    camera.open(f"/practice/{lesson}/4")
    camera.press("My own bench")
    wait_for(lambda: camera.driver.find_elements("css selector", "[data-own-keeping=kept]"), 20, "the own bench")
    camera.press("How near am I?")
    camera.press("A hint")
    wait_for(lambda: camera.driver.find_elements("xpath", "//button[starts-with(., 'Show me all')]"), 20, "all")[
        0
    ].click()
    wait_for(lambda: camera.driver.find_elements("css selector", "[data-near=done]"), 30, "done")
    field = wait_for(
        lambda: camera.driver.find_elements("css selector", "input[aria-label='attack, typed']"), 20, "attack"
    )
    field[0].send_keys("\ue009a")  # all of it
    field[0].send_keys("40 ms\ue007")
    wait_for(lambda: camera.driver.find_elements("css selector", READY), 20, READY)
    camera.press("How near am I?")
    wait_for(lambda: camera.driver.find_elements("css selector", "[data-near=near]"), 30, "near")
    camera.press("A hint")
    camera.take("own-bench")
    camera.press("Ask the educator")
    camera.driver.find_element("css selector", "[data-questions] textarea").send_keys("Why does mine bark?")
    camera.press("Ask")
    with tempfile.TemporaryDirectory() as folder:
        sound = Path(folder) / "my old keyboard.wav"
        step = foghorn.LESSON.steps[3]
        barking = made(step.patch, [SetValue(module="breath", setting="attack", value=0.02)]).patch
        write_wav(sound, recorded("worn", barking, step.phrase).T, 48_000.0)
        camera.driver.find_element("css selector", "[data-played] summary").click()
        camera.driver.find_element("css selector", "[data-played] input[type=file]").send_keys(str(sound))
        wait_for(lambda: camera.driver.find_elements("css selector", "[data-compared=otherwise]"), 60, "the verdict")
        camera.driver.find_element("css selector", "[data-compared] .button").click()
        wait_for(lambda: camera.driver.find_elements("css selector", "[data-advice]"), 60, "the advice")
        camera.press("Show it behind the lenses")
        camera.scroll_to("[data-advice]")
        camera.take("recording")
    sign_in_browser(camera.driver, application, MAREN)
    camera.open("/classes", "main li a")
    camera.driver.find_element("css selector", "main li a").click()
    wait_for(lambda: camera.driver.find_elements("css selector", "main ol a"), 20, "the lesson")[0].click()
    wait_for(lambda: camera.driver.find_elements("css selector", "[data-at-work]"), 20, "the class at work")
    camera.take("class")


def handout_picture() -> None:
    """A page of a lesson on paper."""
    front = Front(foghorn.LESSON.title, foghorn.LESSON.summary, "", "By Maren Holt; edition 1")
    data = handed(Workplace(Studio(), long=True), Wanted("pdf"), foghorn.LESSON, front, {}, {})
    with tempfile.NamedTemporaryFile(suffix=".pdf") as file:
        file.write(data)
        file.flush()
        page = ["pdftoppm", "-r", "90", "-f", "5", "-l", "5", "-png", "-singlefile", file.name, str(FOLDER / "handout")]
        subprocess.run(page, check=True)


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    application = Application()
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as profile:
        driver = start_chromium(Path(profile))
        camera = Camera(driver, application.address)
        try:
            sign_in_browser(driver, application, MAREN)
            put_course_in(application)
            camera.open("/shelf", "h3 a")
            camera.take("shelf")
            found = {one.text: str(one.get_attribute("href")) for one in driver.find_elements("css selector", "h3 a")}
            lesson, fog, blended, drawn = (found[title].rsplit("/", 2)[1] for title in SHOWN)
            camera.open(f"/desk/{lesson}/5")
            camera.take("desk")
            camera.take("projector", ("p", "\ue014"))
            sound_pictures(camera, blended, drawn)
            camera.open(f"/desk/{fog}/3")
            camera.take("phrase", ("4",), card="bell")
            camera.open(f"/desk/{lesson}/2")
            camera.take("checkup", ("3",))
            camera.open(f"/practice/{lesson}/4")
            camera.take("practice")
            lens_pictures(camera, lesson)
            live_picture(camera, lesson)
            own_pictures(camera, application, lesson)
            writing_pictures(camera, lesson)
            edition_pictures(camera, lesson)
            whole = application.make(WHOLE_HARBOUR)
            camera.open(f"/desk/{whole}/1")
            camera.take("sixteen-modules", card="filter")
            handout_picture()
        finally:
            driver.quit()
            application.stop()


if __name__ == "__main__":
    main()
