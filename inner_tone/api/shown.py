"""How a lesson is shown: at its desk as it stands, in an edition as it was published."""

import threading
import uuid
from collections.abc import Hashable, Sequence

from cachetools import LRUCache
from sqlalchemy.orm import Session

from inner_tone.api.once import Once
from inner_tone.api.schemas import (
    EditionMark,
    Head,
    KeptStepOut,
    LessonOut,
    NextLesson,
    StartOut,
    StepOut,
    head_of,
    instruction_out,
    right_name,
    series_mark,
    step_out,
)
from inner_tone.core.lesson.edition import short_of
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.renaming import relabelled
from inner_tone.core.lesson.step import StepContent, told, told_once, types_in
from inner_tone.core.patch.difference import difference
from inner_tone.core.patch.instructions import Instruction
from inner_tone.core.patch.model import Patch
from inner_tone.store import editions, operations, written
from inner_tone.store import lessons as store
from inner_tone.store.models import Account, Edition, Following, Lesson, Step
from inner_tone.store.rights import Right, right_to
from inner_tone.store.series import lessons_in

MOST_ANSWERS = 300
MOST_REMEMBERED = 5_000  # differences, of a few kB each


class Differences:
    """Remembers how patches differ, by the states of the steps that they belong to. Safe to use from many threads."""

    def __init__(self) -> None:
        self._found: LRUCache[Hashable, Sequence[Instruction]] = LRUCache(MOST_REMEMBERED)
        self._guard = threading.Lock()

    def between(self, key: Hashable, before: Patch, after: Patch) -> Sequence[Instruction]:
        """Return the difference between two patches, which `key` tells from all others."""
        with self._guard:
            found = self._found.get(key)
        if found is None:
            found = tuple(difference(before, after))
            with self._guard:
                self._found[key] = found
        return found


known = Differences()


def shown(
    lesson: Lesson,
    document: LessonDocument,
    heads: Sequence[Head],
    right: Right,
    *,
    start: StartOut | None,
    edition: EditionMark | None = None,
    undo: str | None = None,
    next_lesson: NextLesson | None = None,
) -> LessonOut:
    """Return a lesson for the wire."""
    states = [(lesson.id, lesson.version), *((head.id, head.version) for head in heads)]
    number = edition.number if edition else None
    tellings = told(
        document.steps,
        document.start,
        lambda place, before, after: known.between((number, *states[place : place + 2]), before, after),
    )
    return LessonOut(
        id=lesson.id,
        version=lesson.version,
        title=document.title,
        summary=document.summary,
        target_first=document.target_first,
        target_note=document.target_note,
        updated_at=edition.published_at if edition else lesson.updated_at,
        owner=lesson.owner.name,
        right=right_name(right) if right is not Right.NONE else None,
        start=start,
        series=series_mark(lesson),
        next=next_lesson,
        edition=edition,
        undo=undo,
        steps=[step_out(*one) for one in zip(heads, document.steps, tellings, strict=True)],
    )


def at_the_desk(session: Session, me: Account, lesson: Lesson) -> LessonOut:
    """Return a lesson as it stands, with what to do in each step, to somebody who has a right to it."""
    session.flush()
    document, steps = store.document_of(session, lesson)
    heads = [head_of(step) for step in steps]
    right = right_to(session, me, lesson.id)
    done = operations.latest(session, lesson.id) if right >= Right.WRITE else None
    now, undo = start_now(session, me, lesson), done.words if done else None
    return shown(lesson, document, heads, right, start=now, undo=undo)


def kept(session: Session, old: StepContent, step: Step) -> KeptStepOut:
    """Return a step that has just been kept, and the one behind it, with what to do in both."""
    lesson, content = step.lesson, written.content_of(step)
    before, behind = store.beside(session, step)
    scene = store.scene_before(lesson, content, before)
    patch = scene[0]
    types = store.types_before(session, step) | types_in(patch)
    ends = before if before is not None else lesson
    key = (None, (ends.id, ends.version), (step.id, step.version))
    told = told_once(content, scene, known.between(key, patch, content.patch), types)
    found = step_out(head_of(step), content, told)
    types |= types_in(content.patch)
    return KeptStepOut(
        **dict(found),
        following=following(behind, step, content, types) if behind else None,
        later=types_in(old.patch) != types_in(content.patch) or bool(relabelled(old.patch, content.patch)),
    )


