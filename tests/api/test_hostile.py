"""Hostile requests: each is answered with a sentence, soon and short, and nobody else waits meanwhile."""

import io
import itertools
import json
import threading
import time
from typing import Any

import httpx
import mido
import numpy as np
from PIL import Image
from pydantic import BaseModel, ValidationError

from inner_tone.api.schemas import Incoming
from inner_tone.core.documents import MOST_ENTRIES, OVERLONG, Document, most_entries
from inner_tone.core.errors import MOST_TOLD
from inner_tone.demo.foghorn import BLASTS, DISTANT
from inner_tone.demo.seed import JONAS
from inner_tone.formats.audio import wav_bytes
from tests.support import plain
from tests.support.api import ApiTest

PATCH = DISTANT.to_json()
PHRASE = BLASTS.model_dump(mode="json", exclude={"company"})
JSON = {"content-type": "application/json"}
LONGEST_ANSWER = 20_000  # bytes
MANY = 300_000
LONGEST_WAIT_S = 3.0  # of another page, with all processors of the machine as busy as may be; an attack took minutes


class Beside:
    """Somebody else asks for a page once in a hundred milliseconds; `longest` is how long they have waited, in s."""

    def __init__(self, address: str) -> None:
        self.address, self.longest = address, 0.0
        self.ended = threading.Event()
        self.thread = threading.Thread(target=self.ask)

    def ask(self) -> None:
        with plain.client(base_url=self.address, timeout=120) as client:
            while not self.ended.is_set():
                begun = time.monotonic()
                client.get("/health").raise_for_status()
                self.longest = max(self.longest, time.monotonic() - begun)
                self.ended.wait(0.1)

    def __enter__(self) -> "Beside":
        self.thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self.ended.set()
        self.thread.join()


def keys(count: int) -> str:
    """Return an object with many keys that nobody knows."""
    return "{" + ",".join(f'"key{number}":0' for number in range(count)) + "}"


def subclasses(base: type[BaseModel]) -> set[type[BaseModel]]:
    """Return all models that are made from one."""
    return {one for kind in base.__subclasses__() for one in ({kind} | subclasses(kind))}


class HostileTest(ApiTest):
    def setUp(self) -> None:
        beside = Beside(self.application.address)
        beside.__enter__()
        self.addCleanup(lambda: self.assertLess(beside.longest, LONGEST_WAIT_S, "another page waited"))
        self.addCleanup(beside.__exit__)

    def refuse(self, answer: httpx.Response, *words: str) -> Any:
        """Check that an answer says what is wrong, shortly."""
        self.assertIn(answer.status_code, (400, 404, 413, 422), answer.text[:300])
        self.assertLess(len(answer.content), LONGEST_ANSWER)
        found = answer.json()
        self.assertLessEqual(len(found.get("problems", ())), MOST_TOLD)
        for word in words:
            self.assertIn(word, found["detail"])
        return found


class WrongJsonTest(HostileTest):
    def test_nobody_is_read_beyond_what_a_sign_in_takes(self) -> None:
        with plain.client(base_url=self.application.address, timeout=60) as nobody:
            for path in ("/api/account/session", "/api/account", "/api/renders", "/api/lessons"):
                self.refuse(nobody.post(path, content=keys(MANY), headers=JSON), "before a sign-in")
                cookie = {"cookie": "inner_tone=" + "x" * 43}
                self.refuse(nobody.post(path, content=keys(MANY), headers=JSON | cookie), "before a sign-in")
            few = nobody.post("/api/account/session", content=keys(500), headers=JSON)
            self.refuse(few, "500")
        self.refuse(self.client.post("/api/account/session", content=keys(MANY), headers=JSON), "before a sign-in")

    def test_many_wrong_things_are_told_as_twenty_and_how_many_more(self) -> None:
        wrong: list[tuple[str, str, str]] = [
            ("/api/renders", f'{{"patch": {keys(MANY)}, "phrase": {{}}}}', f"{MANY}"),
            ("/api/renders", f'{{"patch": {{"modules": {[1] * MANY}}}}}', f"{MANY}"),
            ("/api/renders", f'{{"patch": {{"modules": {[1] * 200}}}}}', "more."),
            ("/api/renders", f'{{"patch": {{"modules": [{{"settings": {keys(MANY)}}}]}}}}', f"{MANY}"),
            ("/api/renders", f'{{"patch": {{"modules": [{{"settings": {{"a": {[{}] * MANY}}}}}]}}}}', "settings"),
            ("/api/renders", f'{{"phrase": {{"gestures": [{{"points": {[[9]] * 20_000}}}]}}}}', "points"),
            ("/api/renders", f'{{"phrase": {{"notes": {[{}] * 4_096}}}}}', "more."),
            ("/api/renders", f'{{"lenses": [{{"kind": {json.dumps("x" * 2_000_000)}}}]}}', "lenses"),
            ("/api/renders", f'{{"patch": {{"format": {[1] * MOST_ENTRIES}}}}}', "a list"),
            ("/api/lessons", f'{{"title": {json.dumps("x" * 2_000_000)}}}', "2000000"),
            ("/api/lessons", f"{{{json.dumps('y' * 2_000_000)}: 1}}", "no such key"),
        ]
        for path, body, words in wrong:
            self.refuse(self.client.post(path, content=body, headers=JSON), words)

    def test_how_many_are_told_and_how_many_more_add_up(self) -> None:
        for modules, each in itertools.product((1, 3, 30, 150), (1, 5)):
            patch = {"modules": [{f"key{number}": 0 for number in range(each)}] * modules}
            answer = self.client.post("/api/renders", json={"patch": patch, "phrase": PHRASE})
            found = self.refuse(answer)
            more = found["detail"].rpartition("And ")[2].removesuffix(" more.") if "And " in found["detail"] else "0"
            expected = modules * (each + 2)  # the keys that nobody knows, and an id and a type that are missing
            self.assertEqual(len(found["problems"]) + int(more.replace(",", "")), expected)

    def test_every_list_of_every_document_has_an_end(self) -> None:
        """Whatever a field may hold, so many entries are refused before one of them is looked at."""
        for model in subclasses(Document) | subclasses(Incoming):
            for name, most in most_entries(model).items():
                self.assertLessEqual(most, 20_000, (model, name))
                with self.assertRaises(ValidationError) as raised:
                    model.model_validate({name: [object()] * (most + 1)})
                kinds = [one["type"] for one in raised.exception.errors()]
                self.assertEqual(kinds, [OVERLONG], (model, name))


