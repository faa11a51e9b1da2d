"""Every route by every role. What there is to try is taken from the OpenAPI document: a route without a rule fails."""

import unittest
import uuid
from collections.abc import Iterator
from hashlib import sha256
from typing import Any

import httpx
import numpy as np

from inner_tone.api.access import TOKEN_HEADER
from inner_tone.api.app import create_app
from inner_tone.api.recordings import keep_sound
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.step import first_step
from inner_tone.formats.audio import flac_bytes
from inner_tone.store import accounts, attempts, editions, lessons, rights, sections, series, written
from inner_tone.store.database import Sessions, connect, sessions
from inner_tone.store.models import Account
from inner_tone.work.errands import Received
from tests.support.application import Application, client_with

NOBODY, LEARNER, STRANGER, READER, WRITER, OWNER = "nobody", "learner", "stranger", "reader", "writer", "owner"
EVERYBODY = (NOBODY, LEARNER, STRANGER, READER, WRITER, OWNER)

# for each rule, what each role is answered when it may not; whoever is not named may
RULES: dict[str, dict[str, int]] = {
    "everybody": {},
    "signed in": {NOBODY: 401},
    "educator": {NOBODY: 401, LEARNER: 403},
    "reader": {NOBODY: 401, LEARNER: 404, STRANGER: 404},
    "reading educator": {NOBODY: 401, LEARNER: 403, STRANGER: 404},
    "writer": {NOBODY: 401, LEARNER: 404, STRANGER: 404, READER: 403},
    "owner": {NOBODY: 401, LEARNER: 404, STRANGER: 404, READER: 403, WRITER: 403},
    "learner alone": {NOBODY: 401, STRANGER: 404, READER: 404, WRITER: 404, OWNER: 404},
    "owner of what is deleted": {NOBODY: 401, LEARNER: 404, STRANGER: 404, READER: 404, WRITER: 404},
    "owner alone": {NOBODY: 401, LEARNER: 403, STRANGER: 404, READER: 404, WRITER: 404},
}

