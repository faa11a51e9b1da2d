"""Every route by every role. What there is to try is taken from the OpenAPI document: a route without a rule fails."""

import io
import json
import unittest
import uuid
from collections.abc import Iterator
from functools import lru_cache
from gzip import compress
from hashlib import sha256
from typing import Any

import httpx
import numpy as np
from PIL import Image
from sqlalchemy import delete

from inner_tone.api.access import TOKEN_HEADER
from inner_tone.api.app import create_app
from inner_tone.api.recordings import keep_sound
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.step import first_step
from inner_tone.demo.foghorn import DISTANT
from inner_tone.formats.audio import flac_bytes
from inner_tone.formats.bundle import Bundle, bundle_bytes
from inner_tone.formats.midi import midi_bytes
from inner_tone.store import (
    accounts,
    attempts,
    classes,
    editions,
    jobs,
    lessons,
    rights,
    sections,
    series,
    sounds,
    written,
)
from inner_tone.store import public as openings
from inner_tone.store.database import Sessions, connect, sessions
from inner_tone.store.models import Account, Class, Made, OwnSound
from inner_tone.work import errands
from inner_tone.work.errands import Received
from tests.support.application import Application, client_with

NOBODY, LEARNER, STRANGER, READER, WRITER, OWNER = "nobody", "learner", "stranger", "reader", "writer", "owner"
OTHER = "other learner"
LEARNERS = (LEARNER, OTHER)
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
    "who may hear": {NOBODY: 401, STRANGER: 404},
    "owner of what is deleted": {NOBODY: 401, LEARNER: 404, STRANGER: 404, READER: 404, WRITER: 404},
    "class educator": {NOBODY: 401, LEARNER: 403, STRANGER: 404, READER: 404},
    "class owner": {NOBODY: 401, LEARNER: 403, STRANGER: 404, READER: 404, WRITER: 403},
    "class member": {NOBODY: 401, STRANGER: 404, READER: 404, WRITER: 404, OWNER: 404},
    "who has the sound": {NOBODY: 401, LEARNER: 404, STRANGER: 404, READER: 404, WRITER: 404},
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
    ("GET", "/api/account/kept"): "signed in",
    ("POST", "/api/account/mine"): "signed in",
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
    ("GET", "/api/lessons/{lesson_id}/public"): "reader",
    ("POST", "/api/lessons/{lesson_id}/public"): "writer",
    ("DELETE", "/api/lessons/{lesson_id}/public"): "writer",
    ("GET", "/open/{link}"): "everybody",
    ("POST", "/api/bundles"): "educator",
    ("POST", "/api/bundles/preview"): "educator",
    ("GET", "/api/jobs"): "signed in",
    ("GET", "/api/jobs/{job_id}"): "learner alone",
    ("GET", "/api/jobs/{job_id}/file"): "learner alone",
    ("GET", "/api/classes"): "educator",
    ("POST", "/api/classes"): "educator",
    ("GET", "/api/classes/{class_id}"): "class educator",
    ("PUT", "/api/classes/{class_id}"): "class educator",
    ("DELETE", "/api/classes/{class_id}"): "class owner",
    ("POST", "/api/classes/{class_id}/code"): "class educator",
    ("POST", "/api/classes/{class_id}/progress"): "class educator",
    ("PUT", "/api/classes/{class_id}/educators"): "class owner",
    ("DELETE", "/api/classes/{class_id}/educators/{account_id}"): "class owner",
    ("DELETE", "/api/classes/{class_id}/members/{account_id}"): "class educator",
    ("GET", "/api/classes/{class_id}/lessons/{lesson_id}"): "class educator",
    ("GET", "/api/joined"): "signed in",
    ("POST", "/api/joined"): "signed in",
    ("DELETE", "/api/joined/{class_id}"): "class member",
    ("DELETE", "/api/jobs/{job_id}"): "learner alone",
    ("GET", "/api/practice"): "signed in",
    ("GET", "/api/practice/{lesson_id}"): "signed in",
    ("PUT", "/api/practice/{lesson_id}"): "signed in",
    ("POST", "/api/practice/{lesson_id}/handed"): "signed in",
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
    ("GET", "/api/attempts/{attempt_id}/seen"): "reader",
    ("DELETE", "/api/attempts/questions/{question_id}"): "learner alone",
    ("GET", "/api/lessons/{lesson_id}/learners"): "reader",
    ("PUT", "/api/questions/{question_id}"): "reader",
    ("GET", "/api/series"): "educator",
    ("POST", "/api/series"): "educator",
    ("GET", "/api/series/{series_id}"): "signed in",
    ("PUT", "/api/series/{series_id}"): "owner alone",
    ("POST", "/api/series/{series_id}/bundle"): "owner alone",
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
    ("POST", "/api/documents/opened"): "signed in",
    ("POST", "/api/phrases/midi/file"): "signed in",
    ("POST", "/api/images"): "educator",
    ("GET", "/api/images/{key}"): "signed in",
    ("POST", "/api/recordings"): "signed in",
    ("GET", "/api/recordings/{key}"): "who may hear",
    ("GET", "/api/recordings/{key}/sound"): "who may hear",
    ("POST", "/api/recordings/{key}/look"): "who may hear",
    ("GET", "/api/company/shipped"): "signed in",
    ("POST", "/api/company/sound"): "signed in",
    ("GET", "/api/sounds"): "signed in",
    ("POST", "/api/sounds"): "signed in",
    ("POST", "/api/sounds/made"): "who may hear",
    ("GET", "/api/sounds/shipped/{name}"): "signed in",
    ("GET", "/api/sounds/{key}"): "signed in",
    ("GET", "/api/sounds/{key}/sound"): "signed in",
    ("PUT", "/api/sounds/{key}"): "who has the sound",
    ("DELETE", "/api/sounds/{key}"): "who has the sound",
}
# where even a wish that is right is refused, with what it is told: there is nothing that it could do
REFUSED = {
    ("POST", "/api/account/end"): (422, "another one"),  # all would be gone, so the password is a wrong one
    ("GET", "/api/images/{key}"): (404, "no such image"),  # one's own are looked at elsewhere
    ("POST", "/api/lessons/{lesson_id}/follow"): (404, "no lesson that this one starts from"),
    ("POST", "/api/steps/{step_id}/split"): (422, "instructions"),
    ("POST", "/api/lessons/{lesson_id}/undo"): (422, "Nothing has been done"),
}
SECRET = "Nachtfalter"  # stands in all that is not everybody's
PATCH: dict[str, Any] = DISTANT.to_json()
PHRASE: dict[str, Any] = first_step().phrase.model_dump(mode="json")
TAP = "reed.out"
TURN = {"kind": "set", "module": "bell", "setting": "cutoff", "value": 500}
SECTIONED = {**PATCH, "sections": [{"id": "s", "label": "S", "modules": ["reed"]}]}
SOUND = flac_bytes(np.sin(np.arange(48_000) / 20.0), 48_000.0)
MIDI = midi_bytes(first_step().phrase)
TONE = flac_bytes(np.sin(np.arange(48_000) / 30.0), 48_000.0)
CHANGES = ("POST", "PUT", "PATCH", "DELETE")


