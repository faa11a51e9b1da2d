"""Bundles over HTTP: from one installation to another and back, and nothing is overwritten."""

import io
import unittest
import zipfile
from hashlib import sha256
from typing import Any

import httpx
import numpy as np
from PIL import Image

from inner_tone.demo.foghorn import BLASTS, DISTANT
from inner_tone.demo.seed import MAREN
from inner_tone.formats.audio import flac_bytes
from inner_tone.formats.bundle import opened
from inner_tone.formats.zipped import zipped
from tests.support.api import ApiTest
from tests.support.application import Application


class BundleTest(ApiTest):
    other: Application
    far: httpx.Client

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.other = Application()
        cls.addClassCleanup(cls.other.stop)
        cls.far = cls.other.client(MAREN)
        cls.addClassCleanup(cls.far.close)

    def lesson(self) -> Any:
        """Make a lesson with an image in its text, and a plate that looks at a recording."""
        image = io.BytesIO()
        Image.new("RGB", (50, 30), (200, 60, 90)).save(image, "PNG")
        kept = self.client.post("/api/images", content=image.getvalue()).json()
        sound = flac_bytes(np.sin(np.arange(48_000) / 30.0), 48_000.0)
        told = self.client.post("/api/recordings", content=sound, params={"name": "The old horn"}).json()
        lesson = self.client.post("/api/lessons", json={"title": "Mole", "template": "tone"}).json()
        step = lesson["steps"][0]
        behind = {"legend": "The old horn", "recording": told["key"]}
        recipe = {"view": {"kind": "spectrum", "taps": ["out.left"]}, "behind": behind}
        plate = {"recipe": {**recipe, "patch": DISTANT.to_json(), "phrase": BLASTS.model_dump(mode="json")}}
        content = {"why": f"![mole](/api/images/{kept['key']})", "plates": [{"id": "beside", **plate}]}
        change = {"version": step["version"], "content": content}
        answer = self.client.put(f"/api/steps/{step['id']}", json=change)
        self.assertEqual(answer.status_code, 200, answer.text)
        return lesson

    def bundle(self, client: httpx.Client, lesson: Any) -> bytes:
        answer = client.get(f"/api/lessons/{lesson['id']}/bundle")
        self.assertEqual(answer.status_code, 200, answer.text)
        return answer.content

    def test_from_one_installation_to_another_and_back(self) -> None:
        lesson = self.lesson()
        data = self.bundle(self.client, lesson)
        (shown,) = self.far.post("/api/bundles/preview", content=data).json()["lessons"]
        self.assertEqual((shown["title"], len(shown["steps"]), shown["images"], shown["known"]), ("Mole", 1, 1, 0))
        self.assertEqual([one["name"] for one in shown["sounds"]], ["The old horn"])
        self.assertEqual(shown["same"], [])
        before = len(self.far.get("/api/lessons").json())
        made = self.far.post("/api/bundles", content=data)
        self.assertEqual(made.status_code, 201, made.text)
        (there,) = made.json()["lessons"]
        self.assertEqual(self.bundle(self.far, {"id": there}), data, "the same bytes")
        bundle = opened(data)
        (image,), (sound,) = bundle.images, bundle.sounds
        picture = self.far.get(f"/api/images/{image}").content
        self.assertEqual(sha256(picture).hexdigest(), image)
        self.assertEqual(self.far.get(f"/api/recordings/{sound}/sound").content, bundle.sounds[sound].flac)
        plate = self.far.get(f"/api/lessons/{there}").json()["steps"][0]["content"]["plates"][0]
        self.assertEqual(self.far.post("/api/charts", json=plate["recipe"]).status_code, 200)
        (again,) = self.far.post("/api/bundles/preview", content=data).json()["lessons"]
        self.assertEqual((again["known"], [one["id"] for one in again["same"]]), (2, [there]))
        (twice,) = self.far.post("/api/bundles", content=data).json()["lessons"]
        self.assertNotEqual(twice, there, "nothing is overwritten")
        self.assertEqual(len(self.far.get("/api/lessons").json()), before + 2)
        (back,) = self.client.post("/api/bundles", content=self.bundle(self.far, {"id": twice})).json()["lessons"]
        self.assertEqual(self.bundle(self.client, {"id": back}), data)

    def test_a_series_from_one_installation_to_another_and_back(self) -> None:
        (series,) = [one for one in self.get("/api/series") if len(one["lessons"]) > 1]
        data = self.series_bundle(self.client, series["id"])
        shown = self.far.post("/api/bundles/preview", content=data).json()
        self.assertEqual(shown["series"], series["title"])
        self.assertEqual([one["title"] for one in shown["lessons"]], [one["title"] for one in series["lessons"]])
        made = self.far.post("/api/bundles", content=data).json()
        there = self.far.get(f"/api/series/{made['series']}").json()
        self.assertEqual([one["id"] for one in there["lessons"]], made["lessons"])
        self.assertTrue(there["lessons"][1]["continues"])
        start = self.far.get(f"/api/lessons/{made['lessons'][1]}").json()["start"]
        self.assertEqual(start["lesson"], made["lessons"][0], "it follows the lesson that came with it")
        self.assertEqual(self.series_bundle(self.far, made["series"]), data, "the same bytes")
        name = "lessons/002.zip"
        for change, words in (
            ({name: b""}, f"{name}: This is not a bundle"),
            ({"series.json": b"{}"}, "title"),
            ({"series.json": b'{"title": "A", "starts": [null, 1]}'}, "does not come before"),
            ({"series.json": b'{"title": "A", "starts": [null]}'}, "there are others"),
            ({"lesson.json": b"{}"}, "there are others"),
            ({"../evil": b""}, "no place"),
        ):
            wrong = self.changed(data, change)
            problem = self.assert_problem(self.far.post("/api/bundles", content=wrong), 422)
            said = problem["detail"] + " ".join(one["path"] for one in problem["problems"])
            self.assertIn(words, said)

    def series_bundle(self, client: httpx.Client, series_id: str) -> bytes:
        here, self.client = self.client, client
        try:
            job = self.ended(client.post(f"/api/series/{series_id}/bundle").json())
        finally:
            self.client = here
        self.assertEqual(job["state"], "done", job)
        return client.get(f"/api/jobs/{job['id']}/file").content

    def changed(self, data: bytes, change: dict[str, bytes]) -> bytes:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            files = {one: packed.read(one) for one in packed.namelist()}
        return zipped(files | change)

    def test_demo_lessons_come_back_as_they_were(self) -> None:
        for row in self.get("/api/lessons"):
            data = self.bundle(self.client, row)
            made = self.far.post("/api/bundles", content=data)
            self.assertEqual(made.status_code, 201, made.text)
            (there,) = made.json()["lessons"]
            self.assertEqual(self.bundle(self.far, {"id": there}), data, row["title"])
            self.assertEqual(self.far.get(f"/api/lessons/{there}").status_code, 200)

    def test_what_is_none_brings_nothing(self) -> None:
        before = self.get("/api/lessons")
        data = self.bundle(self.client, before[0])
        for wrong, said in ((b"", "not a bundle"), (b"PK", "not a bundle"), (data[:-30], "not a bundle")):
            for path in ("/api/bundles", "/api/bundles/preview"):
                problem = self.assert_problem(self.client.post(path, content=wrong), 422)
                self.assertIn(said, problem["detail"])
        large = self.client.post("/api/bundles", content=b"\0" * (65 * 1024 * 1024))
        self.assertIn("64 megabytes", self.assert_problem(large, 422)["detail"])
        self.assertEqual(self.get("/api/lessons"), before)


if __name__ == "__main__":
    unittest.main()
