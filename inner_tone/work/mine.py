"""Everything of an account in one ZIP file, as a job: in formats that anybody can read, and that open here again."""

import asyncio
import re
import uuid
from collections.abc import Callable, Sequence
from typing import Any, TypeVar

from sqlalchemy import select
from sqlalchemy.orm import Session

from inner_tone.core.errors import InnerToneError
from inner_tone.formats.bundle import MEDIA as IMAGE_MEDIA
from inner_tone.formats.bundle import text_of
from inner_tone.formats.zipped import zipped
from inner_tone.store import classes, editions, lessons
from inner_tone.store import series as series_store
from inner_tone.store.models import (
    Account,
    Attempt,
    AttemptHistory,
    Edition,
    Following,
    KeptImage,
    KeptSection,
    Lesson,
    OwnSound,
    Played,
    Question,
    Recording,
    Standing,
)
from inner_tone.work import errands
from inner_tone.work.bundling import gathered
from inner_tone.work.jobs import Finish, Running
from inner_tone.work.made import file_made

MOST_BYTES = 400 * 1024 * 1024
README = """All that Inner Tone keeps of your account.

account.json       who you are
lessons/           your lessons as bundles, which can be opened again; and what was published of them
series.json        your series, in order
sections.json      sections that you have kept
classes.json       classes that you teach, and those that you have joined
attempts/          what you have made at benches of your own, each with all its states
practice.json      how far you are in which lesson, and with which step
questions.json     what you have asked, and the answers
images/            images that you have put into texts
sounds/            your sounds for samplers (FLAC), their names, sources and licences
recordings/        your recordings (FLAC), and of which steps they were given
"""
Found = TypeVar("Found")


async def write_mine(running: Running) -> Finish:
    """Return what keeps everything of an account; raises InnerToneError where that is more than fits into a file."""
    mine = running.account_id
    files: dict[str, bytes] = {"README.txt": README.encode()}

    async def stored(look: Callable[[Session], Found]) -> Found:
        return await running.node.stored(look)

    owned = await stored(lambda session: list(session.scalars(select(Lesson.id).where(Lesson.owner_id == mine))))
    for place, lesson_id in enumerate(owned):
        files |= await lesson_files(running, lesson_id)
        await running.tell(0.7 * (place + 1) / len(owned))
    for part in (account_files, practice_files, kept_files):
        files |= await stored(lambda session, part=part: part(session, mine))  # type: ignore[misc]
        if sum(map(len, files.values())) > MOST_BYTES:
            raise InnerToneError("This is more than fits into one file. Save your recordings one by one first.")
    await running.tell(0.9)
    data = await asyncio.to_thread(zipped, files)
    return file_made(running, "Inner Tone, all of mine.zip", "application/zip", data)


async def lesson_files(running: Running, lesson_id: uuid.UUID) -> dict[str, bytes]:
    """Return a lesson as a bundle, and its editions."""

    def found(session: Session) -> tuple[str, Any, str, list[tuple[int, bytes]]]:
        lesson = session.get_one(Lesson, lesson_id)
        name = f"{named(lesson.title)}-{str(lesson.id)[:8]}"
        published = [(one.number, text_of(edition_data(one))) for one in editions.editions_of(session, lesson.id)]
        try:
            return name, gathered(session, lesson), "", published
        except InnerToneError as error:
            document, _ = lessons.document_of(session, lesson)
            return name, document, str(error), published

    name, bundle, gone, published = await running.node.stored(found)
    files = {f"lessons/{name}-edition-{number}.json": data for number, data in published}
    if gone:  # without what is gone it cannot be a bundle
        return files | {f"lessons/{name}.json": bundle.model_dump_json(by_alias=True, indent=1).encode()}
    return files | {f"lessons/{name}.zip": await running.do(errands.bundled, bundle)}


def edition_data(one: Edition) -> dict[str, Any]:
    about = {"number": one.number, "notes": one.notes, "reason": one.reason, "published_at": one.published_at}
    return {**about, "lesson": one.lesson}


