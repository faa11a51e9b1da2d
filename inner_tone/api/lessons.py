"""Lessons: the shelf, and a lesson with its steps."""

import uuid

from fastapi import APIRouter
from sqlalchemy.orm import Session

from inner_tone.api.context import Database
from inner_tone.api.schemas import (
    LessonChange,
    LessonOut,
    LessonRow,
    NewLesson,
    NewStep,
    StepOrder,
    StepOut,
    lesson_row,
    step_out,
)
from inner_tone.core.lesson.step import first_step, instructions
from inner_tone.store import lessons as store
from inner_tone.store.models import Lesson

router = APIRouter(prefix="/api/lessons", tags=["lessons"])


def whole(session: Session, lesson: Lesson) -> LessonOut:
    """Return a lesson with its steps, and for each what to do."""
    session.flush()
    steps = store.steps_of(session, lesson.id)
    todo = instructions([store.content_of(step) for step in steps])
    shown = [step_out(step, moves) for step, moves in zip(steps, todo, strict=True)]
    return LessonOut(
        id=lesson.id,
        version=lesson.version,
        title=lesson.title,
        summary=lesson.summary,
        updated_at=lesson.updated_at,
        steps=shown,
    )


@router.get("")
def list_lessons(session: Database) -> list[LessonRow]:
    """Return all lessons, the one changed last first."""
    return [lesson_row(lesson, count) for lesson, count in store.all_lessons(session)]


@router.post("", status_code=201)
def create_lesson(session: Database, wish: NewLesson) -> LessonOut:
    """Begin a lesson with one step."""
    return whole(session, store.create_lesson(session, wish.title, wish.summary, [first_step()]))


@router.get("/{lesson_id}")
def get_lesson(session: Database, lesson_id: uuid.UUID) -> LessonOut:
    """Return a lesson."""
    return whole(session, store.lesson(session, lesson_id))


@router.put("/{lesson_id}")
def describe_lesson(session: Database, lesson_id: uuid.UUID, wish: LessonChange) -> LessonOut:
    """Give a lesson another title and summary."""
    return whole(session, store.describe_lesson(session, lesson_id, wish.version, wish.title, wish.summary))


@router.delete("/{lesson_id}", status_code=204)
def delete_lesson(session: Database, lesson_id: uuid.UUID) -> None:
    """Put a lesson away; it can be restored."""
    store.delete_lesson(session, lesson_id)


@router.post("/{lesson_id}/restore")
def restore_lesson(session: Database, lesson_id: uuid.UUID) -> LessonOut:
    """Bring a deleted lesson back."""
    return whole(session, store.restore_lesson(session, lesson_id))


@router.post("/{lesson_id}/steps", status_code=201)
def add_step(session: Database, lesson_id: uuid.UUID, wish: NewStep) -> StepOut:
    """Add a step that begins with the patch of the one before it."""
    return step_out(store.add_step(session, lesson_id, wish.after))


@router.put("/{lesson_id}/order")
def order_steps(session: Database, lesson_id: uuid.UUID, wish: StepOrder) -> LessonOut:
    """Put the steps into another order."""
    return whole(session, store.order_steps(session, lesson_id, wish.version, wish.steps))