ROUTES: dict[tuple[str, str], str] = {
    ("GET", "/api/account/session"): "everybody",
    ("POST", "/api/account/session"): "everybody",
    ("POST", "/api/account"): "everybody",
    ("DELETE", "/api/account/session"): "signed in",
    ("GET", "/api/account/sessions"): "signed in",
    ("DELETE", "/api/account/sessions"): "signed in",
    ("PUT", "/api/account/password"): "signed in",
    ("POST", "/api/account/end"): "signed in",
    ("GET", "/api/lessons"): "educator",
    ("POST", "/api/lessons"): "educator",
    ("GET", "/api/lessons/{lesson_id}"): "reader",
    ("GET", "/api/lessons/{lesson_id}/bundle"): "reader",
    ("PUT", "/api/lessons/{lesson_id}"): "writer",
    ("DELETE", "/api/lessons/{lesson_id}"): "owner",
    ("POST", "/api/lessons/{lesson_id}/restore"): "owner of what is deleted",
    ("POST", "/api/lessons/{lesson_id}/steps"): "writer",
    ("POST", "/api/lessons/{lesson_id}/undo"): "writer",
    ("POST", "/api/lessons/{lesson_id}/here"): "writer",
    ("POST", "/api/lessons/{lesson_id}/order/effects"): "writer",
    ("PUT", "/api/lessons/{lesson_id}/order"): "writer",
    ("GET", "/api/lessons/{lesson_id}/shares"): "reader",
    ("PUT", "/api/lessons/{lesson_id}/shares"): "owner",
    ("DELETE", "/api/lessons/{lesson_id}/shares/{account_id}"): "owner",
    ("PUT", "/api/steps/{step_id}"): "writer",
    ("DELETE", "/api/steps/{step_id}"): "writer",
    ("POST", "/api/steps/{step_id}/beside"): "writer",
    ("POST", "/api/steps/{step_id}/duplicate"): "writer",
    ("POST", "/api/steps/{step_id}/restore"): "writer",
    ("POST", "/api/steps/{step_id}/split"): "writer",
    ("POST", "/api/steps/{step_id}/join"): "writer",
    ("POST", "/api/steps/{step_id}/carry"): "writer",
    ("GET", "/api/steps/{step_id}/history"): "reader",
    ("GET", "/api/steps/{step_id}/outside/{name}"): "reader",
    ("GET", "/api/templates"): "educator",
    ("GET", "/api/search"): "educator",
    ("POST", "/api/lessons/{lesson_id}/duplicate"): "reading educator",
    ("POST", "/api/lessons/{lesson_id}/follow"): "writer",
    ("POST", "/api/lessons/{lesson_id}/review"): "reader",
    ("GET", "/api/lessons/{lesson_id}/editions"): "reader",
    ("POST", "/api/lessons/{lesson_id}/editions"): "writer",
    ("GET", "/api/lessons/{lesson_id}/editions/{number}"): "reader",
    ("GET", "/api/lessons/{lesson_id}/difference"): "reader",
    ("GET", "/api/practice"): "signed in",
    ("GET", "/api/practice/{lesson_id}"): "signed in",
    ("PUT", "/api/practice/{lesson_id}"): "signed in",
    ("GET", "/api/practice/{lesson_id}/steps/{step_id}/bench"): "signed in",
    ("POST", "/api/practice/{lesson_id}/steps/{step_id}/attempts"): "signed in",
    ("POST", "/api/practice/{lesson_id}/steps/{step_id}/near"): "signed in",
    ("POST", "/api/practice/{lesson_id}/steps/{step_id}/ticks"): "signed in",
    ("POST", "/api/practice/{lesson_id}/steps/{step_id}/advice"): "signed in",
    ("POST", "/api/practice/{lesson_id}/steps/{step_id}/played"): "signed in",
    ("POST", "/api/practice/{lesson_id}/steps/{step_id}/questions"): "signed in",
    ("GET", "/api/practice/{lesson_id}/steps/{step_id}/played/{played_id}"): "learner alone",
    ("POST", "/api/practice/{lesson_id}/steps/{step_id}/played/{played_id}/advice"): "learner alone",
    ("DELETE", "/api/practice/{lesson_id}/steps/{step_id}/played/{played_id}"): "learner alone",
    ("GET", "/api/attempts/standings"): "signed in",
    ("PUT", "/api/attempts/{attempt_id}"): "learner alone",
    ("DELETE", "/api/attempts/{attempt_id}"): "learner alone",
    ("GET", "/api/attempts/{attempt_id}/history"): "learner alone",
    ("DELETE", "/api/attempts/questions/{question_id}"): "learner alone",
    ("GET", "/api/lessons/{lesson_id}/learners"): "reader",
    ("PUT", "/api/questions/{question_id}"): "reader",
    ("GET", "/api/series"): "educator",
    ("POST", "/api/series"): "educator",
    ("GET", "/api/series/{series_id}"): "signed in",
    ("PUT", "/api/series/{series_id}"): "owner alone",
    ("DELETE", "/api/series/{series_id}"): "owner alone",
    ("GET", "/api/sections"): "educator",
    ("POST", "/api/sections"): "educator",
    ("DELETE", "/api/sections/{section_id}"): "owner alone",
    ("GET", "/api/modules"): "signed in",
    ("POST", "/api/patches/edits"): "signed in",
    ("POST", "/api/patches/offers"): "signed in",
    ("POST", "/api/patches/placements"): "signed in",
    ("POST", "/api/patches/picture"): "signed in",
    ("POST", "/api/patches/fragment"): "signed in",
    ("POST", "/api/patches/merge"): "signed in",
    ("POST", "/api/patches/rows"): "signed in",
    ("POST", "/api/renders"): "signed in",
    ("GET", "/api/renders/progress/{ticket}"): "signed in",
    ("DELETE", "/api/renders/progress/{ticket}"): "signed in",
    ("GET", "/api/renders/{key}/loudness"): "signed in",
    ("GET", "/api/renders/{key}/sound"): "signed in",
    ("POST", "/api/charts"): "signed in",
    ("POST", "/api/charts/picture"): "signed in",
    ("POST", "/api/charts/sound"): "signed in",
    ("POST", "/api/charts/values"): "signed in",
    ("POST", "/api/charts/refreshed"): "signed in",
    ("POST", "/api/fields"): "signed in",
    ("POST", "/api/phrases/midi"): "signed in",
    ("POST", "/api/phrases/midi/file"): "signed in",
    ("POST", "/api/images"): "educator",
    ("GET", "/api/images/{key}"): "signed in",
    ("POST", "/api/recordings"): "signed in",
    ("GET", "/api/recordings/{key}"): "signed in",
    ("GET", "/api/recordings/{key}/sound"): "signed in",
    ("POST", "/api/recordings/{key}/look"): "signed in",
}
# where there is nothing to be found for anybody, being let in shows as “not found” of another kind
FORGOTTEN = {
    "/api/renders/{key}/loudness": "no longer remembered",
    "/api/renders/{key}/sound": "no longer remembered",
    "/api/images/{key}": "no such image",
    "/api/recordings/{key}": "no such recording",
    "/api/recordings/{key}/sound": "no such recording",
    "/api/lessons/{lesson_id}/follow": "no lesson that this one starts from",
}
CHANGES = ("POST", "PUT", "PATCH", "DELETE")


def routes() -> Iterator[tuple[str, str]]:
    """Yield every method and path that the application says it has."""
    for path, methods in create_app().openapi()["paths"].items():
        for method in methods:
            yield method.upper(), path


