"""Series: lessons that belong together, in their order."""

import uuid
from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session, joinedload

from inner_tone.store.errors import ConflictError, NotFoundError
from inner_tone.store.models import Account, Edition, Lesson, Series, now


def series_with(session: Session, series_id: uuid.UUID, *, lock: bool = False) -> Series:
    """Return a series; raises NotFoundError."""
    found = session.get(Series, series_id, with_for_update=lock or None)
    if found is None or found.deleted_at is not None:
        raise NotFoundError("There is no such series. It may have been deleted.")
    return found


def series_of(session: Session, owner_id: uuid.UUID) -> list[Series]:
    """Return somebody's series by title."""
    query = select(Series).where(Series.owner_id == owner_id, Series.deleted_at.is_(None))
    return list(session.scalars(query.options(joinedload(Series.owner)).order_by(Series.title, Series.id)))


def own_series(session: Session, owner: Account, series_id: uuid.UUID) -> Series:
    """Return a series, locked, to its owner; raises NotFoundError to all others."""
    found = series_with(session, series_id, lock=True)
    if found.owner_id != owner.id:
        raise NotFoundError("There is no such series. It may have been deleted.")
    return found


def lessons_in(session: Session, series_id: uuid.UUID, *, published: bool = False) -> list[Lesson]:
    """Return the lessons of a series in order; only those that are published if asked."""
    query = select(Lesson).where(Lesson.series_id == series_id, Lesson.deleted_at.is_(None))
    if published:
        query = query.where(select(Edition.number).where(Edition.lesson_id == Lesson.id).exists())
    return list(session.scalars(query.options(joinedload(Lesson.owner)).order_by(Lesson.series_place, Lesson.id)))


def create_series(session: Session, owner: Account, title: str, summary: str) -> Series:
    """Begin a series without lessons."""
    made = Series(owner_id=owner.id, title=title, summary=summary)
    session.add(made)
    session.flush()
    return made


def change_series(
    session: Session,
    owner: Account,
    series_id: uuid.UUID,
    version: int,
    title: str,
    summary: str,
    ids: Sequence[uuid.UUID],
) -> Series:
    """Give a series another title and summary, and its lessons in order: one's own, each taken out of any other.

    Raises NotFoundError, and ConflictError if the series no longer stands at `version`.
    """
    found = own_series(session, owner, series_id)
    if found.version != version:
        raise ConflictError("series", found.version)
    own = select(Lesson).where(Lesson.id.in_(ids), Lesson.owner_id == owner.id, Lesson.deleted_at.is_(None))
    chosen = {one.id: one for one in session.scalars(own)}
    if set(chosen) != set(ids):
        raise NotFoundError("One of these lessons is not yours, or has been deleted. Nothing was changed.")
    for one in lessons_in(session, series_id):
        one.series_id = one.series_place = None
    for place, identity in enumerate(dict.fromkeys(ids)):
        chosen[identity].series_id, chosen[identity].series_place = series_id, place
    found.title, found.summary = title, summary
    found.version += 1
    session.flush()
    return found


def append(session: Session, owner: Account, series_id: uuid.UUID, added: Lesson) -> None:
    """Put a lesson at the end of a series of one's own."""
    own_series(session, owner, series_id)
    last = session.scalar(select(func.max(Lesson.series_place)).where(Lesson.series_id == series_id))
    added.series_id, added.series_place = series_id, 0 if last is None else last + 1


def delete_series(session: Session, owner: Account, series_id: uuid.UUID) -> None:
    """Dissolve a series of one's own; its lessons stay."""
    found = own_series(session, owner, series_id)
    for one in lessons_in(session, series_id):
        one.series_id = one.series_place = None
    found.deleted_at = now()
