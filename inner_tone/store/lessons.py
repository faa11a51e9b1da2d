"""Reads and changes lessons and steps. Every function works within the caller's transaction."""

import uuid
from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from inner_tone.core.engine.render import render_key
from inner_tone.core.errors import InnerToneError
from inner_tone.core.lesson import step as rules
from inner_tone.core.lesson.step import StepContent
from inner_tone.store.models import Lesson, Step, StepHistory, now


class NotFoundError(InnerToneError):
    """There is no such lesson or step."""


class ConflictError(InnerToneError):
    """Somebody else has changed it meanwhile; `current` is the version that stands now."""

    def __init__(self, what: str, current: int) -> None:
        self.current = current
        super().__init__(f"This {what} has been changed elsewhere meanwhile. Nothing was overwritten.")


def all_lessons(session: Session) -> list[tuple[Lesson, int]]:
    """Return the lessons with their number of steps, the one changed last first."""
    count = (
        select(func.count())
        .where(Step.lesson_id == Lesson.id, Step.deleted_at.is_(None))
        .correlate(Lesson)
        .scalar_subquery()
    )
    query = select(Lesson, count).where(Lesson.deleted_at.is_(None)).order_by(Lesson.updated_at.desc(), Lesson.id)
    return [(lesson, steps) for lesson, steps in session.execute(query)]


def lesson(session: Session, lesson_id: uuid.UUID, *, lock: bool = False, deleted: bool = False) -> Lesson:
    """Return a lesson, locked against other changes if asked; raises NotFoundError."""
    found = session.get(Lesson, lesson_id, with_for_update=lock or None)
    if found is None or (found.deleted_at is not None) != deleted:
        raise NotFoundError("There is no such lesson. It may have been deleted.")
    return found


def steps_of(session: Session, lesson_id: uuid.UUID) -> list[Step]:
    """Return a lesson's steps in order."""
    query = select(Step).where(Step.lesson_id == lesson_id, Step.deleted_at.is_(None)).order_by(Step.position)
    return list(session.scalars(query))


def content_of(step: Step) -> StepContent:
    """Return what stands in a step."""
    return StepContent.model_validate(step.content)


def create_lesson(session: Session, title: str, summary: str, contents: Sequence[StepContent]) -> Lesson:
    """Add a lesson with its steps."""
    created = Lesson(title=title, summary=summary)
    session.add(created)
    session.flush()
    for place, content in enumerate(contents):
        insert_step(session, created, place, content, "created")
    return created


def describe_lesson(session: Session, lesson_id: uuid.UUID, version: int, title: str, summary: str) -> Lesson:
    """Give a lesson another title and summary; raises NotFoundError or ConflictError."""
    found = lesson_at(session, lesson_id, version)
    found.title, found.summary = title, summary
    touch(found)
    return found


def lesson_at(session: Session, lesson_id: uuid.UUID, version: int) -> Lesson:
    """Return a lesson, locked, if it still stands at a version."""
    found = lesson(session, lesson_id, lock=True)
    if found.version != version:
        raise ConflictError("lesson", found.version)
    return found


def delete_lesson(session: Session, lesson_id: uuid.UUID) -> None:
    """Put a lesson away; it can be restored."""
    lesson(session, lesson_id, lock=True).deleted_at = now()


def restore_lesson(session: Session, lesson_id: uuid.UUID) -> Lesson:
    """Bring a deleted lesson back."""
    found = lesson(session, lesson_id, lock=True, deleted=True)
    found.deleted_at = None
    return found


def touch(changed: Lesson) -> None:
    """Count a change of a lesson."""
    changed.version += 1
    changed.updated_at = now()


def step_for_change(session: Session, step_id: uuid.UUID, *, deleted: bool = False) -> tuple[Lesson, Step]:
    """Return a step and its lesson, both locked, the lesson first so that nobody waits in a circle."""
    found = session.get(Step, step_id)
    if found is None:
        raise NotFoundError("There is no such step.")
    owner = lesson(session, found.lesson_id, lock=True)
    session.refresh(found, with_for_update=True)
    if (found.deleted_at is not None) != deleted:
        raise NotFoundError(
            "The step is not deleted." if deleted else "There is no such step. It may have been deleted."
        )
    return owner, found


