"""Pictures, their files, and plates over HTTP."""

import io
import unittest
import zipfile
from typing import Any

import numpy as np
import soundfile

from inner_tone.core.engine.render import render
from inner_tone.demo.foghorn import BLASTS, BREATHED, DISTANT
from tests.support.api import ApiTest

PATCH = DISTANT.to_json()
PHRASE = BLASTS.model_dump(mode="json")
SPECTRUM = {"kind": "spectrum", "taps": ["amp.out"]}
RECIPE: dict[str, Any] = {"view": SPECTRUM, "patch": PATCH, "phrase": PHRASE}
STRIP = {"module": "bell", "setting": "cutoff", "values": [100, 400, 1600]}


class ChartTest(ApiTest):
    def post(self, path: str, body: Any, status: int = 200) -> Any:
        answer = self.client.post(path, json=body)
        self.assertEqual(answer.status_code, status, answer.text)
        return answer

    def test_recipe_makes_a_picture_or_a_strip(self) -> None:
        drawn = self.post("/api/charts", RECIPE).json()
        self.assertEqual(len(drawn["charts"]), 1)
        self.assertEqual(drawn["sentence"], drawn["charts"][0]["sentence"])
        strip = self.post("/api/charts", {**RECIPE, "strip": STRIP}).json()
        self.assertEqual([one["title"] for one in strip["charts"]], ["100 Hz", "400 Hz", "1,600 Hz"])

    def test_files(self) -> None:
        body = {"recipe": RECIPE, "caption": "Far out."}
        drawn = self.post("/api/charts/picture?format=svg", body)
        self.assertEqual(drawn.headers["content-type"], "image/svg+xml")
        self.assertEqual(drawn.content, self.post("/api/charts/picture", body).content)
        self.assertTrue(self.post("/api/charts/picture?format=png", body).content.startswith(b"\x89PNG"))
        self.assertIn("picture,panel,series", self.post("/api/charts/picture?format=csv", body).text)
        self.post("/api/charts/picture?format=pdf", body, 422)

    def test_sound_of_a_tap(self) -> None:
        body = {"patch": PATCH, "phrase": PHRASE, "tap": "bell.out"}
        wanted = render(DISTANT, BLASTS, taps=["bell.out"]).taps["bell.out"]
        for kind, near in (("wav", 1e-6), ("flac", 2.0**-20)):
            data, rate = soundfile.read(io.BytesIO(self.post(f"/api/charts/sound?format={kind}", body).content))
            self.assertEqual(rate, 48_000)
            np.testing.assert_allclose(data, np.clip(wanted, -1, 1) if kind == "flac" else wanted, atol=near)
        self.assert_problem(self.client.post("/api/charts/sound", json={**body, "tap": "bell.nothing"}), 422)

    def test_values_for_a_strip(self) -> None:
        body = {"patch": PATCH, "module": "bell", "setting": "cutoff", "count": 3}
        self.assertEqual(len(self.post("/api/charts/values", body).json()["values"]), 3)
        problem = self.client.post("/api/charts/values", json={**body, "setting": "colour"})
        self.assertIn("no setting “colour”", self.assert_problem(problem, 422)["detail"])

    def test_wrong_recipes_are_refused_with_the_place(self) -> None:
        for recipe, word in (
            ({**RECIPE, "view": {"kind": "spectrum", "taps": ["gone.out"]}}, "gone"),
            ({**RECIPE, "view": {"kind": "spectrum", "taps": []}}, "taps"),
            ({**RECIPE, "view": {**SPECTRUM, "low_hz": 900, "high_hz": 100}}, "span"),
            ({**RECIPE, "strip": {**STRIP, "values": [1, 2]}}, "values"),
            ({**RECIPE, "behind": {"legend": "x", "patch": {"modules": [{"id": "a", "type": "violin"}]}}}, "violin"),
        ):
            answer = self.client.post("/api/charts", json=recipe)
            self.assertEqual(answer.status_code, 422, answer.text)
            self.assertIn(word, answer.text)


class FieldTest(ApiTest):
    def test_fields_of_texts_are_read(self) -> None:
        why, listen = "Above {the cutoff of Bell mouth}.", "At {the measured pitch of Reed} and {the taste of Reed}."
        content = {"patch": PATCH, "phrase": PHRASE, "why": why, "listen": listen}
        answer = self.client.post("/api/fields", json={"content": content, "offer": True}).json()
        wanted = {"the cutoff of Bell mouth": "420 Hz", "the measured pitch of Reed": "55 Hz (A1)"}
        self.assertEqual(answer["values"], {**wanted, "the taste of Reed": None})
        self.assertIn("the tempo", answer["offered"])


class PlateTest(ApiTest):
    def first_step(self) -> Any:
        lesson = self.client.post("/api/lessons", json={"title": "Plates"}).json()
        return lesson["id"], lesson["steps"][0]

    def keep(self, step: Any, **change: Any) -> Any:
        body = {"version": step["version"], "content": {**step["content"], **change}}
        answer = self.client.put(f"/api/steps/{step['id']}", json=body)
        self.assertEqual(answer.status_code, 200, answer.text)
        return answer.json()

    def test_plate_is_kept_outdated_and_refreshed(self) -> None:
        lesson, step = self.first_step()
        told = self.client.post("/api/charts", json=RECIPE).json()["sentence"]
        plate = {"id": "plate-1", "caption": told, "drafted": told, "recipe": RECIPE}
        step = self.keep(step, patch=PATCH, phrase=PHRASE, plates=[plate])
        self.assertEqual(step["outdated"], [])
        step = self.keep(step, patch=BREATHED.to_json())
        self.assertEqual(step["outdated"], ["plate-1"])
        self.assertEqual(self.get(f"/api/lessons/{lesson}")["steps"][0]["outdated"], ["plate-1"])
        body = {"plate": step["content"]["plates"][0], "patch": BREATHED.to_json(), "phrase": PHRASE}
        new = self.client.post("/api/charts/refreshed", json=body).json()
        self.assertNotEqual(new["caption"], told)
        self.assertEqual(self.keep(step, plates=[new])["outdated"], [])

    def test_plate_of_a_module_that_is_gone_says_so(self) -> None:
        plate = {"id": "plate-1", "recipe": {**RECIPE, "view": {"kind": "wave", "taps": ["bell.out"]}}}
        body = {"plate": plate, "patch": BREATHED.to_json(), "phrase": PHRASE}
        problem = self.assert_problem(self.client.post("/api/charts/refreshed", json=body), 422)
        self.assertIn("no module “bell”", problem["detail"])

    def test_lesson_travels_as_a_bundle(self) -> None:
        lesson, step = self.first_step()
        self.keep(step, plates=[{"id": "plate-1", "caption": "Far", "recipe": RECIPE}])
        answer = self.client.get(f"/api/lessons/{lesson}/bundle")
        self.assertEqual(answer.headers["content-type"], "application/zip")
        with zipfile.ZipFile(io.BytesIO(answer.content)) as bundle:
            self.assertIn(b'"caption": "Far"', bundle.read("lesson.json"))


if __name__ == "__main__":
    unittest.main()