class NumberTest(HostileTest):
    def test_beats_and_tempos_that_mean_nothing(self) -> None:
        part = {"id": "bass", "name": "Bass", "patch": PATCH, "phrase": PHRASE}
        for change in (
            {"beats": 1e-300},
            {"beats": 1e-7},
            {"beats": 1e308},
            {"tempo": 1e308},
            {"tempo": -96},
            {"tempo": 0},
        ):
            [name] = change
            odd = {**PHRASE, "notes": [], "gestures": [], **change}
            self.refuse(self.client.post("/api/renders", json={"patch": PATCH, "phrase": odd}), f"phrase.{name}")
            company = {**PHRASE, "company": [{**part, "phrase": odd}]}
            sound = self.client.post("/api/company/sound", json={"phrase": company})
            self.refuse(sound, f"company[0].phrase.{name}")

    def test_part_that_would_play_more_than_a_phrase_may_have(self) -> None:
        note = {"start": 0, "length": 0.05, "pitch": 60}
        short = {**PHRASE, "beats": 0.1, "notes": [note] * 20, "gestures": []}
        part = {"id": "bass", "name": "Bass", "patch": PATCH, "phrase": short}
        long = {**PHRASE, "tempo": 400, "beats": 1000, "notes": [], "gestures": [], "company": [part]}
        sound = self.client.post("/api/company/sound", json={"phrase": long})
        self.refuse(sound, "company[0].phrase.notes", "10000 times")


class FileTest(HostileTest):
    def test_addresses_longer_than_any_file_is_called(self) -> None:
        with plain.client(base_url=self.application.address, timeout=60) as nobody:
            self.assertEqual(nobody.get("/" + "a" * 300).status_code, 200, "a page of the interface, that is not there")
            self.assertEqual(nobody.get("/assets/" + "a" * 300).status_code, 404)
            self.assertEqual(nobody.get("/assets/" + "a" * 300 + "/b.js").status_code, 404)

    def test_recordings_of_hardly_any_samples(self) -> None:
        for count in (0, 1, 2, 3, 10, 64, 500):
            data = wav_bytes(np.full(count, 0.25), 48_000.0)
            answer = self.client.post("/api/recordings", params={"name": "Short"}, content=data)
            self.assertIn(answer.status_code, (201, 422), (count, answer.text[:200]))
            sound = self.client.post("/api/sounds", params={"name": "Short"}, content=data)
            self.assertIn(sound.status_code, (201, 422), (count, sound.text[:200]))

    def test_levers_that_are_none(self) -> None:
        file = io.BytesIO()
        mido.MidiFile(
            tracks=[mido.MidiTrack([mido.Message("note_on", note=60), mido.Message("note_off", time=90)])]
        ).save(file=file)
        for lever in ("bright", "lever:", "lever:A", "lever:" + "a" * 4_000):
            answer = self.client.post("/api/phrases/midi", params={"levers": lever}, content=file.getvalue())
            self.assertIn(answer.status_code, (400, 422), answer.text)

    def test_midi_file_of_many_empty_tracks(self) -> None:
        track = b"MTrk" + (4).to_bytes(4) + b"\x00\xff\x2f\x00"
        count = 20_000
        data = b"MThd" + (6).to_bytes(4) + (1).to_bytes(2) + count.to_bytes(2) + (96).to_bytes(2) + track * count
        begun = time.process_time(), time.monotonic()
        self.refuse(self.client.post("/api/phrases/midi", content=data), "no notes")
        self.assertLess(time.monotonic() - begun[1], 20.0)

    def test_images_of_many_pixels(self) -> None:
        file = io.BytesIO()
        Image.new("RGB", (6_000, 6_000), "teal").save(file, "PNG")
        threads = [
            threading.Thread(target=lambda: self.client.post("/api/images", content=file.getvalue())) for _ in range(4)
        ]
        for one in threads:
            one.start()
        for one in threads:
            one.join()
        answer = self.client.post("/api/images", content=file.getvalue())
        self.assertEqual(answer.status_code, 201, answer.text)

        def chunked() -> Any:
            yield from itertools.repeat(b"\x89PNG" * 250_000, 20)

        self.refuse(self.client.post("/api/images", content=chunked()), "12 megabytes")

    def test_learners_wrong_json(self) -> None:
        with self.application.client(JONAS) as learner:
            body = f'{{"patch": {{"modules": {[1] * 300_000}}}}}'
            self.refuse(learner.post("/api/renders", content=body, headers=JSON), "300000")
