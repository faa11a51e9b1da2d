"""Practice: the published lessons, and following one in the edition in which it was begun."""

import uuid
from typing import Annotated

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field

from inner_tone.api.access import Me
from inner_tone.api.context import Database
from inner_tone.api.schemas import Incoming, LessonOut, SeriesMark, series_mark
from inner_tone.api.shown import at_the_desk, edition_json
from inner_tone.store import editions as store
from inner_tone.store import lessons
from inner_tone.store.editions import Published
from inner_tone.store.rights import Right, right_to

router = APIRouter(prefix="/api/practice", tags=["practice"])


class PublishedOut(BaseModel):
    """A lesson as learners find it.

    `begun` is the edition in which one has begun it; `place` where one is in it, from 0, and `reached` how far one has
    been, of `length` steps; `done` is how many of the steps one has done at a bench of one's own.
    """

    id: uuid.UUID
    title: str
    summary: str
    owner: str
    series: SeriesMark | None
    edition: int
    step_count: int
    has_short: bool
    begun: int | None
    place: int
    reached: int
    length: int
    done: int


class ProgressOut(BaseModel):
    """Where somebody is in a lesson, and how far they have been; places from 0."""

    place: int
    reached: int


class ProgressWish(Incoming):
    """Where somebody is: the step's place from 0, in the whole lesson or its short form.

    With `newest` they move on to the newest edition.
    """

    place: Annotated[int, Field(ge=0, le=1_000)]
    short: bool = False
    newest: bool = False


def published_out(found: Published) -> PublishedOut:
    """Return a published lesson for the wire."""
    document = store.document_in(found.edition)
    following = found.following
    extra = sum(step.extra for step in document.steps)
    count = len(document.steps)
    return PublishedOut(
        id=found.lesson.id,
        title=document.title,
        summary=document.summary,
        owner=found.lesson.owner.name,
        series=series_mark(found.lesson),
        edition=found.edition.number,
        step_count=count,
        has_short=extra > 0,
        begun=following.edition if following else None,
        place=following.place if following else 0,
        reached=following.reached if following else 0,
        length=count - extra if following and following.short else count,
        done=found.done,
    )


@router.get("")
def list_published(session: Database, me: Me, words: Annotated[str, Query(max_length=200)] = "") -> list[PublishedOut]:
    """Return the lessons that can be practised, those that one has begun first; only such that have all words."""
    return [published_out(one) for one in store.published(session, me, words)]


@router.get("/{lesson_id}", response_model=LessonOut)
def get_practice(
    session: Database, me: Me, lesson_id: uuid.UUID, short: Annotated[bool | None, Query()] = None
) -> LessonOut | Response:
    """Return a lesson to be practised: as it stands to those who write or read it, else as it is published.

    Of the editions it is the one that one has begun, or the newest, in the form that one has chosen or chooses now.
    """
    if right_to(session, me, lesson_id) is not Right.NONE:
        return at_the_desk(session, me, lessons.lesson(session, lesson_id))
    lesson, edition, following = store.to_practise(session, me, lesson_id)
    chosen = short if short is not None else bool(following and following.short)
    found = edition_json(session, me, lesson, edition, following, short=chosen)
    return Response(found, media_type="application/json")


@router.put("/{lesson_id}")
def follow(session: Database, me: Me, lesson_id: uuid.UUID, wish: ProgressWish) -> ProgressOut:
    """Note where one is, or move on to the newest edition; return where one is in it."""
    following = store.follow(session, me, lesson_id, wish.place, short=wish.short, newest=wish.newest)
    return ProgressOut(place=following.place, reached=following.reached)
