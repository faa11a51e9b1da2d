"""Teaching with it: how long a handout of eight steps takes, a lesson in one file, and the page of a large class."""

import statistics
import time
import uuid
from typing import Any

import httpx

from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.demo.bell import LESSON as BELL
from inner_tone.demo.foghorn import LESSON as FOGHORN
from inner_tone.demo.seed import MAREN
from inner_tone.store import accounts, attempts, classes, editions, lessons, written
from inner_tone.store.database import connect, sessions
from inner_tone.store.models import Account
from tests.support.application import Application
from tests.support.figures import record

EIGHT = LessonDocument(title="Eight steps", steps=(*BELL.steps, *FOGHORN.steps)[:8])
FORMS = (("pdf", "a handout of eight steps (PDF), from asked to there", 10.0), ("html", "the same in one file", 15.0))
MOST_MEGABYTES = 10.0
LEARNERS = 200
PAGE_MS = 300.0
TIMES = 12


def main() -> None:
    """Print the table."""
    application = Application()
    try:
        lesson_id, class_id = prepare(application.database)
        with application.client() as client:
            for form, words, most in FORMS:
                for how in ("first", "again"):
                    hand_out(client, lesson_id, form, f"{words}, {how}", most)
            for path, words in ((f"lessons/{lesson_id}", "at work"), ("", "all of it")):
                page(client, f"/api/classes/{class_id}/{path}".rstrip("/"), words)
    finally:
        application.stop()


def say(figure: str, asked: str, measured: str) -> None:
    """Print a figure and note it."""
    print(f"{figure}: {measured} (asked: {asked})")
    record("teaching", figure, asked, measured)


def prepare(database: str) -> tuple[uuid.UUID, uuid.UUID]:
    """Make a lesson of eight steps and a class of 200 that stands all over it; return both."""
    engine = connect(database)
    with sessions(engine).begin() as session:
        maren = accounts.account_called(session, MAREN.sign_in)
        assert maren is not None
        lesson = lessons.create_lesson(session, maren.id, EIGHT)
        editions.publish(session, lesson.id, EIGHT, maren.id)
        steps = [step.id for step in written.steps_of(session, lesson.id)]
        found = classes.begin(session, maren, "Two hundred")
        wanted = [classes.SetLesson(lesson.id, None)]
        classes.change(session, found, found.version, found.title, is_open=True, wanted=wanted)
        for number in range(LEARNERS):
            who = Account(sign_in=f"crowd-{number}", name=f"Learner {number}", role="learner", password_hash="")
            session.add(who)
            session.flush()
            classes.join(session, who, found.code)
            place = number % len(steps)
            editions.follow(session, who, lesson.id, place, short=False)
            for step, one in zip(steps[: place + 1], EIGHT.steps, strict=False):
                attempts.begin(session, who, lesson.id, step, "My bench", one.patch)
                attempts.note_left(session, who, lesson.id, step, ["Set the attack to 350 ms.", "Connect it."])
        found_ids = lesson.id, found.id
    engine.dispose()
    return found_ids


def hand_out(client: httpx.Client, lesson_id: uuid.UUID, form: str, words: str, most: float) -> None:
    """Let a file be made, and note how long it takes, when something is first known of it, and how large it is."""
    begun = time.monotonic()
    job: dict[str, Any] = client.post(f"/api/practice/{lesson_id}/handed", json={"form": form, "number": 1}).json()
    first = None
    while job["state"] in ("waiting", "running"):
        job = client.get(f"/api/jobs/{job['id']}?seen={job['part']}").json()
        if first is None and job["part"] > 0.0:
            first = time.monotonic() - begun
    took = time.monotonic() - begun
    assert job["state"] == "done", job
    size = len(client.get(f"/api/jobs/{job['id']}/file").content) / 1e6
    say(words, f"{most:g} s", f"{took:.1f} s, first told of after {first or took:.1f} s")
    if form == "html":
        say("its size", f"below {MOST_MEGABYTES:g} MB", f"{size:.1f} MB")


def page(client: httpx.Client, path: str, words: str) -> None:
    """Note how long the page of a class takes."""
    taken = []
    for _ in range(TIMES):
        begun = time.monotonic()
        answer = client.get(path)
        taken.append(1_000 * (time.monotonic() - begun))
        assert answer.status_code == 200, answer.text
    told = f"{statistics.median(taken):.0f} ms median, {max(taken):.0f} at worst"
    say(f"the page of a class of {LEARNERS}, {words}", f"{PAGE_MS:g} ms", told)
