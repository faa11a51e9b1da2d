"""What lenses look at, by key: recordings that are sent, and takes that any process can make again."""

import io
from hashlib import sha256
from typing import Any

import httpx
import numpy as np
import soundfile
from scipy.io import wavfile

from inner_tone.demo.foghorn import BLASTS, BREATHED
from tests.support.api import ApiTest
from tests.support.patches import RATE
from tests.support.sounds import series

TONE = series(110.0, 0.3, seconds=1.5)


def encoded(kind: str, samples: Any = TONE, rate: int = 48_000) -> bytes:
    buffer = io.BytesIO()
    soundfile.write(buffer, samples, rate, format=kind, subtype="PCM_24")
    return buffer.getvalue()


class RecordingsTest(ApiTest):
    def send(self, data: bytes, name: str = "Horn at the mole") -> httpx.Response:
        return self.client.post("/api/recordings", params={"name": name}, content=data)

    def wish(self, **more: Any) -> dict[str, Any]:
        return {"patch": BREATHED.to_json(), "phrase": BLASTS.model_dump(mode="json"), **more}

    def test_recording_is_kept_by_what_was_sent(self) -> None:
        for kind in ("WAV", "FLAC"):
            data = encoded(kind)
            kept = self.send(data).json()
            self.assertEqual((kept["key"], kept["seconds"]), (sha256(data).hexdigest(), 1.5))
            self.assertIn("110 Hz", kept["sentence"])
            again = self.send(data, "Another name").json()
            self.assertEqual(again, kept, "what is there already stays what it is")
            self.assertEqual(self.get(f"/api/recordings/{kept['key']}"), kept)
            sound, rate = soundfile.read(io.BytesIO(self.client.get(f"/api/recordings/{kept['key']}/sound").content))
            self.assertEqual(rate, RATE)
            np.testing.assert_allclose(sound, TONE, atol=1e-6)

    def test_two_channels_are_kept_as_their_middle(self) -> None:
        kept = self.send(encoded("WAV", np.stack([TONE, np.zeros(len(TONE))], axis=1))).json()
        sound, _ = soundfile.read(io.BytesIO(self.client.get(f"/api/recordings/{kept['key']}/sound").content))
        np.testing.assert_allclose(sound, 0.5 * TONE, atol=1e-6)

    def test_what_cannot_be_kept_is_said(self) -> None:
        for data, word in (
            (b"no sound at all", "not a sound file"),
            (encoded("WAV", np.zeros(0)), "no sound in this file"),
            (encoded("FLAC", np.zeros(61 * 8000), 8000), "lasts 61 seconds"),
        ):
            answer = self.send(data)
            self.assertIn(word, self.assert_problem(answer, 422)["detail"])

    def test_recording_stands_behind_every_lens(self) -> None:
        key = self.send(encoded("WAV")).json()["key"]
        lenses = [{"kind": kind, "taps": ["reed.out"]} for kind in ("wave", "spectrum", "sweep", "level")]
        wish = self.wish(lenses=lenses, behind={"legend": "the horn at the mole", "recording": key})
        charts = self.client.post("/api/renders", json=wish).json()["lenses"]
        for chart in charts:
            roles = {trace["role"] for panel in chart["panels"] for trace in panel["traces"]}
            rasters = [panel for panel in chart["panels"] if panel["raster"]]
            self.assertTrue("compared" in roles or len(rasters) == 2, chart["kind"])
        self.assertIn("the horn at the mole", charts[1]["difference"])
        drawn = self.client.post("/api/charts", json=self.wish(view=lenses[1], behind=wish["behind"])).json()
        self.assertEqual(drawn["charts"][0]["difference"], charts[1]["difference"])

    def test_recording_is_looked_at_by_itself(self) -> None:
        key = self.send(encoded("WAV")).json()["key"]
        for kind in ("wave", "spectrum", "sweep", "level", "response"):
            chart = self.client.post(f"/api/recordings/{key}/look", json={"kind": kind, "taps": ["any.tap"]}).json()
            self.assertTrue(chart["sentence"], kind)
            self.assertEqual(bool(chart["panels"]), kind != "response", kind)

    def test_unknown_recording_is_not_found(self) -> None:
        wish = self.wish(
            lenses=[{"kind": "wave", "taps": ["reed.out"]}], behind={"legend": "it", "recording": "0" * 64}
        )
        self.assert_problem(self.client.post("/api/renders", json=wish), 404)
        self.assert_problem(self.client.get(f"/api/recordings/{'0' * 64}"), 404)


class TakesTest(ApiTest):
    alone = True

    def test_take_can_be_had_by_its_key_from_a_process_that_did_not_make_it(self) -> None:
        wish = {"patch": BREATHED.model_copy(update={"title": "Nowhere kept"}).to_json(), "phrase": {"beats": 1}}
        wish["phrase"]["notes"] = [{"start": 0, "length": 0.5, "pitch": 47}]
        key = self.client.post("/api/renders", json=wish).json()["key"]
        sound = self.client.get(f"/api/renders/{key}/sound").content
        loudness = self.get(f"/api/renders/{key}/loudness")
        self.own.kill()
        self.own.start()
        self.assertEqual(self.client.get(f"/api/renders/{key}/sound").content, sound)
        self.assertEqual(self.get(f"/api/renders/{key}/loudness"), loudness)
        self.assertGreater(float(np.max(np.abs(wavfile.read(io.BytesIO(sound))[1]))), 0.01)
        self.assert_problem(self.client.get(f"/api/renders/{'0' * 64}/sound"), 404)
