"""The bench in the browser, with a lesson of the test's own."""

import io
import time
from typing import Any

import numpy as np
from scipy.io import wavfile
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.remote.webelement import WebElement

from inner_tone.core.patch.model import Patch
from inner_tone.core.phrase import Phrase
from tests.support.browser import BrowserTest

# every overlap of two cards, and every line that runs through a card, as the page has drawn them
CROSSINGS = """
  const cards = [...document.querySelectorAll('[data-card]')].map((card) => {
    const box = card.querySelectorAll('rect')[1].getBoundingClientRect();
    const {left, right, top, bottom} = box;
    return {id: card.dataset.card, left: left + 1, right: right - 1, top: top + 1, bottom: bottom - 1};
  });
  const found = [];
  for (const a of cards) for (const b of cards)
    if (a !== b && a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom)
      found.push(a.id + ' overlaps ' + b.id);
  for (const line of document.querySelectorAll('[data-line]')) {
    const matrix = line.getScreenCTM();
    for (let at = 0; at <= line.getTotalLength(); at += 1) {
      const p = line.getPointAtLength(at).matrixTransform(matrix);
      for (const card of cards)
        if (p.x > card.left && p.x < card.right && p.y > card.top && p.y < card.bottom)
          found.push(line.dataset.line + ' through ' + card.id);
    }
  }
  return [cards.length, [...new Set(found)]];
"""


class BenchTest(BrowserTest):
    """A test with a lesson of its own, whose only step begins with a given patch."""

    def begin(self, patch: Patch, title: str = "A lesson of mine", phrase: Phrase | None = None) -> str:
        """Make a lesson with a patch in its first step and open it at the desk; returns the step's id."""
        with self.application.client() as client:
            lesson = client.post("/api/lessons", json={"title": title}).json()
            step = lesson["steps"][0]
            content = {**step["content"], "patch": patch.to_json()}
            if phrase:
                content["phrase"] = phrase.model_dump(mode="json")
            body = {"version": step["version"], "content": content}
            self.assertEqual(client.put(f"/api/steps/{step['id']}", json=body).status_code, 200)
        self.lesson_id, self.step_id = str(lesson["id"]), str(step["id"])
        self.go_to(f"/desk/{self.lesson_id}/1")
        self.settle()
        return self.step_id

    def kept(self, part: str) -> dict[str, Any]:
        """Return a part of the step's content as the server keeps it."""
        self.settle()
        with self.application.client() as client:
            lesson = client.get(f"/api/lessons/{self.lesson_id}").json()
        step = next(one for one in lesson["steps"] if one["id"] == self.step_id)
        found: dict[str, Any] = step["content"][part]
        return found

    def patch(self) -> dict[str, Any]:
        return self.kept("patch")

    def lines(self) -> set[str]:
        return {f"{one['from']}>{one['to']}" for one in self.patch()["connections"]}

    def modules(self) -> list[str]:
        return [one["id"] for one in self.patch()["modules"]]

    def peak(self) -> float:
        """Return the greatest sample of what the server gives to be heard."""
        with self.application.client() as client:
            wav = client.get(f"/api/renders/{self.render_key()}/sound").content
        _, samples = wavfile.read(io.BytesIO(wav))
        return float(np.max(np.abs(samples)))

    def card(self, module: str) -> WebElement:
        found: WebElement = self.there(f"[data-card='{module}']", f"the card {module}")
        return found

    def name_of(self, module: str) -> str:
        """Return what a card says."""
        return str(self.card(module).accessible_name)

    def wait_focus(self, module: str) -> None:
        self.there(f"[data-card='{module}']:focus", f"the focus on {module}")

    def chord(self, *keys: str) -> None:
        """Press keys together, the last one with all others held."""
        actions = ActionChains(self.driver)
        for key in keys[:-1]:
            actions.key_down(key)
        actions.send_keys(keys[-1])
        for key in keys[:-1]:
            actions.key_up(key)
        actions.perform()

    def foot(self, name: str) -> None:
        self.click(f"[data-foot={name}]")

    def crossings(self, least: int) -> list[str]:
        """Return what overlaps on the map, which must have at least so many cards."""
        time.sleep(0.3)  # cards glide to their places
        count, found = self.driver.execute_script(CROSSINGS)
        self.assertGreaterEqual(count, least)
        return [str(one) for one in found]
