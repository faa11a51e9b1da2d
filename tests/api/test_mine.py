"""Everything of an account as one file, lessons for anyone, and the files that jobs make."""

import io
import json
import unittest
import uuid
import zipfile
from datetime import timedelta
from typing import Any

import httpx
import numpy as np
from sqlalchemy import update

from inner_tone.demo import foghorn
from inner_tone.formats.audio import wav_bytes
from inner_tone.formats.bundle import opened
from inner_tone.store import jobs as job_store
from inner_tone.store.models import Job, Made, now
from tests.support.learning import LearningTest

RAW = {"Content-Type": "application/octet-stream"}


class MineTest(LearningTest):
    def sent(self, answer: httpx.Response, status: int = 200) -> Any:
        self.assertEqual(answer.status_code, status, answer.text)
        return answer.json() if answer.content else None

    def file(self, client: httpx.Client, path: str, body: Any = None) -> tuple[Any, bytes]:
        """Let a job make a file; return the job and the file."""
        self.client = client
        job = self.ended(self.sent(client.post(path, json=body), 202))
        self.assertEqual(job["state"], "done", job)
        return job, client.get(f"/api/jobs/{job['id']}/file").content

    def unpacked(self, data: bytes) -> dict[str, bytes]:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            return {name: packed.read(name) for name in packed.namelist()}

    def test_a_learner_takes_all_of_it_along_and_nothing_of_anybody_else(self) -> None:
        mine, theirs = self.begin(name="A bench of mine"), self.begin(self.bob, name="Not mine")
        change = {"version": 1, "settings": [], "patch": self.goal.to_json()}
        self.sent(self.ann.put(f"/api/attempts/{mine['id']}", json=change))
        self.sent(self.ann.post(self.path("questions"), json={"text": "Why mine?"}), 201)
        self.sent(self.bob.post(self.path("questions"), json={"text": "Why theirs?"}), 201)
        tone = wav_bytes(np.sin(np.arange(48_000) / 20.0), 48_000.0)
        self.sent(self.ann.post(self.path("played"), params={"name": "My horn"}, content=tone, headers=RAW), 201)
        self.near(self.goal)
        _, data = self.file(self.ann, "/api/account/mine")
        files = self.unpacked(data)
        (bench,) = [name for name in files if name.startswith("attempts/")]
        kept = json.loads(files[bench])
        self.assertEqual((kept["name"], len(kept["states"])), ("A bench of mine", 2))
        self.assertEqual([one["text"] for one in json.loads(files["questions.json"])], ["Why mine?"])
        self.assertEqual([one["state"] for one in json.loads(files["practice.json"])["steps"]], ["done"])
        self.assertTrue(any(name.startswith("recordings/My horn") for name in files))
        self.assertEqual(json.loads(files["account.json"])["sign_in"], self.people["ann"])
        for content in files.values():
            self.assertNotIn(b"Not mine", content)
            self.assertNotIn(theirs["id"].encode(), content)

    def test_an_educators_lessons_can_be_opened_again(self) -> None:
        _, data = self.file(self.owner, "/api/account/mine")
        files = self.unpacked(data)
        (name,) = [one for one in files if one.startswith("lessons/") and one.endswith(".zip")]
        self.assertEqual(
            [step.title for step in opened(files[name]).lesson.steps], [one.title for one in foghorn.LESSON.steps]
        )
        (edition,) = [one for one in files if one.endswith("-edition-1.json")]
        self.assertEqual(json.loads(files[edition])["number"], 1)

    def test_a_lesson_is_for_anyone_until_it_is_withdrawn(self) -> None:
        path = f"/api/lessons/{self.lesson}/public"
        self.assertIsNone(self.sent(self.owner.get(path)))
        self.assert_problem(self.owner.post(path, json={"number": 9}), 404)
        self.client = self.owner
        job = self.ended(self.sent(self.owner.post(path, json={"number": 1}), 202))
        link = self.sent(self.owner.get(path))["link"]
        self.assertEqual(job["result"]["link"], link)
        with self.application.client(None) as nobody:
            page = nobody.get(f"/open/{link}")
            self.assertEqual(page.status_code, 200)
            self.assertIn("sandbox", page.headers["content-security-policy"])
            for words in ("<title>Foghorn</title>", 'name="description" content="The horn', "An envelope that gives"):
                self.assertIn(words, page.text)
            self.assertIn(f"/open/{link}", str(page.url))
            self.sent(self.owner.post(path, json={"number": 1}), 202)
            self.assert_problem(self.eve.delete(path), 404)
            self.sent(self.owner.delete(path), 204)
            gone = nobody.get(f"/open/{link}")
            self.assertEqual((gone.status_code, gone.headers["content-type"][:9]), (404, "text/html"))
            self.assertIn("withdrawn", gone.text)
            self.assertEqual(nobody.get("/open/<script>").status_code, 404)

    def test_a_deleted_lesson_is_for_nobody(self) -> None:
        path = f"/api/lessons/{self.lesson}/public"
        self.client = self.owner
        link = self.ended(self.sent(self.owner.post(path, json={"number": 1}), 202))["result"]["link"]
        self.sent(self.owner.delete(f"/api/lessons/{self.lesson}"), 204)
        with self.application.client(None) as nobody:
            self.assertEqual(nobody.get(f"/open/{link}").status_code, 404)

    def test_learners_have_the_edition_that_they_practise_on_paper_and_nothing_later(self) -> None:
        step = self.sent(self.owner.get(f"/api/lessons/{self.lesson}"))["steps"][0]
        change = {"version": step["version"], "content": {"title": "A secret for later"}}
        self.sent(self.owner.put(f"/api/steps/{step['id']}", json=change))
        wish = {"form": "markdown"}
        _, learners = self.file(self.ann, f"/api/practice/{self.lesson}/handed", wish)
        _, owners = self.file(self.owner, f"/api/practice/{self.lesson}/handed", wish)
        self.assertNotIn(b"secret for later", self.unpacked(learners)["lesson.md"])
        self.assertIn(b"secret for later", self.unpacked(owners)["lesson.md"])

    def test_a_file_is_kept_for_an_hour_and_a_stopped_job_makes_none(self) -> None:
        job, data = self.file(self.ann, f"/api/practice/{self.lesson}/handed", {"form": "markdown"})
        self.assertGreater(len(data), 1_000)
        self.assert_problem(self.bob.get(f"/api/jobs/{job['id']}/file"), 404)
        with self.sessions.begin() as session:
            session.execute(
                update(Job).where(Job.id == uuid.UUID(job["id"])).values(ended_at=now() - timedelta(hours=2))
            )
            job_store.clear(session)
            self.assertIsNone(session.get(Made, uuid.UUID(job["id"])))
        self.assert_problem(self.ann.get(f"/api/jobs/{job['id']}/file"), 404)
        begun = self.sent(self.ann.post(f"/api/practice/{self.lesson}/handed", json={"form": "pdf"}), 202)
        self.sent(self.ann.delete(f"/api/jobs/{begun['id']}"), 204)
        self.client = self.ann
        self.assertEqual(self.ended(begun)["state"], "stopped")
        self.assert_problem(self.ann.get(f"/api/jobs/{begun['id']}/file"), 404)


if __name__ == "__main__":
    unittest.main()
