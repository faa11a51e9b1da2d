"""People who teach a published lesson and who do it, over HTTP."""

import uuid
from typing import Any

import httpx

from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import SetValue
from inner_tone.demo import foghorn
from inner_tone.store import accounts, editions, lessons, written
from inner_tone.store.database import connect, sessions
from tests.support.api import ApiTest
from tests.support.application import client_with

STEP = 3  # of the foghorn: the envelope


class LearningTest(ApiTest):
    """An educator with a lesson published, two who learn it, and another educator."""

    taught = foghorn.LESSON
    place = STEP

    def setUp(self) -> None:
        self.engine = connect(self.application.database)
        self.addCleanup(self.engine.dispose)
        self.sessions = sessions(self.engine)
        document = LessonDocument.model_validate(self.taught.model_dump())
        with self.sessions.begin() as session:
            mark = uuid.uuid4().hex[:8]
            self.people = {
                name: accounts.create_account(session, f"{name}-{mark}", name.title(), role, "a long password").sign_in
                for name, role in (("owner", "educator"), ("ann", "learner"), ("bob", "learner"), ("eve", "educator"))
            }
            owner = accounts.account_called(session, self.people["owner"])
            assert owner is not None
            lesson = lessons.create_lesson(session, owner.id, document)
            self.lesson = str(lesson.id)
            self.steps = [str(step.id) for step in written.steps_of(session, lesson.id)]
            editions.publish(session, lesson.id, document, owner.id)
        self.content = document.steps[self.place]
        self.start = document.steps[self.place - 1].patch
        self.goal = self.content.patch
        self.ann, self.bob, self.owner, self.eve = (self.signed_in(name) for name in ("ann", "bob", "owner", "eve"))

    def signed_in(self, name: str) -> httpx.Client:
        with self.sessions.begin() as session:
            account = accounts.account_called(session, self.people[name])
            assert account is not None
            token = accounts.begin_sign_in(session, account, "a test")
        client = client_with(self.application.address, token)
        self.addCleanup(client.close)
        return client

    def path(self, rest: str, step: int | None = None) -> str:
        return f"/api/practice/{self.lesson}/steps/{self.steps[self.place if step is None else step]}/{rest}"

    def begin(self, client: httpx.Client | None = None, **wish: Any) -> dict[str, Any]:
        answer = (client or self.ann).post(self.path("attempts"), json=wish)
        self.assertEqual(answer.status_code, 201, answer.text)
        found: dict[str, Any] = answer.json()
        return found

    def near(self, patch: Patch, client: httpx.Client | None = None) -> dict[str, Any]:
        answer = (client or self.ann).post(self.path("near"), json={"patch": patch.to_json()})
        self.assertEqual(answer.status_code, 200, answer.text)
        found: dict[str, Any] = answer.json()
        return found

    def with_value(self, patch: Patch, setting: str, value: float) -> Patch:
        envelope = next(module.id for module in self.goal.modules if module.type == "envelope")
        return made(patch, [SetValue(module=envelope, setting=setting, value=value)]).patch
