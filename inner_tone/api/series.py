"""Series: lessons that belong together, in their order."""

import uuid
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from inner_tone.api.access import Educator, Me, OwnSeries, OwnSeriesBriefly
from inner_tone.api.context import Database
from inner_tone.api.jobs import JobOut, TheJobs, asked
from inner_tone.api.schemas import Incoming, Summary, Title, Whole
from inner_tone.api.shown import start_now
from inner_tone.store import editions, written
from inner_tone.store import series as store
from inner_tone.store.errors import NotFoundError
from inner_tone.store.models import Account, Lesson, Series

router = APIRouter(prefix="/api/series", tags=["series"])


class SeriesLesson(BaseModel):
    """A lesson within a series. It `continues` another if it starts from its end; `moved_on` if that has changed."""

    id: uuid.UUID
    title: str
    summary: str
    step_count: int
    edition: int | None
    continues: bool
    moved_on: bool
    begun: bool


class SeriesOut(BaseModel):
    """A series with its lessons in order; those who do not own it see what is published of it."""

    id: uuid.UUID
    version: int
    title: str
    summary: str
    owner: str
    is_own: bool
    lessons: list[SeriesLesson]


class NewSeries(Incoming):
    """A series to be begun."""

    title: Title
    summary: Summary = ""


class SeriesChange(Incoming):
    """What a series that stands at `version` is to be: its title, its summary, and its lessons in order."""

    version: Whole
    title: Title
    summary: Summary
    lessons: Annotated[list[uuid.UUID], Field(max_length=500)]


def lesson_in(session: Session, me: Account, lesson: Lesson, edition: int | None, is_own: bool) -> SeriesLesson:
    """Return a lesson of a series for the wire: as it stands to its owner, as it is published to all others."""
    start = start_now(session, me, lesson) if is_own else None
    shown = editions.document_in(editions.edition_of(session, lesson.id, edition)) if edition and not is_own else None
    return SeriesLesson(
        id=lesson.id,
        title=shown.title if shown else lesson.title,
        summary=shown.summary if shown else lesson.summary,
        step_count=len(shown.steps if shown else written.steps_of(session, lesson.id)),
        edition=edition,
        continues=(shown.start if shown else lesson.start) is not None,
        moved_on=bool(start and start.moved_on),
        begun=editions.following_of(session, me, lesson.id) is not None,
    )


def series_out(session: Session, me: Account, series: Series) -> SeriesOut:
    """Return a series for the wire."""
    is_own = series.owner_id == me.id
    found = store.lessons_in(session, series.id, published=not is_own)
    numbers = editions.newest_numbers(session, [one.id for one in found])
    return SeriesOut(
        id=series.id,
        version=series.version,
        title=series.title,
        summary=series.summary,
        owner=series.owner.name,
        is_own=is_own,
        lessons=[lesson_in(session, me, one, numbers.get(one.id), is_own) for one in found],
    )


@router.get("")
def list_series(session: Database, me: Educator) -> list[SeriesOut]:
    """Return one's own series by title."""
    return [series_out(session, me, one) for one in store.series_of(session, me.id)]


@router.post("", status_code=201)
def create_series(session: Database, me: Educator, wish: NewSeries) -> SeriesOut:
    """Begin a series."""
    return series_out(session, me, store.create_series(session, me, wish.title, wish.summary))


@router.get("/{series_id}")
def get_series(session: Database, me: Me, series_id: uuid.UUID) -> SeriesOut:
    """Return a series: one's own whole, another's as far as it is published."""
    found = series_out(session, me, store.series_with(session, series_id))
    if not found.is_own and not found.lessons:
        raise NotFoundError("There is no such series, or nothing of it is published yet.")
    return found


@router.put("/{series_id}")
def change_series(session: Database, me: Educator, series_id: OwnSeries, wish: SeriesChange) -> SeriesOut:
    """Give a series another title, another summary, other lessons, or another order."""
    changed = store.change_series(session, me, series_id, wish.version, wish.title, wish.summary, wish.lessons)
    return series_out(session, me, changed)


@router.post("/{series_id}/bundle", status_code=202)
async def bundle_series(jobs: TheJobs, me: Educator, series_id: OwnSeriesBriefly) -> JobOut:
    """Write a series with all its lessons into a bundle, as a job."""
    return await asked(jobs, me.id, "series", "A series as a bundle", {"series_id": str(series_id)})


@router.delete("/{series_id}", status_code=204)
def delete_series(session: Database, me: Educator, series_id: OwnSeries) -> None:
    """Dissolve a series; its lessons stay."""
    store.delete_series(session, me, series_id)
