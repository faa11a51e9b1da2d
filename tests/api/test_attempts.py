"""Own benches over HTTP: attempts, nearness, advice, recordings of other instruments, questions; and who sees them."""

import io
import random
import struct
import unittest
import uuid
from typing import Any

import httpx
import numpy as np
import soundfile

from inner_tone.core.outside import recorded
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import SetValue
from inner_tone.demo.course.build import course
from inner_tone.formats.audio import wav_bytes
from inner_tone.store import accounts
from inner_tone.store.models import (
    Attempt,
    AttemptHistory,
    Edition,
    Lesson,
    Played,
    Question,
    Recording,
    Share,
    Standing,
    Step,
)
from tests.support.alike import renamed
from tests.support.learning import LearningTest

RAW = {"Content-Type": "application/octet-stream"}


class AttemptTest(LearningTest):
    def put(self, attempt: dict[str, Any], **change: Any) -> httpx.Response:
        return self.ann.put(f"/api/attempts/{attempt['id']}", json={"version": attempt["version"], **change})


class KeepingTest(AttemptTest):
    def test_bench_begins_where_the_step_before_ended(self) -> None:
        bench = self.ann.get(self.path("bench")).json()
        self.assertEqual(Patch.model_validate(bench["start"]), self.start)
        self.assertEqual((bench["attempts"], bench["standing"]), ([], None))
        begun = self.begin()
        self.assertEqual(Patch.model_validate(begun["patch"]), self.start)
        again = self.ann.get(self.path("bench")).json()
        self.assertEqual([one["id"] for one in again["attempts"]], [begun["id"]])
        self.assertEqual(again["standing"]["state"], "opened")

    def test_every_state_is_in_the_history(self) -> None:
        begun = self.begin(patch=self.goal.to_json())
        first = self.put(begun, patch=self.with_value(self.goal, "attack", 0.1).to_json()).json()
        settings = [{"kind": "set", "module": "breath", "setting": "attack", "value": 0.2}]
        second = self.put(first, settings=settings, shown=True).json()
        rows = self.ann.get(f"/api/attempts/{begun['id']}/history").json()
        self.assertEqual([row["action"] for row in rows], ["shown", "changed", "begun"])
        self.assertEqual([row["version"] for row in rows], [3, 2, 1])
        self.assertEqual(rows[0]["patch"], second["patch"])
        older = self.ann.get(f"/api/attempts/{begun['id']}/history", params={"before": 2}).json()
        self.assertEqual([row["version"] for row in older], [1])

    def test_history_is_only_added_to(self) -> None:
        begun = self.begin()
        with self.engine.connect() as connection:
            for change in ("UPDATE attempt_history SET action = 'x'", "DELETE FROM attempt_history"):
                with self.assertRaisesRegex(Exception, "only ever added"), connection.begin():
                    connection.exec_driver_sql(change)
        self.assertEqual(len(self.ann.get(f"/api/attempts/{begun['id']}/history").json()), 1)

    def test_two_pages_of_one_learner_lose_nothing(self) -> None:
        """Disjoint changes from the same version are both there; a wish that comes twice is fulfilled once."""
        begun = self.begin(patch=self.goal.to_json())
        here = self.with_value(self.goal, "attack", 0.1).to_json()
        there = self.with_value(self.goal, "release", 1.5).to_json()
        wish = {"patch": here, "request": str(uuid.uuid4())}
        for _ in range(2):
            self.put(begun, **wish)
        met = self.put(begun, patch=there, request=str(uuid.uuid4())).json()
        envelope = next(one for one in met["patch"]["modules"] if one["type"] == "envelope")
        self.assertEqual((envelope["settings"]["attack"], envelope["settings"]["release"]), (0.1, 1.5))
        self.assertEqual(met["version"], 3)

    def test_bad_patch_is_refused_and_loses_nothing(self) -> None:
        begun = self.begin(patch=self.goal.to_json())
        bad = self.goal.to_json()
        bad["modules"][1]["settings"] = {"cutoff": 12}
        self.assert_problem(self.put(begun, patch=bad), 422)
        kept = self.ann.get(self.path("bench")).json()["attempts"][0]
        self.assertEqual((kept["version"], kept["patch"]), (begun["version"], begun["patch"]))

    def test_variants_have_names_and_a_bound(self) -> None:
        first = self.begin(name="Soft")
        self.assertEqual(self.put(first, name="Softer").json()["name"], "Softer")
        for number in range(11):
            self.begin(name=f"Variant {number}")
        refused = self.ann.post(self.path("attempts"), json={"name": "One more"})
        self.assertIn("Delete one", self.assert_problem(refused, 422)["detail"])
        self.assertEqual(self.ann.delete(f"/api/attempts/{first['id']}").status_code, 204)
        self.assertEqual(len(self.ann.get(self.path("bench")).json()["attempts"]), 11)


