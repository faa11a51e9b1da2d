"""Classes over HTTP: who is in them, what those see who teach, and what becomes of the work of who leaves."""

import csv
import io
import unittest
import uuid
from typing import Any

import httpx
from sqlalchemy import delete, select

from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.model import Patch
from inner_tone.demo import foghorn
from inner_tone.store import accounts, editions, lessons
from inner_tone.store.models import Attempt, ClassMember, Following, Question, Standing, Try
from tests.support.learning import STEP, LearningTest


class ClassTest(LearningTest):
    def setUp(self) -> None:
        super().setUp()
        with self.sessions.begin() as session:
            session.execute(delete(Try))
        self.found = self.sent(self.owner.post("/api/classes", json={"title": "Tuesday"}), 201)
        self.class_id = self.found["id"]
        self.found = self.change(lessons=[{"lesson": self.lesson, "due": "2026-12-08"}])

    def sent(self, answer: httpx.Response, status: int = 200) -> Any:
        self.assertEqual(answer.status_code, status, answer.text)
        return answer.json() if answer.content else None

    def change(self, **part: Any) -> Any:
        now = self.sent(self.owner.get(f"/api/classes/{self.class_id}"))
        wish = {"version": now["version"], "title": now["title"], "open": now["open"], "lessons": []} | part
        return self.sent(self.owner.put(f"/api/classes/{self.class_id}", json=wish))

    def join(self, *people: httpx.Client) -> None:
        for one in people:
            self.sent(one.post("/api/joined", json={"code": self.found["code"]}), 201)

    def work(self, client: httpx.Client | None = None) -> Any:
        return self.sent((client or self.owner).get(f"/api/classes/{self.class_id}/lessons/{self.lesson}"))

    def person(self, name: str, client: httpx.Client | None = None) -> Any:
        return next(one for one in self.work(client)["people"] if one["name"] == name)

    def test_a_code_is_joined_however_it_is_typed_and_has_nothing_that_is_mistaken(self) -> None:
        code = self.found["code"]
        self.assertFalse(set(code) & set("0O1IBCDEGPTVZ5S8J2Q"))
        self.sent(self.ann.post("/api/joined", json={"code": f" {code[:3].lower()}-{code[3:]} "}), 201)
        self.sent(self.ann.post("/api/joined", json={"code": code}), 201)
        self.assertEqual(
            [one["name"] for one in self.sent(self.owner.get(f"/api/classes/{self.class_id}"))["members"]], ["Ann"]
        )
        self.assert_problem(self.owner.post("/api/joined", json={"code": code}), 422)
        old = code
        self.found = self.sent(self.owner.post(f"/api/classes/{self.class_id}/code"))
        self.assertNotEqual(self.found["code"], old)
        self.assert_problem(self.bob.post("/api/joined", json={"code": old}), 404)
        self.change(open=False)
        self.assert_problem(self.bob.post("/api/joined", json={"code": self.found["code"]}), 404)

    def test_codes_cannot_be_tried_one_after_the_other(self) -> None:
        answers = [self.bob.post("/api/joined", json={"code": "AAAAAAA"}).status_code for _ in range(21)]
        self.assertEqual(answers, [404] * 20 + [429])
        self.assertEqual(self.bob.post("/api/joined", json={"code": self.found["code"]}).status_code, 429)
        self.join(self.ann)

    def test_who_teaches_sees_where_people_stand_what_they_ask_and_what_stops_them(self) -> None:
        self.join(self.ann, self.bob)
        self.assertIsNone(self.person("Ann")["step_id"])
        for one in (self.ann, self.bob):
            self.sent(one.put(f"/api/practice/{self.lesson}", json={"place": STEP}))
        mine = self.begin()
        self.begin(self.bob)
        near = self.with_value(self.goal, "attack", 0.003)
        for one, patch in ((self.ann, near), (self.bob, self.start)):
            self.sent(one.post(self.path("ticks"), json={"patch": patch.to_json()}))
        asked = {"text": "Why does it click?", "attempt_id": mine["id"]}
        question = self.sent(self.ann.post(self.path("questions"), json=asked), 201)

        ann = self.person("Ann")
        self.assertEqual(ann["step_id"], self.steps[STEP])
        self.assertEqual([one["text"] for one in ann["questions"]], ["Why does it click?"])
        step = self.work()["steps"][STEP]
        self.assertEqual((step["here"], step["done"]), (2, 0))
        # what begins the step has nothing done: it is not stopped by anything yet
        self.assertEqual([(one["count"], "attack" in one["text"]) for one in step["stops"]], [(1, True)])

        self.sent(self.owner.put(f"/api/questions/{question['id']}", json={"text": "It is the gate."}))
        bench = self.sent(self.ann.get(self.path("bench")))
        self.assertEqual([one["answer"] for one in bench["questions"]], ["It is the gate."])
        self.sent(self.ann.post(self.path("ticks"), json={"patch": self.goal.to_json()}))
        self.assertEqual(self.work()["steps"][STEP]["stops"], [])
        self.near(self.goal)
        self.assertEqual(self.work()["steps"][STEP]["done"], 1)

    def test_two_teach_it_and_a_third_learns_nothing(self) -> None:
        self.join(self.ann)
        mine = self.begin()
        asked = self.sent(self.ann.post(self.path("questions"), json={"text": "Why?"}), 201)
        seen = f"/api/attempts/{mine['id']}/seen"
        for path in (f"/api/classes/{self.class_id}", f"/api/classes/{self.class_id}/lessons/{self.lesson}", seen):
            self.assert_problem(self.eve.get(path), 404)
        self.sent(self.owner.put(f"/api/classes/{self.class_id}/educators", json={"sign_in": self.people["eve"]}))
        self.assertEqual(Patch.model_validate(self.sent(self.eve.get(seen))["attempt"]["patch"]), self.start)
        self.assertEqual(self.person("Ann", self.eve)["questions"][0]["text"], "Why?")
        self.sent(self.eve.put(f"/api/questions/{asked['id']}", json={"text": "So."}))
        self.assert_problem(self.eve.put(f"/api/attempts/{mine['id']}", json={"version": 1, "name": "Mine"}), 404)
        for path in (
            f"/api/classes/{self.class_id}",
            f"/api/classes/{self.class_id}/educators/{self.account('owner')}",
        ):
            self.assert_problem(self.eve.delete(path), 403)
        self.sent(self.eve.delete(f"/api/classes/{self.class_id}/educators/{self.account('eve')}"), 204)
        self.assert_problem(self.eve.get(seen), 404)
        self.assert_problem(self.owner.delete(f"/api/classes/{self.class_id}/educators/{self.account('owner')}"), 422)

    def account(self, name: str) -> uuid.UUID:
        with self.sessions.begin() as session:
            found = accounts.account_called(session, self.people[name])
            assert found is not None
            return found.id

    def test_a_bench_is_for_the_projector_only_if_its_owner_agrees(self) -> None:
        self.join(self.ann)
        mine = self.begin()
        self.assertFalse(self.person("Ann")["attempts"][0]["may_show"])
        self.sent(self.ann.put(f"/api/attempts/{mine['id']}", json={"version": 1, "may_show": True}))
        self.assertTrue(self.person("Ann")["attempts"][0]["may_show"])
        self.assertTrue(self.sent(self.owner.get(f"/api/attempts/{mine['id']}/seen"))["attempt"]["may_show"])

    def test_who_leaves_takes_all_along_or_deletes_it(self) -> None:
        self.join(self.ann, self.bob)
        for one in (self.ann, self.bob):
            self.sent(one.put(f"/api/practice/{self.lesson}", json={"place": 2}))
            self.begin(one)
            self.sent(one.post(self.path("questions"), json={"text": "Why?"}), 201)
        mine = self.sent(self.ann.get(self.path("bench")))["attempts"][0]
        self.sent(self.eve_teaches_with(mine))
        self.sent(self.ann.delete(f"/api/joined/{self.class_id}"), 204)
        self.sent(self.bob.delete(f"/api/joined/{self.class_id}?delete_work=true"), 204)
        self.assertEqual(self.work()["people"], [])
        self.assert_problem(self.eve.get(f"/api/attempts/{mine['id']}/seen"), 404)
        self.assert_problem(self.ann.delete(f"/api/joined/{self.class_id}"), 404)
        with self.sessions.begin() as session:
            for name, there in (("ann", 1), ("bob", 0)):
                who = self.account(name)
                for table in (Attempt, Question, Standing, Following):
                    rows = session.scalars(select(table).where(table.account_id == who)).all()
                    self.assertEqual(len(rows), there, f"{name}: {table.__name__}")

    def eve_teaches_with(self, attempt: dict[str, Any]) -> httpx.Response:
        """Let another educator teach the class, and look at an attempt."""
        self.sent(self.owner.put(f"/api/classes/{self.class_id}/educators", json={"sign_in": self.people["eve"]}))
        return self.eve.get(f"/api/attempts/{attempt['id']}/seen")

    def test_only_what_is_published_is_set_once_and_by_who_saw_the_latest(self) -> None:
        with self.sessions.begin() as session:
            owner = self.account("owner")
            hidden = lessons.create_lesson(session, owner, LessonDocument(title="Hidden")).id
        now = self.sent(self.owner.get(f"/api/classes/{self.class_id}"))
        wish = {"version": now["version"], "title": "Other", "open": True}
        path = f"/api/classes/{self.class_id}"
        self.assert_problem(self.owner.put(path, json={**wish, "lessons": [{"lesson": str(hidden)}]}), 404)
        self.assert_problem(self.owner.put(path, json={**wish, "lessons": [{"lesson": self.lesson}] * 2}), 422)
        self.assert_problem(self.owner.put(path, json={**wish, "version": 1, "lessons": []}), 409)
        self.assertEqual(self.sent(self.owner.get(path)), now)
        self.sent(self.owner.delete(f"/api/lessons/{self.lesson}"), 204)
        self.assertEqual(self.sent(self.owner.get(path))["lessons"], [])

    def test_who_follows_an_old_edition_stands_at_the_right_step(self) -> None:
        self.join(self.ann)
        self.sent(self.ann.put(f"/api/practice/{self.lesson}", json={"place": STEP}))
        with self.sessions.begin() as session:
            lesson = lessons.lesson(session, uuid.UUID(self.lesson))
            lessons.delete_step(session, uuid.UUID(self.steps[0]))
            document, _ = lessons.document_of(session, lesson)
            editions.publish(session, lesson.id, document, self.account("owner"))
        self.assertEqual(self.person("Ann")["step_id"], self.steps[STEP])
        self.assertEqual([one["id"] for one in self.work()["steps"]], self.steps[1:])

    def test_the_progress_as_a_table_is_a_job_whose_file_is_ones_own(self) -> None:
        with self.sessions.begin() as session:
            who = accounts.account_called(session, self.people["ann"])
            assert who is not None
            who.name = "=HYPERLINK(1)"
        self.join(self.ann)
        self.begin()
        left = made(self.start, []).patch
        self.sent(self.ann.post(self.path("ticks"), json={"patch": left.to_json()}))
        self.client = self.owner
        job = self.ended(self.sent(self.owner.post(f"/api/classes/{self.class_id}/progress"), 202))
        self.assertEqual(job["state"], "done", job)
        file = f"/api/jobs/{job['id']}/file"
        answer = self.owner.get(file)
        self.assertIn("Tuesday.csv", answer.headers["content-disposition"])
        rows = list(csv.DictReader(io.StringIO(answer.content.decode("utf-8-sig"))))
        self.assertEqual([row["title"] for row in rows], [one.title for one in foghorn.LESSON.steps])
        self.assertEqual([row["state"] for row in rows], ["not opened"] * 3 + ["opened", "not opened"])
        self.assertEqual({row["name"] for row in rows}, {"'=HYPERLINK(1)"})
        for other in (self.ann, self.eve):
            self.assert_problem(other.get(file), 404)
        self.assert_problem(self.eve.post(f"/api/classes/{self.class_id}/progress"), 404)

    def test_an_end_of_a_class_or_an_account_leaves_nothing_hanging(self) -> None:
        self.join(self.ann, self.bob)
        self.sent(self.bob.post("/api/account/end", json={"password": "a long password"}), 204)
        self.assertEqual([one["name"] for one in self.work()["people"]], ["Ann"])
        self.sent(self.owner.delete(f"/api/classes/{self.class_id}"), 204)
        self.assertEqual(self.sent(self.ann.get("/api/joined")), [])
        with self.sessions.begin() as session:
            self.assertEqual(
                session.scalars(select(ClassMember).where(ClassMember.class_id == uuid.UUID(self.class_id))).all(), []
            )


if __name__ == "__main__":
    unittest.main()