def insert_step(session: Session, owner: Lesson, place: int, content: StepContent, action: str) -> Step:
    """Add a step at a place among the steps of a lesson."""
    present = steps_of(session, owner.id)
    rules.room_for_another(len(present))
    created = Step(
        lesson_id=owner.id,
        position=place,
        content=content.model_dump(mode="json", by_alias=True),
        render_key=render_key(content.patch, content.phrase),
    )
    session.add(created)
    number([*present[:place], created, *present[place:]])
    session.flush()
    record(session, created, action)
    return created


def number(steps: Sequence[Step]) -> None:
    """Number steps in their order."""
    for place, step in enumerate(steps):
        step.position = place


def record(session: Session, step: Step, action: str) -> None:
    """Write a step's state into its history."""
    session.add(StepHistory(step_id=step.id, version=step.version, action=action, content=step.content))


def add_step(session: Session, lesson_id: uuid.UUID, after: uuid.UUID | None) -> Step:
    """Add a step behind another, or at the end, that begins with the patch of the one before it."""
    owner = lesson(session, lesson_id, lock=True)
    present = steps_of(session, lesson_id)
    places = {step.id: place for place, step in enumerate(present)}
    if after is not None and after not in places:
        raise NotFoundError("There is no such step to add one behind. It may have been deleted.")
    place = places[after] + 1 if after is not None else len(present)
    content = rules.following_step(content_of(present[place - 1])) if place else rules.first_step()
    touch(owner)
    return insert_step(session, owner, place, content, "created")


def duplicate_step(session: Session, step_id: uuid.UUID) -> Step:
    """Add a copy of a step behind it."""
    owner, original = step_for_change(session, step_id)
    touch(owner)
    return insert_step(session, owner, original.position + 1, rules.duplicate(content_of(original)), "created")


def change_step(session: Session, step_id: uuid.UUID, version: int, content: StepContent) -> Step:
    """Give a step another content; raises ConflictError if it no longer stands at `version`."""
    owner, step = step_for_change(session, step_id)
    if step.version != version:
        raise ConflictError("step", step.version)
    step.content = content.model_dump(mode="json", by_alias=True)
    step.render_key = render_key(content.patch, content.phrase)
    step.version += 1
    step.updated_at = owner.updated_at = now()
    record(session, step, "changed")
    return step


def delete_step(session: Session, step_id: uuid.UUID) -> Step:
    """Take a step out of its lesson; it can be restored."""
    owner, step = step_for_change(session, step_id)
    step.deleted_at = now()
    step.version += 1
    record(session, step, "deleted")
    touch(owner)
    session.flush()
    number(steps_of(session, owner.id))
    return step


def restore_step(session: Session, step_id: uuid.UUID) -> Step:
    """Bring a deleted step back to where it stood."""
    owner, step = step_for_change(session, step_id, deleted=True)
    present = steps_of(session, owner.id)
    rules.room_for_another(len(present))
    step.deleted_at = None
    step.version += 1
    place = min(step.position, len(present))
    number([*present[:place], step, *present[place:]])
    record(session, step, "restored")
    touch(owner)
    return step


def order_steps(session: Session, lesson_id: uuid.UUID, version: int, wanted: Sequence[uuid.UUID]) -> Lesson:
    """Put the steps of a lesson into another order; raises ConflictError or LessonError."""
    owner = lesson_at(session, lesson_id, version)
    by_id = {step.id: step for step in steps_of(session, lesson_id)}
    number([by_id[step_id] for step_id in rules.reordered(list(by_id), wanted)])
    touch(owner)
    return owner


def history_of(
    session: Session, step_id: uuid.UUID, before: int | None = None, limit: int | None = None
) -> list[StepHistory]:
    """Return the states that a step has had, the newest first, at most `limit`, and only older ones than `before`."""
    query = select(StepHistory).where(StepHistory.step_id == step_id).order_by(StepHistory.id.desc()).limit(limit)
    if before is not None:
        query = query.where(StepHistory.version < before)
    return list(session.scalars(query))