class LeverTest(AttemptTest):
    """A step whose phrase moves a lever, done with levers of one's own."""

    taught = course()["2-08-levers"].document
    place = 1

    def test_movements_reach_the_lever_that_stands_for_the_step_s(self) -> None:
        mine = renamed(self.goal, random.Random(1))
        found = self.near(mine.patch)
        self.assertTrue(found["done"] and found["sound"]["same"], found["answer"])
        levers = {"octave": mine.names["octave"]}
        ticked = self.ann.post(self.path("ticks"), json={"patch": mine.patch.to_json()}).json()
        self.assertEqual(ticked["levers"], levers)
        attempt = self.begin(patch=mine.patch.to_json())
        self.assertEqual(self.owner.get(f"/api/attempts/{attempt['id']}/seen").json()["levers"], levers)


class NearTest(AttemptTest):
    def test_from_nothing_over_near_to_done(self) -> None:
        begun = self.near(self.start)
        self.assertEqual((begun["done"], begun["untouched"], any(begun["ticks"])), (False, True, False))
        almost = self.near(self.with_value(self.goal, "attack", 0.1))
        self.assertEqual((almost["done"], almost["near"]), (False, True))
        self.assertEqual(almost["standing"]["state"], "near")
        self.assertIn("attack", almost["hints"][0]["where"])
        self.assertIn("350 ms", almost["hints"][0]["what"])
        self.assertNotIn("350", almost["hints"][0]["where"])
        envelope = next(one for one in almost["sound"]["figures"] if one["name"] == "envelope_db")
        self.assertGreater(envelope["value"], envelope["limit"])
        done = self.near(self.goal)
        self.assertEqual((done["done"], done["hints"], all(done["ticks"])), (True, [], True))
        self.assertEqual(self.near(self.start)["standing"]["state"], "done", "nobody falls back")

    def test_pitch_is_said_in_octaves_and_semitones(self) -> None:
        for setting, value, said in (
            ("octave", -1, "an octave too high"),
            ("octave", -3, "an octave too low"),
            ("semitone", 7, "7 semitones too high"),
            ("fine", -30, "30 cents too low"),
        ):
            found = self.near(made(self.goal, [SetValue(module="reed", setting=setting, value=value)]).patch)
            pitch = next(one for one in found["sound"]["figures"] if one["name"] == "pitch_cents")
            self.assertEqual(pitch["said"], said)
            self.assertIn(said, found["answer"])

    def test_what_was_shown_is_known(self) -> None:
        shown = {"patch": self.goal.to_json(), "shown": True}
        self.assertTrue(self.ann.post(self.path("near"), json=shown).json()["standing"]["shown"])
        self.assertTrue(self.near(self.goal)["standing"]["shown"])
        self.assertFalse(self.near(self.goal, self.bob)["standing"]["shown"])

    def test_ticks_follow_the_patch(self) -> None:
        wish = {"patch": self.with_value(self.goal, "attack", 0.1).to_json()}
        found = self.ann.post(self.path("ticks"), json=wish).json()
        self.assertEqual(found, {"ticks": [True, False], "levers": {}})

    def test_advice_names_what_to_turn(self) -> None:
        wish = {"patch": self.with_value(self.goal, "attack", 0.03).to_json(), "ticket": str(uuid.uuid4())}
        found = self.ann.post(self.path("advice"), json=wish, timeout=120).json()
        self.assertEqual((found[0]["module"], found[0]["setting"]), ("breath", "attack"))
        self.assertIn("up", found[0]["text"])
        self.assertNotIn("350", found[0]["text"], "the answer is not given away")


