"""Jobs: told of, stopped, handed to others when a node dies or ends, and written down once or not at all."""

import signal
import time
import unittest
from typing import Any

from inner_tone.api.access import COOKIE
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.demo.foghorn import STEPS
from inner_tone.demo.seed import JONAS
from tests.support.api import ApiTest
from tests.support.application import Application, client_with
from tests.support.patience import wait_for

# nothing is to be looked at in it, but to find that takes seconds
LONG = LessonDocument(
    title="Long",
    steps=tuple(
        STEPS[4].model_copy(update={"phrase": STEPS[4].phrase.model_copy(update={"beats": 200.0 + n}), "plates": ()})
        for n in range(5)
    ),
)


class JobCase(ApiTest):
    def lesson(self, document: LessonDocument = LONG) -> Any:
        return self.get(f"/api/lessons/{self.application.make(document)}")

    def publish(self, lesson: Any, **wish: Any) -> Any:
        """Ask for a lesson to be published."""
        body = {"version": lesson["version"], **wish}
        answer = self.client.post(f"/api/lessons/{lesson['id']}/editions", json=body)
        self.assertEqual(answer.status_code, 202, answer.text)
        return answer.json()

    def editions(self, lesson: Any) -> int:
        return len(self.get(f"/api/lessons/{lesson['id']}/editions"))

    def running(self, job: Any) -> None:
        """Wait until a job is under way."""
        wait_for(lambda: self.get(f"/api/jobs/{job['id']}")["state"] == "running", 60, "a job that runs")


class JobTest(JobCase):
    def test_tells_how_far_it_is_until_it_is_done(self) -> None:
        job, seen = self.publish(self.lesson()), []
        while job["state"] in ("waiting", "running"):
            seen.append(job["part"])
            job = self.get(f"/api/jobs/{job['id']}?seen={job['part']}")
        self.assertEqual((job["state"], job["part"], job["result"]["number"]), ("done", 1.0, 1))
        self.assertEqual(seen, sorted(seen))
        self.assertGreater(len(set(seen)), 3, seen)
        self.assertIn(job["id"], [one["id"] for one in self.get("/api/jobs")])

    def test_stopped_before_it_is_done_it_leaves_nothing(self) -> None:
        lesson = self.lesson()
        job = self.publish(lesson)
        self.running(job)
        with self.application.client(JONAS) as other:
            self.assert_problem(other.delete(f"/api/jobs/{job['id']}"), 404)
            self.assert_problem(other.get(f"/api/jobs/{job['id']}"), 404)
        self.assertEqual(self.client.delete(f"/api/jobs/{job['id']}").status_code, 204)
        self.assertEqual(self.ended(job)["state"], "stopped")
        after = self.publish(self.lesson(LONG.model_copy(update={"steps": LONG.steps[:1]})))
        self.assertEqual(self.ended(after)["state"], "done", "its place is free")
        self.assertEqual(self.editions(lesson), 0)
        self.client.delete(f"/api/jobs/{after['id']}")
        self.assertEqual(self.get(f"/api/jobs/{after['id']}")["state"], "done", "what is done is done")

    def test_lesson_that_is_changed_meanwhile_is_not_published(self) -> None:
        lesson = self.lesson()
        job = self.publish(lesson)
        self.running(job)
        said = {"title": "Other", "summary": "", "target_first": False, "target_note": ""}
        body = {"version": lesson["version"], **said}
        self.assertEqual(self.client.put(f"/api/lessons/{lesson['id']}", json=body).status_code, 200)
        ended = self.ended(job)
        self.assertEqual(ended["state"], "failed")
        self.assertIn("changed elsewhere", ended["problem"]["detail"])
        self.assertEqual(self.editions(lesson), 0)

    def test_nobody_asks_for_too_many(self) -> None:
        lesson = self.lesson()
        asked = [self.publish(lesson)]
        body = {"version": lesson["version"]}
        answers = [self.client.post(f"/api/lessons/{lesson['id']}/editions", json=body) for _ in range(6)]
        self.assertIn(429, {one.status_code for one in answers})
        asked += [one.json() for one in answers if one.status_code == 202]
        for job in asked:
            self.client.delete(f"/api/jobs/{job['id']}")


class HandoverTest(JobCase):
    alone = True

    def test_another_node_does_what_a_dying_or_ending_one_has_begun(self) -> None:
        token = self.client.cookies[COOKIE]
        for how in (signal.SIGKILL, signal.SIGTERM):
            lesson = self.lesson()
            job = self.publish(lesson)
            self.running(job)
            second = Application(database=self.application.database)
            self.addCleanup(second.stop)
            begun = time.monotonic()
            self.own.end(how)
            self.assertLess(time.monotonic() - begun, 10, "an end within ten seconds")
            with client_with(second.address, token) as client:
                wait_for(
                    lambda: client.get(f"/api/jobs/{job['id']}").json()["state"] == "done",  # noqa: B023
                    90,
                    "the job, done by another node",
                )
                self.assertEqual(len(client.get(f"/api/lessons/{lesson['id']}/editions").json()), 1)
            second.stop()
            self.own.start()


if __name__ == "__main__":
    unittest.main()
