"""Publishing as a job: all steps of a lesson are reviewed once more, and what was reviewed becomes an edition."""

import uuid
from typing import Any

from pydantic import BaseModel
from sqlalchemy.orm import Session

from inner_tone.core.lesson.edition import Concern, settle
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.store import editions, lessons, rights
from inner_tone.store.errors import ConflictError
from inner_tone.store.models import Account, Json
from inner_tone.store.rights import Right
from inner_tone.work import errands
from inner_tone.work.jobs import Finish, Running


class Publishing(BaseModel):
    """A lesson that stands at `version` is to be published; `overruled` has what is right as it is, and why."""

    lesson_id: uuid.UUID
    version: int
    notes: str
    overruled: dict[str, str]


async def publish(running: Running) -> Finish:
    """Review a lesson, and return what makes an edition of it.

    Raises DocumentError where something is to be looked at that nobody has overruled, ConflictError where the lesson
    has been changed meanwhile.
    """
    wish = Publishing.model_validate(running.wish)

    def standing(session: Session) -> tuple[LessonDocument, list[str]]:
        lesson = lessons.lesson(session, wish.lesson_id)
        if lesson.version != wish.version:
            raise ConflictError("lesson", lesson.version)
        document, steps = lessons.document_of(session, lesson)  # not locked: others write while the checkup goes on
        return document, [str(step.id) for step in steps]

    document, ids = await running.node.stored(standing)
    concerns = {one.key(ids): one for one in await running.do(errands.reviewed, document)}
    settle([one for key, one in concerns.items() if key not in wish.overruled or one.kind == "no-steps"])
    overruled = {key: wish.overruled[key].strip() for key in concerns}
    reason = "\n".join(overruled_text(one, overruled[key]) for key, one in concerns.items())

    def finish(session: Session) -> Json:
        publisher = session.get_one(Account, running.account_id)
        rights.require(session, publisher, wish.lesson_id, Right.WRITE)  # it may have been taken away meanwhile
        made = editions.publish(session, wish.lesson_id, document, publisher.id, wish.notes, reason, overruled)
        told: dict[str, Any] = {"lesson": str(wish.lesson_id), "number": made.number}
        return told

    return finish


def overruled_text(concern: Concern, reason: str) -> str:
    """Return in words what was overruled, and why."""
    place = "" if concern.place is None else f"Step {concern.place + 1}: "
    return f"{place}{concern.message} {reason}".strip()
