"""Own sounds over HTTP: sent, made of takes and recordings, played, bundled, given up; and 300 hostile ones."""

import io
import random
import unittest
from hashlib import sha256
from typing import Any

import httpx
import numpy as np
import soundfile

from inner_tone.core.engine.render import render
from inner_tone.core.modules import stock
from inner_tone.core.patch.match import match
from inner_tone.demo.seed import JONAS, MAREN
from inner_tone.formats.audio import samples_of
from inner_tone.formats.bundle import opened
from tests.support.api import ApiTest
from tests.support.application import Application
from tests.support.live import Line
from tests.support.patches import RATE
from tests.support.samples import ONE_NOTE, file_of, playing, tone
from tests.support.spectra import level_db

HOSTILE = 300
PHRASE = ONE_NOTE.model_dump(mode="json")


class SoundsTest(ApiTest):
    def send(self, data: bytes, **about: str) -> httpx.Response:
        return self.client.post("/api/sounds", params={"name": "Rope", **about}, content=data)

    def sound(self, hertz: float = 220.0, **about: str) -> Any:
        answer = self.send(file_of(tone(hertz)), **about)
        self.assertEqual(answer.status_code, 201, answer.text)
        return answer.json()

    def rendered(self, sound: str, **settings: Any) -> Any:
        wish = {"patch": playing(sound, **settings).to_json(), "phrase": PHRASE}
        answer = self.client.post("/api/renders", json=wish)
        self.assertEqual(answer.status_code, 200, answer.text)
        return answer.json()

    def heard(self, key: str) -> Any:
        samples, rate = soundfile.read(io.BytesIO(self.client.get(f"/api/renders/{key}/sound").content))
        self.assertEqual(rate, RATE)
        return samples[:, 0]

    def test_what_is_known_of_it_and_proposed(self) -> None:
        kept = self.sound(233.08, source="The mole, October", licence="CC0")
        self.assertEqual(
            [kept[one] for one in ("name", "source", "licence", "own")], ["Rope", "The mole, October", "CC0", True]
        )
        facts = kept["facts"]
        self.assertEqual(kept["note"], "A♯3")
        self.assertAlmostEqual(facts["root"], -2.0, delta=0.02)
        self.assertAlmostEqual(facts["peak_db"], 20 * np.log10(np.max(np.abs(tone(233.08)))), delta=0.05)
        self.assertLess(facts["loop_from"], facts["loop_to"])
        self.assertEqual(self.get(f"/api/sounds/{kept['key']}"), kept)
        data = self.client.get(f"/api/sounds/{kept['key']}/sound").content
        self.assertEqual(sha256(data).hexdigest(), kept["key"], "it is known by what it is")
        np.testing.assert_allclose(samples_of(data), tone(233.08), atol=1e-6)
        self.assertIn(kept["key"], [one["key"] for one in self.get("/api/sounds")["own"]])

    def test_it_is_played_by_processes_that_have_never_heard_of_it(self) -> None:
        """It comes to whichever process renders it: in tune by its root, the same samples as here."""
        kept = self.sound(329.63)
        found = self.rendered(kept["sound"], root=kept["facts"]["root"])
        heard = self.heard(found["key"])
        self.assertGreater(level_db(heard[2_400:20_000], RATE, 261.63), -16.0, "middle C, though it was an E")
        stock.bring({kept["key"]: samples_of(self.client.get(f"/api/sounds/{kept['key']}/sound").content)})
        here = render(playing(kept["sound"], root=kept["facts"]["root"]), ONE_NOTE)
        self.assertEqual(here.key, found["key"])
        np.testing.assert_allclose(heard[: len(here.left)], here.left, atol=1e-6)

    def test_it_is_played_live(self) -> None:
        kept, other = self.sound(210.0), self.sound(315.0)
        line = Line(self.application, MAREN)
        self.addCleanup(line.socket.close)
        line.open(playing(kept["sound"]))
        line.tell(kind="note_on", pitch=60, velocity=0.8)
        self.assertGreater(level_db(line.pull(20_000)[4_800:, 0].astype(np.float64), RATE, 210.0), -16.0)
        line.tell(kind="patch", patch=playing(other["sound"]).to_json())
        line.tell(kind="note_on", pitch=60, velocity=0.8)
        line.pull(4_800)
        self.assertGreater(level_db(line.pull(20_000)[4_800:, 0].astype(np.float64), RATE, 315.0), -16.0)

    def test_what_is_gone_is_said(self) -> None:
        wish = {"patch": playing(f"{'1' * 64} Nothing").to_json(), "phrase": PHRASE}
        problem = self.assert_problem(self.client.post("/api/renders", json=wish), 422)
        self.assertIn("is gone", problem["detail"])

    def test_a_sound_is_said_by_its_name(self) -> None:
        before, after = playing("gull"), playing(self.sound()["sound"])
        (said,) = match(before, after, before).remaining
        self.assertIn("“Rope”", said.text)
        self.assertNotRegex(said.text, "[0-9a-f]{12}")

    def test_the_name_of_a_sound_does_not_tell_two_patches_apart(self) -> None:
        key = self.sound()["key"]
        one, other = (playing(f"{key} {name}") for name in ("Rope", "Hawser"))
        self.assertFalse(match(one, other, one).remaining)

    def test_of_a_take_and_of_a_tap(self) -> None:
        patch = playing("horn", loop="on")
        key = self.client.post("/api/renders", json={"patch": patch.to_json(), "phrase": PHRASE}).json()["key"]
        whole = self.client.post("/api/sounds/made", json={"take": key, "name": "Both ears"})
        self.assertEqual(whole.status_code, 201, whole.text)
        part = {"take": key, "tap": "rope.out", "begin_s": 0.2, "end_s": 0.6, "name": "Horn"}
        tapped = self.client.post("/api/sounds/made", json=part).json()
        self.assertAlmostEqual(tapped["facts"]["seconds"], 0.4, places=3)
        self.assertEqual(tapped["note"], "C4")
        wanted = render(patch, ONE_NOTE, taps=["rope.out"]).taps["rope.out"][9_600:28_800]
        kept = samples_of(self.client.get(f"/api/sounds/{tapped['key']}/sound").content)
        np.testing.assert_allclose(kept[:-200], wanted[:-200], atol=1e-6)
        self.assertLess(abs(float(kept[-1])), 1e-3, "what is cut off ends softly")
        for wrong in ({"take": key, "tap": "nobody.out"}, {"take": "0" * 64}, {}):
            answer = self.client.post("/api/sounds/made", json={"name": "No", **wrong})
            self.assertIn(answer.status_code, (404, 422), wrong)
            self.assertTrue(answer.json()["detail"])

    def test_of_a_recording(self) -> None:
        sent = self.client.post("/api/recordings", params={"name": "Played"}, content=file_of(tone(196.0))).json()
        made = self.client.post("/api/sounds/made", json={"recording": sent["key"], "name": "Played"}).json()
        self.assertEqual(made["note"], "G3")

    def test_called_otherwise_and_given_up(self) -> None:
        kept = self.sound(247.0)
        path = f"/api/sounds/{kept['key']}"
        self.assertEqual(self.client.put(path, json={"name": "Hawser"}).json()["name"], "Hawser")
        with self.application.client(JONAS) as jonas:
            self.assert_problem(jonas.put(path, json={"name": "Mine"}), 404)
            self.assert_problem(jonas.delete(path), 404)
            self.assertFalse(jonas.get(path).json()["own"])
        lesson = self.lesson(kept["sound"])
        self.assertEqual(self.client.delete(path).status_code, 204)
        self.assert_problem(self.client.get(path), 404)
        self.assertTrue(self.rendered(kept["sound"])["key"], "the lesson plays it still")
        self.assertEqual(len(opened(self.client.get(f"/api/lessons/{lesson['id']}/bundle").content).samples), 1)
        alone = self.sound(251.0)
        self.client.delete(f"/api/sounds/{alone['key']}")
        wish = {"patch": playing(alone["sound"]).to_json(), "phrase": PHRASE}
        self.assert_problem(self.client.post("/api/renders", json=wish), 422)

    def lesson(self, sound: str) -> Any:
        lesson = self.client.post("/api/lessons", json={"title": "Rope", "template": "tone"}).json()
        step = lesson["steps"][0]
        change = {"version": step["version"], "content": {"patch": playing(sound).to_json()}}
        self.assertEqual(self.client.put(f"/api/steps/{step['id']}", json=change).status_code, 200)
        return lesson

    def test_it_travels_in_bundles(self) -> None:
        kept = self.sound(262.5, source="The quay", licence="CC BY 4.0")
        data = self.client.get(f"/api/lessons/{self.lesson(kept['sound'])['id']}/bundle").content
        other = Application()
        self.addCleanup(other.stop)
        with other.client(MAREN) as far:
            (shown,) = far.post("/api/bundles/preview", content=data).json()["lessons"]
            self.assertEqual([one["name"] for one in shown["sounds"]], ["Rope"])
            (made,) = far.post("/api/bundles", content=data).json()["lessons"]
            there = far.get(f"/api/sounds/{kept['key']}").json()
            self.assertEqual(there, kept)
            found = far.post("/api/renders", json={"patch": playing(kept["sound"]).to_json(), "phrase": PHRASE}).json()
            self.assertEqual(found["key"], self.rendered(kept["sound"])["key"])
            self.assertEqual(far.get(f"/api/lessons/{made}/bundle").content, data, "the same bytes")

    def test_no_more_than_there_is_room_for(self) -> None:
        small = Application(sound_minutes=0.05)
        self.addCleanup(small.stop)
        with small.client(MAREN) as client:
            for hertz, status in ((200.0, 201), (210.0, 201), (220.0, 422)):
                data = file_of(tone(hertz, 1.4))
                answer = client.post("/api/sounds", params={"name": "Rope"}, content=data)
                self.assertEqual(answer.status_code, status, answer.text)
            self.assertIn("room", answer.json()["detail"])
            again = client.post("/api/sounds", params={"name": "Again"}, content=file_of(tone(200.0, 1.4)))
            self.assertEqual(
                (again.status_code, again.json()["name"]), (201, "Rope"), "what is there takes no more room"
            )

    def test_hostile_sounds_are_refused_with_a_sentence(self) -> None:
        """Files that are damaged, cut off, of other kinds, or lie about what they are: each is kept or refused."""
        chance = random.Random(19)
        good = [file_of(tone(220.0, 0.4), kind=kind, subtype=sub) for kind, sub in KINDS]
        states = {201: 0, 422: 0}
        for number in range(HOSTILE):
            answer = self.send(spoiled(chance, good, number))
            self.assertIn(answer.status_code, states, answer.text)
            states[answer.status_code] += 1
            if answer.status_code == 422:
                self.assertRegex(answer.json()["detail"], r"[.…]$")
        self.assertGreater(states[422], HOSTILE // 4)
        self.assertTrue(self.sound(331.0), "and the next one is taken")


KINDS = (
    ("WAV", "PCM_16"),
    ("WAV", "FLOAT"),
    ("FLAC", "PCM_16"),
    ("OGG", "VORBIS"),
    ("AIFF", "PCM_24"),
    ("CAF", "PCM_16"),
)


def spoiled(chance: random.Random, good: list[bytes], number: int) -> bytes:
    """Return a file that something is wrong with, or could be."""
    data = bytearray(chance.choice(good))
    match number % 6:
        case 0:
            for _ in range(chance.randrange(1, 40)):
                data[chance.randrange(len(data))] = chance.randrange(256)
        case 1:
            del data[chance.randrange(len(data)) :]
        case 2:
            for at in range(min(60, len(data))):
                if chance.random() < 0.3:
                    data[at] = chance.randrange(256)
        case 3:
            data = bytearray(chance.randbytes(chance.randrange(4_000)))
        case 4:
            at = chance.randrange(len(data))
            data[at:at] = chance.randbytes(chance.randrange(1, 200))
        case _:
            wild = np.full((4_800, chance.randrange(1, 5)), chance.choice([np.nan, np.inf, 1e30, 0.0, 1e-9]))
            rate = chance.choice([1, 7_999, 48_000, 192_000, 655_350])
            return file_of(wild, rate, "WAV", "FLOAT")
    return bytes(data)


if __name__ == "__main__":
    unittest.main()