def following(behind: Step, step: Step, content: StepContent, types: set[str]) -> StepOut:
    """Return the step behind one that has just been kept, with what to do in it."""
    after = written.content_of(behind)
    key = (None, (step.id, step.version), (behind.id, behind.version))
    said = known.between(key, content.patch, after.patch)
    return step_out(head_of(behind), after, told_once(after, (content.patch, content.phrase), said, types))


def start_now(session: Session, me: Account, lesson: Lesson) -> StartOut | None:
    """Return what a lesson starts from, and how that has moved on, as far as one may read the lesson before."""
    start = store.start_of(lesson)
    if start is None:
        return None
    before = session.get(Lesson, uuid.UUID(start.lesson))
    if before is None or before.deleted_at is not None or right_to(session, me, before.id) is Right.NONE:
        return StartOut(lesson=None, title=None, patch=start.patch, moved_on=[])
    last = store.last_content(session, before.id)
    moved_on = difference(start.patch, last.patch) if last else []
    said = [instruction_out(one) for one in moved_on]
    return StartOut(lesson=before.id, title=before.title, patch=start.patch, moved_on=said)


_editions: Once[bytes] = Once(MOST_ANSWERS)


def in_edition(
    session: Session, me: Account, lesson: Lesson, edition: Edition, following: Following | None, *, short: bool
) -> LessonOut:
    """Return a lesson as it was published, whole or in its short form."""
    return LessonOut.model_validate_json(edition_json(session, me, lesson, edition, following, short=short))


def edition_json(
    session: Session, me: Account, lesson: Lesson, edition: Edition, following: Following | None, *, short: bool
) -> bytes:
    """Return a lesson as it was published, as the JSON that is sent: once for all who stand at the same place."""
    latest = editions.newest_numbers(session, [lesson.id])[lesson.id]
    right = right_to(session, me, lesson.id)
    coming = next_in(session, lesson)
    at = (following.place, following.reached) if following else None
    key = (lesson.id, lesson.version, edition.number, latest, short, right, at, coming and (coming.id, coming.title))
    series = lesson.series and (lesson.series.id, lesson.series.version, lesson.series.deleted_at)

    def work() -> bytes:
        document = editions.document_in(edition)
        chosen, ids = short_of(document, edition.step_ids) if short else (document, edition.step_ids)
        mark = EditionMark(
            number=edition.number,
            latest=latest,
            notes=edition.notes,
            published_at=edition.published_at,
            short=short,
            has_short=any(step.extra for step in document.steps),
            begun=following is not None,
            place=following.place if following else 0,
            reached=following.reached if following else 0,
        )
        heads = [Head(uuid.UUID(identity), edition.number, edition.published_at) for identity in ids]
        start = StartOut(lesson=None, title=None, patch=document.start, moved_on=[]) if document.start else None
        found = shown(lesson, chosen, heads, right, start=start, edition=mark, next_lesson=coming)
        return found.model_dump_json(by_alias=True).encode()

    return _editions.of((key, series, lesson.owner.name), work)


def next_in(session: Session, lesson: Lesson) -> NextLesson | None:
    """Return the published lesson that comes behind one in its series."""
    if lesson.series is None or lesson.series.deleted_at is not None:
        return None
    behind = [
        one
        for one in lessons_in(session, lesson.series.id, published=True)
        if (one.series_place or 0) > (lesson.series_place or 0)
    ]
    latest = editions.latest_of(session, behind[0].id) if behind else None
    return NextLesson(id=behind[0].id, title=editions.document_in(latest).title) if latest else None