def routes() -> Iterator[tuple[str, str]]:
    """Yield every method and path that the application says it has."""
    for path, methods in create_app().openapi()["paths"].items():
        for method in methods:
            yield method.upper(), path


class World(unittest.TestCase):
    """People of every role, and what there is to be asked for."""

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
            accounts.create_account(session, "harbourmaster", "H", "educator", "a long password")
            cls.people = {
                role: accounts.create_account(
                    session, role, role.title(), "learner" if role in LEARNERS else "educator", "a long password"
                )
                for role in (*EVERYBODY, OTHER)
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
            owner, learner = self.people[OWNER], self.people[LEARNER]
            public = LessonDocument(title="Surf", steps=(first_step(), first_step()))
            secret = first_step().model_copy(update={"title": SECRET, "why": SECRET})
            lesson = lessons.create_lesson(session, owner.id, public)
            for role in (READER, WRITER):
                rights.share(session, lesson.id, self.people[role], may_write=role == WRITER)
            editions.publish(session, lesson.id, public, owner.id)
            step = written.steps_of(session, lesson.id)[1]
            hidden = lessons.create_lesson(session, owner.id, LessonDocument(title=SECRET, steps=(secret,)))
            group = series.create_series(session, owner, "Harbour", "")
            series.append(session, owner, group.id, lesson)
            series.append(session, owner, group.id, hidden)
            for table in (Class, OwnSound):
                session.execute(delete(table))  # nobody has as many as are made here in all
            taught = classes.begin(session, owner, SECRET)
            classes.teach(session, taught, self.people[WRITER])
            wanted = [classes.SetLesson(lesson.id, None)]
            classes.change(session, taught, 1, SECRET, is_open=True, wanted=wanted)
            classes.join(session, learner, taught.code)
            if path == "/api/lessons/{lesson_id}/restore":
                lessons.delete_lesson(session, lesson.id)
            if path == "/api/steps/{step_id}/restore":
                lessons.delete_step(session, step.id)
            attempt = attempts.begin(session, learner, lesson.id, step.id, SECRET, first_step().patch)
            digest = sha256(uuid.uuid4().bytes).hexdigest()
            kept = keep_sound(session, learner, SECRET, Received(digest, TONE, 1.0), 60.0)
            alone = keep_sound(session, learner, SECRET, Received(digest[::-1], TONE, 1.0), 60.0)
            about = {"name": "Rope", "source": "", "licence": ""}
            facts, flac = rope()
            had = sounds.keep(session, owner.id, sha256(digest.encode()).hexdigest(), flac, facts, about, 60.0)
            opened = openings.open_edition(session, lesson.id, 1, owner.id, compress(b"<!doctype html>")).link
            job = jobs.ask(session, learner.id, "none", SECRET, {})
            jobs.end(session, job.id, "done")
            session.add(Made(job_id=job.id, name=SECRET, media_type="text/csv", data=SECRET.encode()))
            elsewhere = classes.begin(session, accounts.account_called(session, "harbourmaster") or owner, "Rope")
            return {
                "class_id": taught.id,
                "link": opened,
                "code": elsewhere.code,
                "attempt_id": attempt.id,
                "question_id": attempts.ask(session, learner, lesson.id, step.id, attempt.id, "", SECRET).id,
                "played_id": attempts.give(session, learner, lesson.id, step.id, kept, SECRET).id,
                "job_id": job.id,
                "number": 1,
                "series_id": group.id,
                "lesson_id": lesson.id,
                "step_id": step.id,
                "section_id": sections.keep_section(session, owner.id, SECRET, {}).id,
                "account_id": self.people[READER].id,
                "ticket": uuid.uuid4(),
                "hidden": hidden.id,
                "hidden_step": written.steps_of(session, hidden.id)[0].id,
                "step_ids": [one.id for one in written.steps_of(session, lesson.id)],
                "version": lesson.version,
                "series_version": group.version,
                "recording": kept.key,
                "alone": alone.key,
                "sound": had.key,
            }

    def address(self, path: str, things: dict[str, Any]) -> str:
        """Return an address that a path has, with what the things are that it names."""
        name = "bell" if path.startswith("/api/sounds") else "worn"
        return path.format(**things, name=name, key=self.key_for(path, things))

    def key_for(self, path: str, things: dict[str, Any]) -> str:
        """Return the key of something that is there, of the kind that a path speaks of."""
        if path.startswith("/api/renders"):
            return str(self.render()["key"])
        kinds = {"/api/recordings": "recording", "/api/sounds": "sound"}
        return next((str(things[name]) for start, name in kinds.items() if path.startswith(start)), "0" * 64)

    def render(self) -> Any:
        """Return a render that somebody has made."""
        with self.new_client(READER) as client:
            return client.post("/api/renders", json={"patch": PATCH, "phrase": PHRASE}).json()

    def body(self, method: str, path: str, things: dict[str, Any]) -> dict[str, Any]:
        """Return a body that is right, for a route that takes one."""
        if path in ("/api/recordings", "/api/sounds") and method == "POST":
            return {"content": SOUND, "params": {"name": "A horn"}}
        if path.endswith("/played"):
            return {"content": SOUND, "params": {"name": "A horn"}}
        if path.startswith("/api/bundles"):
            return {"content": bundle_bytes(Bundle(LessonDocument(title="Surf", steps=(first_step(),))))}
        if path == "/api/images":
            return {"content": picture()}
        if path == "/api/documents/opened":
            return {"content": json.dumps(PATCH).encode()}
        if path == "/api/phrases/midi":
            return {"content": MIDI}
        if path.endswith("/difference"):
            return {"params": {"old": 1, "new": 0}}
        if path == "/api/attempts/standings":
            return {"params": {"lesson_id": str(things["lesson_id"])}}
        if path == "/api/search":
            return {"params": {"words": SECRET}}
        bodies = bodies_for(things)
        return {"json": bodies.get((method, path), {})} if method in ("POST", "PUT", "PATCH") else {}

    def ask(self, client: httpx.Client, method: str, path: str, **headers: str) -> httpx.Response:
        """Ask for something with a body that is right."""
        things = self.things(path)
        answer = client.request(method, self.address(path, things), headers=headers, **self.body(method, path, things))
        if method in CHANGES and answer.is_success:
            if "{" in path:  # what was named may be another now
                self.prepared.clear()
            if path.startswith("/api/account"):
                self.clients.clear()
        return answer


def bodies_for(things: dict[str, Any]) -> dict[tuple[str, str], Any]:
    """Return a right body for each route that takes JSON."""
    version = {"version": things["version"]}
    step = {"version": 1}
    near = {"patch": PATCH}
    told = {"title": "Other", "summary": ""}
    steps = "/api/practice/{lesson_id}/steps/{step_id}"
    recipe = {"view": {"kind": "wave", "taps": [TAP]}, "patch": PATCH, "phrase": PHRASE}
    plate = {"id": "plate-1", "recipe": recipe, "caption": "", "drafted": ""}
    return {
        ("POST", "/api/account/session"): {"sign_in": OWNER, "password": "a long password"},
        ("POST", "/api/account"): {"sign_in": "crew", "name": "C", "role": "learner", "password": "seven grey gulls"},
        ("POST", "/api/account/end"): {"password": "a wrong one"},
        ("PUT", "/api/account/password"): {"old": "a long password", "new": "a long password"},
        ("POST", "/api/lessons"): {"title": "New"},
        ("PUT", "/api/lessons/{lesson_id}"): {**version, **told, "target_first": False, "target_note": ""},
        ("POST", "/api/lessons/{lesson_id}/order/effects"): {**version, "steps": ids(things["step_ids"][::-1])},
        ("PUT", "/api/lessons/{lesson_id}/order"): {**version, "steps": ids(things["step_ids"][::-1])},
        ("POST", "/api/lessons/{lesson_id}/here"): {"window": str(uuid.uuid4())},
        ("PUT", "/api/lessons/{lesson_id}/shares"): {"sign_in": READER, "may_write": False},
        ("POST", "/api/lessons/{lesson_id}/editions"): {**version, "notes": "Second."},
        ("PUT", "/api/steps/{step_id}"): {**step, "content": {"title": "Other"}},
        ("POST", "/api/steps/{step_id}/beside"): {**step, "content": {"title": "Other"}},
        ("POST", "/api/steps/{step_id}/split"): {**step, "after": 1},
        ("POST", "/api/steps/{step_id}/join"): step,
        ("POST", "/api/series"): {"title": "New"},
        ("PUT", "/api/series/{series_id}"): {
            "version": things["series_version"],
            **told,
            "lessons": ids([things["lesson_id"]]),
        },
        ("POST", "/api/lessons/{lesson_id}/public"): {"number": 1},
        ("POST", "/api/classes"): {"title": "New"},
        ("PUT", "/api/classes/{class_id}"): {
            "version": 2,
            "title": "Other",
            "open": True,
            "lessons": [{"lesson": str(things["lesson_id"]), "due": "2027-01-12"}],
        },
        ("PUT", "/api/classes/{class_id}/educators"): {"sign_in": READER},
        ("POST", "/api/joined"): {"code": things["code"]},
        ("PUT", "/api/practice/{lesson_id}"): {"place": 1},
        ("POST", "/api/practice/{lesson_id}/handed"): {"form": "markdown"},
        ("POST", f"{steps}/near"): near,
        ("POST", f"{steps}/ticks"): near,
        ("POST", f"{steps}/advice"): near,
        ("POST", f"{steps}/questions"): {"text": "Why?"},
        ("PUT", "/api/attempts/{attempt_id}"): {**step, "name": "Other"},
        ("PUT", "/api/questions/{question_id}"): {"text": "So."},
        ("POST", "/api/patches/edits"): {
            **near,
            "edits": [{"kind": "set", "module": "bell", "setting": "cutoff", "value": 500}],
        },
        ("POST", "/api/patches/merge"): {"base": PATCH, "early": PATCH, "late": PATCH},
        ("POST", "/api/patches/fragment"): {**near, "modules": ["reed"]},
        ("POST", "/api/patches/offers"): {**near, "port": TAP},
        ("POST", "/api/patches/placements"): near,
        ("POST", "/api/patches/rows"): {"module": PATCH["modules"][0]},
        ("POST", "/api/patches/picture"): {"module": PATCH["modules"][0]},
        ("POST", "/api/phrases/midi/file"): {"phrase": PHRASE},
        ("POST", "/api/sections"): {"patch": SECTIONED, "section": "s"},
        ("POST", "/api/recordings/{key}/look"): recipe["view"],
        ("POST", "/api/company/sound"): {"phrase": PHRASE},
        ("POST", "/api/sounds/made"): {"recording": things["recording"], "name": "Rope"},
        ("PUT", "/api/sounds/{key}"): {"name": "Other"},
        ("POST", "/api/renders"): {**near, "phrase": PHRASE},
        ("POST", "/api/charts"): recipe,
        ("POST", "/api/charts/picture"): {"recipe": recipe},
        ("POST", "/api/charts/sound"): {**near, "phrase": PHRASE, "tap": TAP},
        ("POST", "/api/charts/values"): {**near, "module": "bell", "setting": "cutoff"},
        ("POST", "/api/charts/refreshed"): {"plate": plate, **near, "phrase": PHRASE},
        ("POST", "/api/fields"): {"content": first_step().model_dump(mode="json", by_alias=True)},
    }


@lru_cache(maxsize=1)
def rope() -> tuple[dict[str, Any], bytes]:
    """Return what is known of a sound that somebody has brought, and the sound."""
    found = errands.new_sound(np.random.default_rng(1).normal(0, 0.1, (1, 9_600)), 48_000.0)
    return found.facts.model_dump(mode="json"), found.flac


def picture() -> bytes:
    """Return a small picture as a file."""
    file = io.BytesIO()
    Image.new("RGB", (40, 20), (20, 60, 90)).save(file, "PNG")
    return file.getvalue()


def ids(found: list[uuid.UUID]) -> list[str]:
    """Return ids as they are written."""
    return [str(one) for one in found]


class RoleTest(World):
    def test_every_route_has_a_rule_and_every_rule_a_route(self) -> None:
        self.assertEqual(set(routes()), set(ROUTES))

    def test_every_route_by_every_role_with_a_body_that_is_right(self) -> None:
        for (method, path), rule in ROUTES.items():
            for role in EVERYBODY:
                with self.subTest(method=method, path=path, role=role):
                    answer = self.ask(self.client(role), method, path)
                    refused = RULES[rule].get(role)
                    if refused is not None:
                        self.assertEqual(answer.status_code, refused, answer.text)
                        self.assertNotIn(SECRET, answer.text)
                    elif (method, path) in REFUSED:
                        status, words = REFUSED[method, path]
                        self.assertEqual(answer.status_code, status, answer.text)
                        self.assertIn(words, answer.text)
                    else:
                        self.assertIn(answer.status_code, (200, 201, 202, 204), answer.text)

    def test_what_is_not_ones_own_is_in_no_answer(self) -> None:
        for method, path in ROUTES:
            for role in (NOBODY, STRANGER, OTHER):
                with self.subTest(method=method, path=path, role=role):
                    self.assertNotIn(SECRET, self.ask(self.client(role), method, path).text)

    def test_foreign_ids_in_bodies_let_nobody_in(self) -> None:
        things = self.things("")
        recipe = {"view": {"kind": "wave", "taps": [TAP]}, "patch": PATCH, "phrase": PHRASE}
        behind = {"legend": "Behind", "recording": things["alone"]}
        mine = self.client(STRANGER).post("/api/lessons", json={"title": "Mine", "template": "tone"}).json()
        group = self.client(STRANGER).post("/api/series", json={"title": "Mine"}).json()
        here = f"/api/lessons/{mine['id']}"
        practice = f"/api/practice/{things['lesson_id']}/steps/{things['step_id']}"
        hidden, step = str(things["hidden"]), str(things["hidden_step"])
        order = {"version": mine["version"], "steps": [step]}
        told = {"version": 1, "title": "Mine", "summary": "", "lessons": [hidden]}
        wishes: list[tuple[str, str, Any]] = [
            ("POST", "/api/lessons", {"title": "Taken", "starts_from": hidden}),
            ("POST", "/api/lessons", {"title": "Put in", "series": str(things["series_id"])}),
            ("POST", f"{here}/steps", {"like": step}),
            ("POST", f"{here}/steps", {"after": step}),
            ("PUT", f"{here}/order", order),
            ("POST", f"{here}/order/effects", order),
            ("PUT", f"/api/series/{group['id']}", told),
            ("POST", f"{practice}/questions", {"text": "Whose?", "attempt_id": str(things["attempt_id"])}),
            ("POST", "/api/renders", {"patch": PATCH, "phrase": PHRASE, "lenses": [recipe["view"]], "behind": behind}),
            ("POST", "/api/charts", {**recipe, "behind": behind}),
            ("POST", "/api/charts/picture", {"recipe": {**recipe, "behind": behind}}),
            ("GET", f"/api/recordings/{things['alone']}", None),
            ("GET", f"/api/recordings/{things['alone']}/sound", None),
            ("POST", f"/api/recordings/{things['alone']}/look", recipe["view"]),
            ("DELETE", f"/api/lessons/{hidden}/shares/{self.people[STRANGER].id}", None),
            ("GET", f"{practice.replace(str(things['lesson_id']), hidden)}/bench", None),
            ("GET", f"/api/practice/{things['lesson_id']}/steps/{step}/bench", None),
            ("PUT", f"/api/practice/{hidden}", {"place": 0}),
        ]
        for role in (STRANGER, OTHER):
            for method, address, body in wishes:
                with self.subTest(role=role, method=method, address=address):
                    answer = self.client(role).request(method, address, json=body)
                    self.assertIn(answer.status_code, (403, 404, 409, 422), answer.text)
                    self.assertNotIn(SECRET, answer.text)
        presence = {"window": str(uuid.uuid4()), "step": step}
        self.assertNotIn(SECRET, self.client(STRANGER).post(f"{here}/here", json=presence).text)
        self.assertEqual(self.client(OWNER).get(f"/api/lessons/{hidden}").json()["title"], SECRET)
        allowed = self.client(LEARNER).post("/api/charts", json={**recipe, "behind": behind})
        self.assertEqual(allowed.status_code, 200, allowed.text)

    def test_who_follows_an_old_edition_sees_nothing_of_what_came_later(self) -> None:
        things = self.made("")
        lesson = things["lesson_id"]
        self.assertEqual(self.client(OTHER).put(f"/api/practice/{lesson}", json={"place": 0}).status_code, 200)
        change = {"version": 1, "content": {"why": SECRET}}
        changed = self.client(OWNER).put(f"/api/steps/{things['step_id']}", json=change)
        self.assertEqual(changed.status_code, 200, changed.text)
        for client in (self.client(OTHER), self.client(STRANGER)):
            for address in ("/api/practice", f"/api/practice/{lesson}", f"/api/series/{things['series_id']}"):
                self.assertNotIn(SECRET, client.get(address).text)
            bench = client.get(f"/api/practice/{lesson}/steps/{things['step_id']}/bench")
            self.assertNotIn(SECRET, bench.text)

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
