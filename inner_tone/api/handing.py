"""Handing a lesson out: what is asked for, and the job that makes it."""

import uuid
from typing import Annotated

from fastapi import APIRouter
from pydantic import Field

from inner_tone.api.access import Me
from inner_tone.api.jobs import JobOut, TheJobs, asked
from inner_tone.api.schemas import MOST_WHOLE, Incoming
from inner_tone.formats.handout import Paper
from inner_tone.work.handed import Form, SoundKind
from inner_tone.work.handing import HandingOut, gathered

router = APIRouter(prefix="/api/practice/{lesson_id}", tags=["handing"])

WORDS: dict[Form, str] = {
    "pdf": "A lesson on paper",
    "html": "A lesson in one file",
    "package": "A lesson as a package",
    "markdown": "A lesson as Markdown",
}


class HandWish(Incoming):
    """What a lesson is to be made into.

    For those who read its desk it is an edition by its `number`, or (without one) the lesson as it stands.
    """

    form: Form
    number: Annotated[int, Field(ge=1, le=MOST_WHOLE)] | None = None
    paper: Paper = "A4"
    solutions: bool = True
    sound: SoundKind = "opus"


@router.post("/handed", status_code=202)
async def hand_out(jobs: TheJobs, me: Me, lesson_id: uuid.UUID, wish: HandWish) -> JobOut:
    """Make a lesson into a file to be handed out, as a job: its file is kept for an hour."""
    wanted = HandingOut(lesson_id=lesson_id, **wish.model_dump())
    await jobs.node.stored(lambda session: gathered(session, me.id, wanted))
    return await asked(jobs, me.id, "hand-out", WORDS[wish.form], wanted.model_dump(mode="json"))
