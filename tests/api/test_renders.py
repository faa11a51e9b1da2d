"""Renders and lenses over HTTP, and the catalogue."""

import io
import threading
import unittest
from typing import Any

import httpx
import numpy as np
from scipy.io import wavfile

from benchmarks.patches import voice
from inner_tone.core.analysis.loudness import loudness_lufs
from inner_tone.core.engine.render import render
from inner_tone.core.modules import CATALOGUE
from inner_tone.core.patch.edit import edited
from inner_tone.core.patch.moves import SetValue
from inner_tone.demo.foghorn import BLASTS, BREATHED, DISTANT
from inner_tone.demo.seed import JONAS
from tests.support.api import ApiTest
from tests.support.patches import phrase
from tests.support.patience import wait_for

PATCH = DISTANT.to_json()
PHRASE = BLASTS.model_dump(mode="json")


class RenderCase(ApiTest):
    def render(self, *lenses: dict[str, Any], patch: Any = PATCH, **more: Any) -> httpx.Response:
        body = {"patch": patch, "phrase": PHRASE, "lenses": list(lenses), **more}
        return self.client.post("/api/renders", json=body)


class SurvivingTest(RenderCase):
    alone = True

    def test_sound_of_a_saved_step_outlives_the_process(self) -> None:
        key = self.render().json()["key"]
        before = self.client.get(f"/api/renders/{key}/sound").content
        wait_for(lambda: self.survives(key), 20, "the sound in the database")
        self.assertEqual(self.client.get(f"/api/renders/{key}/sound").content, before)

    def survives(self, key: str) -> bool:
        self.own.kill()
        self.own.start()
        if self.client.get(f"/api/renders/{key}/sound").status_code == 200:
            return True
        self.render()
        return False


class RenderTest(RenderCase):
    def test_sound_is_what_the_engine_renders(self) -> None:
        key = self.render().json()["key"]
        wav = self.client.get(f"/api/renders/{key}/sound")
        self.assertIn("immutable", wav.headers["cache-control"])
        rate, samples = wavfile.read(io.BytesIO(wav.content))
        done = render(DISTANT, BLASTS)
        self.assertEqual((rate, key), (48_000, done.key))
        np.testing.assert_array_equal(samples[:, 0], done.left)
        np.testing.assert_array_equal(samples[:, 1], done.right)

    def test_measures_and_lenses(self) -> None:
        data = self.render(
            {"kind": "wave", "taps": ["bell.out"], "cycles": 2, "held_by": "reed.out"},
            {"kind": "spectrum", "taps": ["bell.out"]},
            {"kind": "wave", "taps": ["breath.out"], "cycles": 0},
        ).json()
        self.assertAlmostEqual(data["measures"]["breath.out"]["greatest"], 1.0, places=3)
        wave, spectrum, course = data["lenses"]
        self.assertAlmostEqual(wave["x"]["high"], 2 / 55.0, places=5)
        self.assertEqual([one["text"] for one in spectrum["panels"][0]["marks"][:4]], ["1", "2", "3", "4"])
        self.assertIn("55 Hz (A1)", spectrum["sentence"])
        moment = data["moment"]
        self.assertEqual((moment["words"], moment["begin_s"], moment["end_s"]), ("note 1 of 2, A3", 0.0, 2.5))
        self.assertEqual((course["x"]["low"], course["x"]["high"]), (0.0, 2.5), "a lens over time shows the moment")
        whole = self.render({"kind": "wave", "taps": ["breath.out"], "cycles": 0}, moment={"kind": "whole"}).json()
        self.assertEqual(whole["lenses"][0]["x"]["high"], data["seconds"])
        gone = self.render(moment={"kind": "note", "note": 9}).json()["moment"]
        self.assertEqual((gone["note"], gone["why"][:27]), (1, "There is no note 9 any more"))

    def test_what_stands_behind_the_lenses(self) -> None:
        lens = {"kind": "spectrum", "taps": ["amp.out"]}
        body = {"patch": PATCH, "phrase": PHRASE, "lenses": [lens]}
        before = {"legend": "the step before", "patch": BREATHED.to_json(), "phrase": PHRASE}
        for behind in (before, {"legend": "what goes in", "tap": "amp.in"}):
            (chart,) = self.client.post("/api/renders", json={**body, "behind": behind}).json()["lenses"]
            legends = [one["legend"] for one in chart["panels"][0]["traces"]]
            self.assertEqual(legends, [behind["legend"], "Loudness"])
            self.assertIn(f"Against {behind['legend']}", chart["difference"])

    def test_a_take_and_what_is_set_since_stand_for_patch_and_phrase(self) -> None:
        lens = {"kind": "spectrum", "taps": ["amp.out"]}
        first = self.render(lens).json()
        settings = [{"kind": "set", "module": "bell", "setting": "cutoff", "value": 900.0}]
        changed = edited(DISTANT, [SetValue.model_validate(settings[0])]).patch.to_json()
        whole = {"patch": changed, "phrase": PHRASE, "lenses": [lens]}
        brief = {"since": {"take": first["key"], "settings": settings}, "lenses": [lens]}
        behind: dict[str, Any] = {"legend": "the step before"}
        for wish, other in ((whole, {"patch": PATCH, "phrase": PHRASE}), (brief, {"take": first["key"]})):
            wish["behind"] = behind | other
        answers = [self.client.post("/api/renders", json=wish).json() for wish in (whole, brief)]
        self.assertEqual(answers[0], answers[1])
        self.assertNotEqual(answers[0]["key"], first["key"])
        self.assertIn("Against the step before", answers[0]["lenses"][0]["difference"])

    def test_a_take_that_nobody_knows_is_said_to_be_unknown(self) -> None:
        unknown = "0" * 64
        for wish in (
            {"since": {"take": unknown}},
            {"patch": PATCH, "phrase": PHRASE, "behind": {"legend": "x", "take": unknown}},
        ):
            self.assert_problem(self.client.post("/api/renders", json=wish), 404)

    def test_it_must_be_said_what_to_render(self) -> None:
        for wish in ({}, {"patch": PATCH}, {"phrase": PHRASE}):
            self.assertIn(
                "what to render", self.assert_problem(self.client.post("/api/renders", json=wish), 422)["detail"]
            )
        first = self.render().json()["key"]
        for module, setting in (("nobody", "cutoff"), ("bell", "nothing")):
            setting_of = {"kind": "set", "module": module, "setting": setting, "value": 1.0}
            wish = {"since": {"take": first, "settings": [setting_of]}}
            self.assert_problem(self.client.post("/api/renders", json=wish), 422)

    def test_muted_module_is_seen_muted(self) -> None:
        lens = {"kind": "wave", "taps": ["amp.out"]}
        wish = {"patch": PATCH, "phrase": PHRASE, "lenses": [lens], "listening": {"muted": ["reed"]}}
        (chart,) = self.client.post("/api/renders", json=wish).json()["lenses"]
        self.assertIn("Silence", chart["sentence"])

    def test_loudness_of_a_render(self) -> None:
        key = self.render().json()["key"]
        done = render(DISTANT, BLASTS)
        wanted = loudness_lufs(np.stack([done.left, done.right]), done.rate)
        self.assertAlmostEqual(self.get(f"/api/renders/{key}/loudness")["lufs"], wanted, places=6)
        self.assert_problem(self.client.get("/api/renders/0000/loudness"), 404)

    def test_unknown_tap_and_wrong_patch_are_refused(self) -> None:
        answer = self.render({"kind": "wave", "taps": ["bell.nothing"]})
        self.assertEqual((answer.status_code, answer.headers["content-type"]), (422, "application/problem+json"))
        self.assertIn("bell.nothing", answer.json()["detail"])
        wrong = {"modules": [{"id": "a", "type": "violin"}]}
        self.assertEqual(self.render(patch=wrong).json()["problems"][0]["path"], "modules[0].type")
        self.assertEqual(self.render({"kind": "sonar", "taps": ["bell.out"]}).status_code, 422)

    def test_forgotten_sound_says_so(self) -> None:
        answer = self.client.get("/api/renders/0000/sound")
        self.assertEqual(answer.status_code, 404)
        self.assertIn("Render it again", answer.json()["detail"])

    def test_catalogue_has_every_module_type(self) -> None:
        found = {one["name"]: one for one in self.client.get("/api/modules").json()}
        self.assertEqual(set(found), set(CATALOGUE))
        cutoff = next(port for port in found["filter"]["inputs"] if port["name"] == "cutoff")
        self.assertEqual((cutoff["law"], cutoff["depth_unit"], cutoff["ruler"]["unit"]), ("semitones", "st", "Hz"))

    def test_pages_are_served_for_every_address_of_the_interface(self) -> None:
        for path in ("/", "/shelf", "/desk/some/3"):
            answer = self.client.get(path)
            self.assertEqual(answer.status_code, 200)
            self.assertIn('<div id="root">', answer.text)
        self.assertEqual(self.client.get("/icon.svg").headers["content-type"], "image/svg+xml")
        self.assertNotIn("inner-tone-web", self.client.get("/..%2fpackage.json").text)


