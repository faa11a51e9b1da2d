"""Lessons: the shelf, and a lesson with its steps."""

import uuid

from fastapi import APIRouter, Response
from pydantic import BaseModel

from inner_tone.api.access import Educator, Me, OwnLesson, ReadableLesson, ReadableLessonBriefly, WritableLesson
from inner_tone.api.context import Database
from inner_tone.api.schemas import (
    LessonChange,
    LessonOut,
    LessonRow,
    NewLesson,
    NewStep,
    StepOrder,
    StepOut,
    StepState,
    kept_step_out,
    lesson_row,
)
from inner_tone.api.shown import at_the_desk
from inner_tone.api.work import TheWork
from inner_tone.core.lesson.lesson import LessonDocument, Start
from inner_tone.core.lesson.step import LessonError, following_step
from inner_tone.core.lesson.templates import TEMPLATES, template
from inner_tone.store import editions, written
from inner_tone.store import lessons as store
from inner_tone.store.rights import Right, require, require_for_step
from inner_tone.store.series import append
from inner_tone.work import errands
from inner_tone.work.bundling import gathered

router = APIRouter(prefix="/api/lessons", tags=["lessons"])
templates = APIRouter(prefix="/api/templates", tags=["lessons"])


class TemplateOut(BaseModel):
    """An opening that a lesson can begin with."""

    id: str
    title: str
    summary: str


@templates.get("")
def list_templates(me: Educator) -> list[TemplateOut]:
    """Return the usual openings of a lesson."""
    return [TemplateOut(id=one.id, title=one.title, summary=one.summary) for one in TEMPLATES]


@router.get("")
def list_lessons(session: Database, me: Educator) -> list[LessonRow]:
    """Return one's own lessons and those shared with one, the one changed last first."""
    found = store.lessons_for(session, me)
    numbers = editions.newest_numbers(session, [lesson.id for lesson, _, _ in found])
    return [lesson_row(lesson, count, may_write, numbers.get(lesson.id)) for lesson, count, may_write in found]


@router.post("", status_code=201)
def create_lesson(session: Database, me: Educator, wish: NewLesson) -> LessonOut:
    """Begin a lesson from a template, or from where another ends."""
    start, steps = None, template(wish.template).steps
    if wish.starts_from is not None:
        require(session, me, wish.starts_from, Right.READ)
        last = store.last_content(session, wish.starts_from)
        if last is None:
            raise LessonError("The lesson that this one is to start from has no steps yet.")
        start, steps = Start(lesson=str(wish.starts_from), patch=last.patch), (following_step(last),)
    document = LessonDocument(title=wish.title, summary=wish.summary, steps=steps)
    created = store.create_lesson(session, me.id, document, start)
    if wish.series is not None:
        append(session, me, wish.series, created)
    return at_the_desk(session, me, created)


@router.get("/{lesson_id}")
def get_lesson(session: Database, me: Me, lesson_id: ReadableLesson) -> LessonOut:
    """Return a lesson."""
    return at_the_desk(session, me, store.lesson(session, lesson_id))


@router.get("/{lesson_id}/bundle", response_class=Response, responses={200: {"content": {"application/zip": {}}}})
async def get_bundle(work: TheWork, lesson_id: ReadableLessonBriefly) -> Response:
    """Return a lesson as a bundle, one file that holds all of it."""
    bundle = await work.stored(lambda session: gathered(session, store.lesson(session, lesson_id)))
    return Response(await work.do(errands.bundled, bundle), media_type="application/zip")


@router.put("/{lesson_id}")
def describe_lesson(session: Database, me: Me, lesson_id: WritableLesson, wish: LessonChange) -> LessonOut:
    """Let a lesson say something else of itself: title, summary, whether and how it opens with its target."""
    document = LessonDocument(**wish.model_dump(exclude={"version"}))
    return at_the_desk(session, me, store.describe_lesson(session, lesson_id, wish.version, document))


@router.post("/{lesson_id}/duplicate", status_code=201)
def duplicate_lesson(session: Database, me: Educator, lesson_id: ReadableLesson) -> LessonOut:
    """Make a copy of a lesson of one's own or shared with one; the copy is one's own."""
    original = store.lesson(session, lesson_id)
    document, _ = store.document_of(session, original)
    copy = document.model_copy(update={"title": f"{document.title} (copy)"[:200]})
    return at_the_desk(session, me, store.create_lesson(session, me.id, copy, store.start_of(original)))


@router.post("/{lesson_id}/follow")
def follow_start(session: Database, me: Me, lesson_id: WritableLesson) -> list[StepState]:
    """Let a lesson start from what the one before it ends with now; the states can be taken back together."""
    start = store.start_of(store.lesson(session, lesson_id))
    if start is not None:
        require(session, me, uuid.UUID(start.lesson), Right.READ)
    return [StepState(id=step.id, version=step.version) for step in store.follow_start(session, lesson_id)]


@router.delete("/{lesson_id}", status_code=204)
def delete_lesson(session: Database, lesson_id: OwnLesson) -> None:
    """Put a lesson away; it can be restored."""
    store.delete_lesson(session, lesson_id)


@router.post("/{lesson_id}/restore")
def restore_lesson(session: Database, me: Me, lesson_id: OwnLesson) -> LessonOut:
    """Bring a deleted lesson back."""
    return at_the_desk(session, me, store.restore_lesson(session, lesson_id))


@router.post("/{lesson_id}/steps", status_code=201)
def add_step(session: Database, me: Me, lesson_id: WritableLesson, wish: NewStep) -> StepOut:
    """Add a step that begins with the patch of the one before it, or a copy of one of another lesson."""
    if wish.like is None:
        return kept_step_out(store.add_step(session, lesson_id, wish.after, finishing=wish.finishing))
    require_for_step(session, me, wish.like, Right.READ)
    taken = written.content_of(store.step_with(session, wish.like))
    return kept_step_out(store.take_step(session, lesson_id, wish.after, taken))


@router.post("/{lesson_id}/undo")
def undo_operation(session: Database, me: Me, lesson_id: WritableLesson) -> LessonOut:
    """Undo what has been done last to the lesson as a whole: an order, a step cut, joined or deleted."""
    return at_the_desk(session, me, store.undo(session, lesson_id))


@router.post("/{lesson_id}/order/effects")
def tell_effects(session: Database, lesson_id: WritableLesson, wish: StepOrder) -> list[str]:
    """Return what another order would change in what the steps do and in how the lesson ends; nothing is done."""
    return store.effects_of_order(session, lesson_id, wish.steps)


@router.put("/{lesson_id}/order")
def order_steps(session: Database, me: Me, lesson_id: WritableLesson, wish: StepOrder) -> LessonOut:
    """Put the steps into another order."""
    return at_the_desk(session, me, store.order_steps(session, lesson_id, wish.version, wish.steps))