def account_files(session: Session, mine: uuid.UUID) -> dict[str, bytes]:
    """Return who somebody is, and what they have ordered."""
    account = session.get_one(Account, mine)
    about = {name: getattr(account, name) for name in ("sign_in", "name", "role", "created_at")}
    found = series_store.series_of(session, mine)
    ordered = [
        {
            "title": one.title,
            "summary": one.summary,
            "lessons": [lesson.title for lesson in series_store.lessons_in(session, one.id)],
        }
        for one in found
    ]
    sections = session.scalars(select(KeptSection).where(KeptSection.owner_id == mine))
    taught = [{"title": one.title, "code": one.code} for one in classes.taught_by(session, account)]
    joined = [{"title": one.title} for one in classes.joined_by(session, account)]
    return {
        "account.json": text_of(about),
        "series.json": text_of(ordered),
        "sections.json": text_of([{"label": one.label, "fragment": one.fragment} for one in sections]),
        "classes.json": text_of({"taught": taught, "joined": joined}),
    }


def practice_files(session: Session, mine: uuid.UUID) -> dict[str, bytes]:
    """Return what somebody has done in lessons."""
    titles = {one.id: one.title for one in session.scalars(select(Lesson))}
    files: dict[str, bytes] = {}
    for one in session.scalars(select(Attempt).where(Attempt.account_id == mine)):
        history = session.scalars(
            select(AttemptHistory).where(AttemptHistory.attempt_id == one.id).order_by(AttemptHistory.id)
        )
        states = [{"at": state.at, "action": state.action, "patch": state.patch} for state in history]
        about = {"lesson": titles.get(one.lesson_id, ""), "step": one.step_id, "name": one.name, "patch": one.patch}
        files[f"attempts/{named(one.name)}-{str(one.id)[:8]}.json"] = text_of({**about, "states": states})
    followings = session.scalars(select(Following).where(Following.account_id == mine)).all()
    standings = session.scalars(select(Standing).where(Standing.account_id == mine)).all()
    files["practice.json"] = text_of(
        {
            "lessons": [
                rows(one, titles, ("edition", "place", "reached", "begun_at", "seen_at")) for one in followings
            ],
            "steps": [rows(one, titles, ("step_id", "state", "shown", "at", "left_to_do")) for one in standings],
        }
    )
    asked = session.scalars(select(Question).where(Question.account_id == mine).order_by(Question.asked_at)).all()
    columns = ("step_id", "place", "text", "answer", "asked_at", "answered_at")
    files["questions.json"] = text_of([rows(one, titles, columns) for one in asked])
    return files


def rows(one: Any, titles: dict[uuid.UUID, str], columns: Sequence[str]) -> dict[str, Any]:
    """Return a row with the title of its lesson."""
    return {"lesson": titles.get(one.lesson_id, "")} | {name: getattr(one, name) for name in columns}


def kept_files(session: Session, mine: uuid.UUID) -> dict[str, bytes]:
    """Return the images, recordings and sounds of somebody."""
    suffixes = {kind: suffix for suffix, kind in IMAGE_MEDIA.items()}
    files: dict[str, bytes] = {}
    for image in session.scalars(select(KeptImage).where(KeptImage.owner_id == mine)):
        files[f"images/{image.key[:16]}.{suffixes.get(image.media_type, 'bin')}"] = image.data
    for one in session.scalars(select(Recording).where(Recording.owner_id == mine)):
        files[f"recordings/{named(one.name)}-{one.key[:8]}.flac"] = one.flac
    had = session.scalars(select(OwnSound).where(OwnSound.account_id == mine)).all()
    for sound in had:
        files[f"sounds/{named(sound.name)}-{sound.key[:8]}.flac"] = sound.sound.flac
    about = ("name", "source", "licence", "key", "added_at")
    files["sounds/sounds.json"] = text_of([{name: getattr(one, name) for name in about} for one in had])
    given = session.scalars(select(Played).where(Played.account_id == mine)).all()
    files["recordings/given.json"] = text_of(
        [{"name": one.name, "recording": one.recording_key[:8], "step": one.step_id, "at": one.at} for one in given]
    )
    return files


def named(title: str) -> str:
    """Return a title as it can stand in the name of a file anywhere."""
    return re.sub(r"[^\w -]+", "", title).strip()[:60] or "untitled"