# a render that takes long: thirty seconds, sixteen voices
LONG_PATCH = voice(voices=16)
LONG_PHRASE = phrase(*((0.0, 29.0, 40.0 + 3 * key) for key in range(16)), beats=30.0)


class TicketTest(ApiTest):
    def test_ticket_is_watched_and_stopped_over_http(self) -> None:
        wish = {
            "patch": LONG_PATCH.to_json(),
            "phrase": LONG_PHRASE.model_dump(mode="json"),
            "ticket": "a-ticket-of-mine",
        }
        answers: list[httpx.Response] = []
        asking = threading.Thread(target=lambda: answers.append(self.client.post("/api/renders", json=wish)))
        asking.start()
        place = "/api/renders/progress/a-ticket-of-mine"
        with self.application.client() as other:
            part = wait_for(lambda: other.get(place).json()["part"], 60, "the render")
            self.assertTrue(0.0 < part <= 1.0)
            self.assertEqual(other.delete(place).status_code, 204)
            asking.join(20)
            self.assertIsNone(other.get(place).json()["part"])
        self.assertEqual(self.assert_problem(answers[0], 409)["title"], "Stopped")

    def test_ticket_of_another_account_means_nothing(self) -> None:
        wish = {"patch": LONG_PATCH.to_json(), "phrase": LONG_PHRASE.model_dump(mode="json"), "ticket": "mine-alone"}
        answers: list[httpx.Response] = []
        asking = threading.Thread(target=lambda: answers.append(self.client.post("/api/renders", json=wish)))
        asking.start()
        place = "/api/renders/progress/mine-alone"
        with self.application.client() as mine, self.application.client(JONAS) as other:
            wait_for(lambda: mine.get(place).json()["part"], 60, "the render")
            self.assertIsNone(other.get(place).json()["part"])
            self.assertEqual(other.delete(place).status_code, 204)
            self.assertIsNotNone(mine.get(place).json()["part"])
            mine.delete(place)
        asking.join(20)
        self.assert_problem(answers[0], 409)


if __name__ == "__main__":
    unittest.main()
