"""Steps as they are followed: what is to be done in one, worked out once."""

import uuid

from sqlalchemy.orm import Session

from inner_tone.api.once import Once
from inner_tone.core.lesson.edition import short_of
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.nearby import Task
from inner_tone.core.lesson.step import begins_with, told
from inner_tone.store import editions, lessons
from inner_tone.store.errors import NotFoundError
from inner_tone.store.models import Account
from inner_tone.store.rights import Right, right_to

MOST_TASKS = 500


_tasks: Once[Task] = Once(MOST_TASKS)


def task_of(session: Session, account: Account, lesson_id: uuid.UUID, step_id: uuid.UUID) -> Task:
    """Return what is to be done in a step: as it was published, or as it stands to those who may read its desk.

    Raises NotFoundError.
    """
    identity = str(step_id)
    if right_to(session, account, lesson_id) is not Right.NONE:
        document, steps = lessons.document_of(session, lessons.lesson(session, lesson_id))
        return task_at(document, place_in([str(step.id) for step in steps], identity))
    _, edition, following = editions.to_practise(session, account, lesson_id)
    short = following is not None and following.short

    def work() -> Task:
        whole, ids = editions.document_in(edition), list(edition.step_ids)
        chosen, kept = short_of(whole, ids) if short else (whole, ids)
        return task_at(chosen, kept.index(identity)) if identity in kept else task_at(whole, place_in(ids, identity))

    place_in(edition.step_ids, identity)
    return _tasks.of((lesson_id, edition.number, short, identity), work)


def place_in(ids: list[str], identity: str) -> int:
    """Return the place of a step among those of a lesson; raises NotFoundError."""
    if identity not in ids:
        raise NotFoundError("There is no such step in this lesson.")
    return ids.index(identity)


def task_at(document: LessonDocument, place: int) -> Task:
    """Return what is to be done in a step of a lesson."""
    step = document.steps[place]
    start = document.steps[place - 1].patch if place else begins_with(document.start, step.patch)
    said = told(document.steps[: place + 1], document.start)[place].instructions
    return Task(start, step.patch, step.phrase, said, step.aim)
