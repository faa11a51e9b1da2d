"""Handing a lesson out, as a job: on paper, in one file, as a package or as Markdown."""

import uuid
from dataclasses import dataclass

from pydantic import BaseModel
from sqlalchemy.orm import Session

from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.formats.bundle import images_in, recordings_in
from inner_tone.formats.handout import Paper
from inner_tone.formats.html import Front
from inner_tone.store import attempts, editions, images, lessons, rights
from inner_tone.store.models import Account
from inner_tone.store.rights import Right
from inner_tone.work import handed
from inner_tone.work.handed import MEDIA, SUFFIXES, Form, SoundKind, Wanted
from inner_tone.work.jobs import Finish, Running
from inner_tone.work.made import file_made


class HandingOut(BaseModel):
    """A lesson is to be handed out: to those who read its desk as it stands there, or an edition of it by its number.

    To all others it is the edition that they practise.
    """

    lesson_id: uuid.UUID
    number: int | None
    form: Form
    paper: Paper = "A4"
    solutions: bool = True
    sound: SoundKind = "opus"


@dataclass(frozen=True)
class Gathered:
    """A lesson with all that stands in it."""

    document: LessonDocument
    front: Front
    images: dict[str, bytes]
    recordings: dict[str, bytes]


async def hand_out(running: Running) -> Finish:
    """Return what keeps a lesson as a file; raises NotFoundError where it, or something in it, is not to be had."""
    wish = HandingOut.model_validate(running.wish)
    found = await running.node.stored(lambda session: gathered(session, running.account_id, wish))
    wanted = Wanted(wish.form, wish.paper, wish.solutions, wish.sound)
    data: bytes = await running.do(handed.handed, wanted, found.document, found.front, found.images, found.recordings)
    name = f"{found.document.title}.{SUFFIXES[wish.form]}"
    return file_made(running, name, MEDIA[wish.form], data)


def gathered(session: Session, account_id: uuid.UUID, wish: HandingOut) -> Gathered:
    """Return a lesson with all that stands in it, if somebody may read it; raises NotFoundError."""
    account = session.get_one(Account, account_id)
    reads = rights.right_to(session, account, wish.lesson_id) is not Right.NONE
    if reads and wish.number is None:
        lesson = lessons.lesson(session, wish.lesson_id)
        document, _ = lessons.document_of(session, lesson)
        which = "as it stands at the desk"
    else:
        lesson, edition, _ = editions.to_practise(session, account, wish.lesson_id)
        if reads and wish.number is not None:
            edition = editions.edition_of(session, wish.lesson_id, wish.number)
        document = editions.document_in(edition)
        which = f"edition {edition.number}, {edition.published_at:%d %B %Y}".replace(" 0", " ")
    return Gathered(
        document,
        Front(document.title, document.summary, document.target_note, f"By {lesson.owner.name}; {which}"),
        {key: images.image(session, key).data for key in images_in(document)},
        {key: attempts.heard_by(session, account, key).flac for key in recordings_in(document)},
    )