class RoleTest(unittest.TestCase):
    application: Application
    sessions: Sessions
    people: dict[str, Account]
    prepared: dict[str, Any]
    clients: dict[str, httpx.Client]

    @classmethod
    def setUpClass(cls) -> None:
        cls.application = Application()
        cls.prepared, cls.clients = {}, {}
        cls.addClassCleanup(cls.application.stop)
        engine = connect(cls.application.database)
        cls.addClassCleanup(engine.dispose)
        cls.sessions = sessions(engine)
        with cls.sessions.begin() as session:
            cls.people = {
                role: accounts.create_account(
                    session, role, role.title(), "learner" if role == LEARNER else "educator", "a long password"
                )
                for role in EVERYBODY
                if role != NOBODY
            }

    def client(self, role: str) -> httpx.Client:
        """Return a role's way to the application."""
        if role not in self.clients:
            self.clients[role] = self.new_client(role)
            self.addClassCleanup(self.clients[role].close)
        return self.clients[role]

    def new_client(self, role: str) -> httpx.Client:
        """Return a new sign-in of a role."""
        if role == NOBODY:
            return self.application.client(None)
        with self.sessions.begin() as session:
            token = accounts.begin_sign_in(session, self.people[role], "a test")
        return client_with(self.application.address, token)

    def things(self, path: str) -> dict[str, Any]:
        """Return what a path can name: made once, and anew where something has been changed."""
        if path.endswith("/restore"):
            return self.made(path)
        if not self.prepared:
            self.prepared.update(self.made(path))
        return self.prepared

    def made(self, path: str) -> dict[str, Any]:
        """Make what a path can name, and put away what it brings back."""
        with self.sessions.begin() as session:
            owner = self.people[OWNER].id
            document = LessonDocument(title="Surf", steps=(first_step(), first_step()))
            lesson = lessons.create_lesson(session, owner, document)
            for role in (READER, WRITER):
                rights.share(session, lesson.id, self.people[role], may_write=role == WRITER)
            step = written.steps_of(session, lesson.id)[1]
            editions.publish(session, lesson.id, document, owner)
            group = series.create_series(session, self.people[OWNER], "Harbour", "")
            series.append(session, self.people[OWNER], group.id, lesson)
            if path == "/api/lessons/{lesson_id}/restore":
                lessons.delete_lesson(session, lesson.id)
            if path == "/api/steps/{step_id}/restore":
                lessons.delete_step(session, step.id)
            learner = self.people[LEARNER]
            attempt = attempts.begin(session, learner, lesson.id, step.id, "Mine", first_step().patch)
            tone = np.sin(np.arange(48_000) / 30.0)
            digest = sha256(path.encode()).hexdigest()
            recording = keep_sound(session, learner, "a horn", Received(digest, flac_bytes(tone, 48_000.0), 1.0))
            return {
                "attempt_id": attempt.id,
                "question_id": attempts.ask(session, learner, lesson.id, step.id, attempt.id, "", "Why?").id,
                "played_id": attempts.give(session, learner, lesson.id, step.id, recording, "a horn").id,
                "name": "worn",
                "number": 1,
                "series_id": group.id,
                "lesson_id": lesson.id,
                "step_id": step.id,
                "section_id": sections.keep_section(session, owner, "Wobble", {}).id,
                "account_id": self.people[READER].id,
                "ticket": uuid.uuid4(),
                "key": "0" * 64,
            }

    def ask(self, client: httpx.Client, method: str, path: str, **headers: str) -> httpx.Response:
        body: dict[str, Any] = {"json": {}} if method in ("POST", "PUT", "PATCH") else {}
        answer = client.request(method, path.format(**self.things(path)), headers=headers, **body)
        if method in CHANGES and answer.is_success:
            self.prepared.clear()
            self.clients.clear()
        return answer

    def test_every_route_has_a_rule_and_every_rule_a_route(self) -> None:
        self.assertEqual(set(routes()), set(ROUTES))

    def test_every_route_by_every_role(self) -> None:
        for (method, path), rule in ROUTES.items():
            for role in EVERYBODY:
                with self.subTest(method=method, path=path, role=role):
                    answer = self.ask(self.client(role), method, path)
                    refused = RULES[rule].get(role)
                    if refused is not None:
                        self.assertEqual(answer.status_code, refused, answer.text)
                    elif path in FORGOTTEN:
                        self.assertIn(FORGOTTEN[path], answer.text)
                    else:
                        # an empty wish is let in and then found wrong
                        self.assertIn(answer.status_code, (200, 201, 204, 422), answer.text)

    def test_no_change_without_the_token_of_our_pages(self) -> None:
        for (method, path), rule in ROUTES.items():
            if method in CHANGES and rule != "everybody":
                for token in ("", "0" * 64):
                    with self.subTest(method=method, path=path):
                        answer = self.ask(self.client(OWNER), method, path, **{TOKEN_HEADER: token})
                        self.assertEqual(answer.status_code, 403, answer.text)

    def test_no_change_from_another_site(self) -> None:
        for method, path in ROUTES:
            if method in CHANGES:
                for headers in ({"Origin": "https://elsewhere.example"}, {"Sec-Fetch-Site": "cross-site"}):
                    with self.subTest(method=method, path=path):
                        answer = self.ask(self.client(OWNER), method, path, **headers)
                        self.assertEqual(answer.status_code, 403, answer.text)
                        self.assertIn("another site", answer.text)

    def test_own_origin_is_let_in(self) -> None:
        headers = {"Origin": self.application.address, "Sec-Fetch-Site": "same-origin"}
        answer = self.client(OWNER).post("/api/lessons", json={"title": "Gulls"}, headers=headers)
        self.assertEqual(answer.status_code, 201, answer.text)


if __name__ == "__main__":
    unittest.main()
