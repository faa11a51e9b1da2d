"""Who is at a lesson, and whether it has changed: what each window at a desk asks every few seconds."""

import uuid

from fastapi import APIRouter
from pydantic import BaseModel

from inner_tone.api.access import Me, WritableLesson
from inner_tone.api.context import Database
from inner_tone.api.schemas import Incoming, StepState
from inner_tone.store import lessons, presence, written

router = APIRouter(prefix="/api/lessons", tags=["lessons"])


class HereWish(Incoming):
    """A window, and the step that is shown in it; with `leaving` it shows the lesson no longer."""

    window: uuid.UUID
    step: uuid.UUID | None = None
    leaving: bool = False


class OtherOut(BaseModel):
    """Somebody else who is here, or oneself in another window (`me`), and at which step."""

    name: str
    me: bool
    step: uuid.UUID | None


class HereOut(BaseModel):
    """Who else is at a lesson, and the versions of it and its steps."""

    others: list[OtherOut]
    version: int
    steps: list[StepState]


@router.post("/{lesson_id}/here")
def be_here(session: Database, me: Me, lesson_id: WritableLesson, wish: HereWish) -> HereOut:
    """Note that one is here; return who else is, and how the lesson stands."""
    lesson = lessons.lesson(session, lesson_id)
    if wish.leaving:
        presence.note_gone(session, me, lesson_id, wish.window)
    else:
        presence.note_here(session, me, lesson_id, wish.window, wish.step)
    others = presence.others_here(session, lesson_id, wish.window)
    return HereOut(
        others=[OtherOut(name=one.account.name, me=one.account_id == me.id, step=one.step_id) for one in others],
        version=lesson.version,
        steps=[StepState(id=one, version=version) for one, version in written.versions_of(session, lesson_id)],
    )
