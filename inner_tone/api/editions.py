"""Editions: what is to be looked at before a lesson is published, publishing, and what differs between editions."""

import uuid
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Path, Query
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from inner_tone.api.access import Me, ReadableLesson, ReadableLessonBriefly, WritableLessonBriefly
from inner_tone.api.context import Database
from inner_tone.api.jobs import JobOut, TheJobs, asked
from inner_tone.api.schemas import MOST_WHOLE, Incoming, InstructionOut, LessonOut, Whole, instruction_out
from inner_tone.api.shown import in_edition
from inner_tone.api.work import TheWork
from inner_tone.core.lesson.edition import ConcernKind
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.revision import PieceKind, Revision, StepKind, StepRevision, TextRevision, revision
from inner_tone.store import editions as store
from inner_tone.store import lessons
from inner_tone.store.errors import ConflictError
from inner_tone.store.models import Edition
from inner_tone.work import errands
from inner_tone.work.publishing import Publishing

router = APIRouter(prefix="/api/lessons/{lesson_id}", tags=["editions"])

Reason = Annotated[str, Field(max_length=500)]
Notes = Annotated[str, Field(max_length=2_000)]
Number = Annotated[int, Path(ge=0, le=MOST_WHOLE)]
Compared = Annotated[int, Query(ge=0, le=MOST_WHOLE)]
STANDING = 0  # the number by which the lesson as it stands is compared


class ConcernOut(BaseModel):
    """Something to be looked at before a lesson is published; `place` is the step's, from 0, if it is one.

    `overruled` is why it was right as it is in the latest edition, if somebody said so; perhaps without a reason.
    """

    key: str
    place: int | None
    kind: ConcernKind
    message: str
    remedy: str
    overruled: str | None


class PublishWish(Incoming):
    """A lesson that stands at `version` is to be published.

    `overruled` has the keys of the concerns that are right as they are, each with a reason if there is one.
    """

    version: Whole
    notes: Notes = ""
    overruled: Annotated[dict[str, Reason], Field(max_length=2_000, default_factory=dict)]


class EditionOut(BaseModel):
    """What was published of a lesson, when and by whom."""

    number: int
    notes: str
    reason: str
    published_at: datetime
    published_by: str
    step_count: int
    extra_count: int


class PieceOut(BaseModel):
    """A stretch of a text: in both editions, only in the old one, or only in the new one."""

    kind: PieceKind
    text: str


class TextRevisionOut(BaseModel):
    """A text that reads differently."""

    name: str
    pieces: list[PieceOut]


class StepRevisionOut(BaseModel):
    """What has become of a step; places count from 0."""

    kind: StepKind
    title: str
    before: int | None
    after: int | None
    texts: list[TextRevisionOut]
    instructions: list[InstructionOut]
    notes: list[str]


class RevisionOut(BaseModel):
    """What differs between two editions."""

    texts: list[TextRevisionOut]
    notes: list[str]
    steps: list[StepRevisionOut]


def edition_out(edition: Edition) -> EditionOut:
    """Return an edition for the wire."""
    document = store.document_in(edition)
    return EditionOut(
        number=edition.number,
        notes=edition.notes,
        reason=edition.reason,
        published_at=edition.published_at,
        published_by=edition.publisher.name if edition.publisher else "somebody who has left",
        step_count=len(document.steps),
        extra_count=sum(step.extra for step in document.steps),
    )


@router.post("/review")
async def review_lesson(work: TheWork, lesson_id: ReadableLessonBriefly) -> list[ConcernOut]:
    """Return what is to be looked at before a lesson is published: the checkup of all its steps, and what is open."""

    def standing(session: Session) -> tuple[LessonDocument, list[str], dict[str, str]]:
        document, steps = lessons.document_of(session, lessons.lesson(session, lesson_id))
        latest = store.latest_of(session, lesson_id)
        return document, [str(step.id) for step in steps], latest.overruled if latest else {}

    document, ids, known = await work.stored(standing)
    return [
        ConcernOut(
            key=(key := one.key(ids)),
            place=one.place,
            kind=one.kind,
            message=one.message,
            remedy=one.remedy,
            overruled=known.get(key),
        )
        for one in await work.do(errands.reviewed, document)
    ]


@router.get("/editions")
def list_editions(session: Database, lesson_id: ReadableLesson) -> list[EditionOut]:
    """Return a lesson's editions, the newest first."""
    return [edition_out(one) for one in store.editions_of(session, lesson_id)]


@router.post("/editions", status_code=202)
async def publish(jobs: TheJobs, me: Me, lesson_id: WritableLessonBriefly, wish: PublishWish) -> JobOut:
    """Publish a lesson as it stands; with concerns only if each of them is overruled.

    It is a job, since all steps are reviewed once more; what comes of it is the number of the edition.
    """

    def standing(session: Session) -> Publishing:
        lesson = lessons.lesson(session, lesson_id)
        if lesson.version != wish.version:
            raise ConflictError("lesson", lesson.version)
        return Publishing(lesson_id=lesson_id, version=wish.version, notes=wish.notes, overruled=wish.overruled)

    wanted = await jobs.node.stored(standing)
    words = "Publish a lesson"
    return await asked(jobs, me.id, "publish", words, wanted.model_dump(mode="json"))


@router.get("/editions/{number}")
def get_edition(
    session: Database,
    me: Me,
    lesson_id: ReadableLesson,
    number: Number,
    short: Annotated[bool, Query()] = False,
) -> LessonOut:
    """Return a lesson as it was published."""
    lesson = lessons.lesson(session, lesson_id)
    return in_edition(session, me, lesson, store.edition_of(session, lesson_id, number), None, short=short)


@router.get("/difference")
def compare(
    session: Database,
    lesson_id: ReadableLesson,
    old: Compared,
    new: Compared = 0,
) -> RevisionOut:
    """Return what differs between two editions; 0 is the lesson as it stands."""
    return revision_out(revision(*state(session, lesson_id, old), *state(session, lesson_id, new)))


def state(session: Database, lesson_id: uuid.UUID, number: int) -> tuple[LessonDocument, list[str]]:
    """Return an edition of a lesson, or the lesson as it stands, with the ids of its steps."""
    if number == STANDING:
        document, steps = lessons.document_of(session, lessons.lesson(session, lesson_id))
        return document, [str(step.id) for step in steps]
    edition = store.edition_of(session, lesson_id, number)
    return store.document_in(edition), edition.step_ids


def revision_out(found: Revision) -> RevisionOut:
    """Return what differs for the wire."""
    return RevisionOut(
        texts=[text_out(one) for one in found.texts],
        notes=list(found.notes),
        steps=[step_revision_out(one) for one in found.steps],
    )


def text_out(one: TextRevision) -> TextRevisionOut:
    """Return how a text reads differently for the wire."""
    return TextRevisionOut(name=one.name, pieces=[PieceOut(kind=piece.kind, text=piece.text) for piece in one.pieces])


def step_revision_out(one: StepRevision) -> StepRevisionOut:
    """Return what has become of a step for the wire."""
    return StepRevisionOut(
        kind=one.kind,
        title=one.title,
        before=one.before,
        after=one.after,
        texts=[text_out(text) for text in one.texts],
        instructions=[instruction_out(move) for move in one.instructions],
        notes=list(one.notes),
    )