class RecordingTest(AttemptTest):
    def give(self, data: bytes, client: httpx.Client | None = None) -> httpx.Response:
        wish = {"name": "my own"}
        return (client or self.ann).post(self.path("played"), params=wish, content=data, headers=RAW, timeout=60)

    def outside(self, name: str, patch: Patch) -> bytes:
        return wav_bytes(recorded(name, patch, self.content.phrase).T, 48_000.0)

    def compared(self, given: dict[str, Any]) -> dict[str, Any]:
        found: dict[str, Any] = self.ann.get(self.path(f"played/{given['id']}"), timeout=60).json()
        return found

    def test_another_instrument_that_does_the_step_is_told_so(self) -> None:
        sound = self.compared(self.give(self.outside("worn", self.goal)).json())
        self.assertEqual((sound["same"], sound["cannot_tell"]), (True, None), sound)
        self.assertAlmostEqual(sound["begins_s"], 0.32, delta=0.05)
        self.assertEqual(self.ann.get(self.path("bench")).json()["standing"]["state"], "done")

    def test_another_sound_is_told_and_what_to_turn(self) -> None:
        barking = self.with_value(self.goal, "attack", 0.02)
        given = self.give(self.outside("drifting", barking)).json()
        sound = self.compared(given)
        self.assertEqual((sound["same"], sound["cannot_tell"]), (False, None), sound)
        self.assertIn("comes up faster", sound["sentence"])
        advice = self.ann.post(self.path(f"played/{given['id']}/advice"), timeout=120).json()
        self.assertEqual((advice[0]["module"], advice[0]["setting"]), ("breath", "attack"), advice)
        self.assertIn("up", advice[0]["text"])

    def test_what_cannot_be_told_is_said(self) -> None:
        other = self.content.phrase.model_copy(
            update={
                "notes": tuple(
                    note.model_copy(update={"start": note.start * 0.3}) for note in self.content.phrase.notes
                )
            }
        )
        silence = np.zeros(48_000 * 8)
        loud = np.clip(2.5 * recorded("worn", self.goal, self.content.phrase)[0], -0.5, 0.5)
        for data, word in (
            (wav_bytes(silence, 48_000.0), "nothing to be heard"),
            (wav_bytes(loud, 48_000.0), "cut off"),
            (wav_bytes(recorded("drifting", self.goal, other).T[: 48_000 * 2], 48_000.0), "ends before"),
        ):
            with self.subTest(word=word):
                sound = self.compared(self.give(data).json())
                self.assertFalse(sound["same"])
                self.assertIn(word, sound["cannot_tell"])

    def test_uploads_that_do_harm_get_a_sentence_and_change_nothing(self) -> None:
        def wav(samples: bytes, channels: int = 1, rate: int = 48_000, size: int | None = None) -> bytes:
            count = len(samples) if size is None else size
            head = struct.pack("<IHHIIHH", 16, 3, channels, rate, rate * channels * 4, channels * 4, 32)
            return (
                b"RIFF"
                + struct.pack("<I", 36 + len(samples))
                + b"WAVEfmt "
                + head
                + b"data"
                + struct.pack("<I", count)
                + samples
            )

        zeros = np.zeros(4800, dtype="<f4").tobytes()
        bomb = io.BytesIO()
        soundfile.write(bomb, np.zeros(48_000 * 1200), 48_000, format="FLAC")
        hostile = {
            "no audio": b"this is no sound",
            "nothing": b"",
            "a header of 4 GB": wav(zeros, size=2**32 - 1),
            "samples that are none": wav(np.full(4800, np.nan, dtype="<f4").tobytes()),
            "8 channels": wav(zeros, channels=8),
            "1 Hz": wav(zeros, rate=1),
            "a bomb": bomb.getvalue(),
        }
        before = self.recordings()
        for what, data in hostile.items():
            with self.subTest(what=what):
                detail = self.assert_problem(self.give(data), 422)["detail"]
                self.assertRegex(detail, r"^[A-Z].*\.$")
        self.assertEqual(self.ann.get(self.path("bench")).json()["played"], [])
        self.assertEqual(self.recordings(), before)

    def recordings(self) -> int:
        with self.sessions.begin() as session:
            return session.query(Recording).count()

    def test_upload_without_a_length_is_stopped(self) -> None:
        def endless() -> Any:
            for _ in range(70):
                yield bytes(1024 * 1024)

        answer = self.ann.post(self.path("played"), params={"name": "x"}, content=endless(), headers=RAW, timeout=60)
        self.assertIn("megabytes", self.assert_problem(answer, 422)["detail"])

    def test_recording_is_heard_by_its_owner_and_the_educator_alone(self) -> None:
        given = self.give(self.outside("worn", self.goal)).json()
        for client, allowed in ((self.ann, True), (self.owner, True), (self.bob, False), (self.eve, False)):
            for rest in ("", "/sound"):
                answer = client.get(f"/api/recordings/{given['key']}{rest}")
                self.assertEqual(answer.status_code, 200 if allowed else 404, rest)
        self.assertEqual(self.bob.get(self.path(f"played/{given['id']}")).status_code, 404)


