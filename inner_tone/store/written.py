"""Steps as they are written: with what they are found by, and with their history."""

import uuid
from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from inner_tone.core.engine.render import render_key
from inner_tone.core.lesson.step import StepContent
from inner_tone.core.lesson.words import step_words
from inner_tone.core.modules.version import engine_version
from inner_tone.store.errors import NotFoundError
from inner_tone.store.models import Lesson, Step, StepHistory, now


def steps_of(session: Session, lesson_id: uuid.UUID) -> list[Step]:
    """Return a lesson's steps in order."""
    query = select(Step).where(Step.lesson_id == lesson_id, Step.deleted_at.is_(None)).order_by(Step.position)
    return list(session.scalars(query))


def versions_of(session: Session, lesson_id: uuid.UUID) -> list[tuple[uuid.UUID, int]]:
    """Return a lesson's steps in order, each with its version."""
    query = select(Step.id, Step.version).where(Step.lesson_id == lesson_id, Step.deleted_at.is_(None))
    return [(one, version) for one, version in session.execute(query.order_by(Step.position))]


def content_of(step: Step) -> StepContent:
    """Return what stands in a step."""
    return StepContent.model_validate(step.content)


def write(step: Step, content: StepContent) -> None:
    """Put a content into a step, with what it is found by."""
    step.content = content.model_dump(mode="json", by_alias=True)
    step.render_key, step.engine = render_key(content.patch, content.phrase), engine_version()
    step.words = step_words(content)


def number(steps: Sequence[Step]) -> None:
    """Number steps in their order."""
    for place, step in enumerate(steps):
        step.position = place


def record(session: Session, step: Step, action: str, request: uuid.UUID | None = None) -> None:
    """Write a step's state into its history."""
    session.add(
        StepHistory(step_id=step.id, version=step.version, action=action, content=step.content, request=request)
    )


def count(session: Session, step: Step, action: str, request: uuid.UUID | None = None) -> None:
    """Count a change of a step, and write its state into its history, with the wish that has led to it."""
    step.version += 1
    step.updated_at = now()
    record(session, step, action, request)


def touch(changed: Lesson) -> None:
    """Count a change of a lesson."""
    changed.version += 1
    changed.updated_at = now()


def content_at(session: Session, step_id: uuid.UUID, version: int) -> StepContent:
    """Return what stood in a step at a version; raises NotFoundError."""
    query = select(StepHistory).where(StepHistory.step_id == step_id, StepHistory.version == version)
    found = session.scalars(query.limit(1)).one_or_none()
    if found is None:
        raise NotFoundError("The step has never stood at this version.")
    return StepContent.model_validate(found.content)


def history_of(
    session: Session, step_id: uuid.UUID, before: int | None = None, limit: int | None = None
) -> list[StepHistory]:
    """Return the states that a step has had, the newest first, at most `limit`, and only older ones than `before`."""
    query = select(StepHistory).where(StepHistory.step_id == step_id).order_by(StepHistory.id.desc()).limit(limit)
    if before is not None:
        query = query.where(StepHistory.version < before)
    return list(session.scalars(query))