class SeenTest(AttemptTest):
    def test_question_goes_to_the_educator_and_the_answer_comes_back(self) -> None:
        attempt = self.begin()
        wish = {"place": "Look at the attack.", "text": "Why does mine bark?", "attempt_id": attempt["id"]}
        asked = self.ann.post(self.path("questions"), json=wish).json()
        (learner,) = self.owner.get(f"/api/lessons/{self.lesson}/learners").json()
        self.assertEqual(learner["name"], "Ann")
        self.assertEqual(learner["attempts"][0]["patch"], attempt["patch"])
        self.assertEqual(learner["questions"][0]["attempt_id"], attempt["id"])
        answered = self.owner.put(f"/api/questions/{asked['id']}", json={"text": "Give it time to swell."})
        self.assertEqual(answered.status_code, 200)
        mine = self.ann.get(self.path("bench")).json()["questions"]
        self.assertEqual([one["answer"] for one in mine], ["Give it time to swell."])

    def test_nobody_else_sees_any_of_it(self) -> None:
        attempt = self.begin()
        asked = self.ann.post(self.path("questions"), json={"text": "Why?"}).json()
        bench = self.bob.get(self.path("bench")).json()
        self.assertEqual((bench["attempts"], bench["questions"], bench["played"]), ([], [], []))
        change = {"version": 1, "name": "Taken"}
        for client in (self.bob, self.owner, self.eve):
            self.assertEqual(client.put(f"/api/attempts/{attempt['id']}", json=change).status_code, 404)
            self.assertEqual(client.delete(f"/api/attempts/{attempt['id']}").status_code, 404)
            self.assertEqual(client.get(f"/api/attempts/{attempt['id']}/history").status_code, 404)
            self.assertEqual(client.delete(f"/api/attempts/questions/{asked['id']}").status_code, 404)
        for client in (self.bob, self.eve):
            self.assertEqual(client.get(f"/api/lessons/{self.lesson}/learners").status_code, 404)
            self.assertEqual(client.put(f"/api/questions/{asked['id']}", json={"text": "Because."}).status_code, 404)

    def test_end_of_an_account_takes_all_of_it_along(self) -> None:
        with self.sessions.begin() as session:
            ann = accounts.account_called(session, self.people["ann"])
            assert ann is not None
            whose = ann.id
        begun = self.begin()
        self.near(self.goal)
        self.ann.post(self.path("questions"), json={"text": "Why?"})
        tone = wav_bytes(np.sin(np.arange(48_000) / 20.0), 48_000.0)
        self.ann.post(self.path("played"), params={"name": "x"}, content=tone, headers=RAW)
        self.assertIn("another one", self.ann.post("/api/account/end", json={"password": "wrong"}).json()["detail"])
        self.assertEqual(self.ann.post("/api/account/end", json={"password": "a long password"}).status_code, 204)
        with self.sessions.begin() as session:
            for table in (Attempt, Standing, Question, Played):
                self.assertEqual(session.query(table).filter_by(account_id=whose).count(), 0, table.__tablename__)
            self.assertEqual(session.query(AttemptHistory).filter_by(attempt_id=uuid.UUID(begun["id"])).count(), 0)
            self.assertEqual(session.query(Recording).filter_by(owner_id=whose).count(), 0)
            self.assertIsNone(accounts.account_called(session, self.people["ann"]))
        self.assertEqual(self.ann.get(self.path("bench")).status_code, 401)

    def test_end_of_an_educators_account_takes_lessons_and_what_others_made_in_them(self) -> None:
        self.begin()
        self.ann.put(f"/api/practice/{self.lesson}", json={"place": 1})
        kept = self.owner.get("/api/account/kept").json()
        self.assertEqual(kept, {"lessons": 1, "classes": 0, "others": 1})
        self.owner.put(f"/api/lessons/{self.lesson}/shares", json={"sign_in": self.people["eve"], "may_write": True})
        self.assertEqual(self.owner.post("/api/account/end", json={"password": "a long password"}).status_code, 204)
        with self.sessions.begin() as session:
            for table in (Attempt, Standing, Step, Edition, Share):
                found = session.query(table).filter_by(lesson_id=uuid.UUID(self.lesson)).count()
                self.assertEqual(found, 0, table.__tablename__)
            self.assertIsNone(session.get(Lesson, uuid.UUID(self.lesson)))
        self.assertEqual(self.ann.get(f"/api/practice/{self.lesson}").status_code, 404)

    def test_lessons_pass_to_an_heir_with_all_that_others_made(self) -> None:
        mine = self.begin()
        end = {"password": "a long password", "heir": self.people["owner"]}
        self.assert_problem(self.owner.post("/api/account/end", json=end), 422)
        end["heir"] = self.people["ann"]
        self.assert_problem(self.owner.post("/api/account/end", json=end), 404)
        end["heir"] = self.people["eve"]
        self.assertEqual(self.owner.post("/api/account/end", json=end).status_code, 204)
        self.assertEqual(self.eve.get(f"/api/lessons/{self.lesson}").json()["right"], "own")
        self.assertEqual(self.ann.get(self.path("bench")).json()["attempts"][0]["id"], mine["id"])
        edition = self.eve.get(f"/api/lessons/{self.lesson}/editions").json()[0]
        self.assertEqual(edition["published_by"], "somebody who has left")


if __name__ == "__main__":
    unittest.main()
