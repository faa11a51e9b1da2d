"""Publishes lessons, and keeps how far their learners have come in which edition."""

import uuid
from collections.abc import Collection, Sequence
from dataclasses import dataclass

from sqlalchemy import and_, func, or_, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, contains_eager, joinedload, undefer

from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.words import lesson_words
from inner_tone.store import lessons
from inner_tone.store.errors import ConflictError, NotFoundError
from inner_tone.store.models import Account, Edition, Following, Lesson, Series, Standing, now
from inner_tone.store.search import matches


@dataclass(frozen=True)
class Published:
    """A lesson as learners find it: its latest edition, how far one has come, and how many steps one has done."""

    lesson: Lesson
    edition: Edition
    following: Following | None
    done: int


def document_in(edition: Edition) -> LessonDocument:
    """Return the lesson as it was published."""
    return LessonDocument.model_validate(edition.lesson)


def editions_of(session: Session, lesson_id: uuid.UUID) -> list[Edition]:
    """Return a lesson's editions, the newest first."""
    query = (
        select(Edition)
        .where(Edition.lesson_id == lesson_id)
        .options(joinedload(Edition.publisher), undefer(Edition.lesson))
    )
    return list(session.scalars(query.order_by(Edition.number.desc())))


def edition_of(session: Session, lesson_id: uuid.UUID, number: int) -> Edition:
    """Return an edition; raises NotFoundError."""
    found = session.get(Edition, (lesson_id, number))
    if found is None:
        raise NotFoundError(f"There is no edition {number} of this lesson.")
    return found


def publish(
    session: Session,
    lesson_id: uuid.UUID,
    reviewed: LessonDocument,
    publisher: uuid.UUID,
    notes: str = "",
    reason: str = "",
    overruled: dict[str, str] | None = None,
) -> Edition:
    """Make an edition of a lesson; raises ConflictError if it is no longer as it was `reviewed`.

    `reason` says what the review had to say, and why it is right as it is; `overruled` has that by what is known.
    """
    found = lessons.lesson(session, lesson_id, lock=True)
    document, steps = lessons.document_of(session, found)
    if document != reviewed:
        raise ConflictError("lesson", found.version)
    latest = session.scalar(select(func.max(Edition.number)).where(Edition.lesson_id == lesson_id))
    made = Edition(
        lesson_id=lesson_id,
        number=(latest or 0) + 1,
        notes=notes,
        reason=reason,
        overruled=overruled or {},
        lesson=document.model_dump(mode="json", by_alias=True),
        step_ids=[str(step.id) for step in steps],
        words=lesson_words(document),
        published_by=publisher,
    )
    session.add(made)
    session.flush()
    session.refresh(made, ["publisher"])
    return made


def following_of(session: Session, account: Account, lesson_id: uuid.UUID) -> Following | None:
    """Return how far somebody has come in a lesson, if they have begun it."""
    return session.get(Following, (account.id, lesson_id))


def latest_of(session: Session, lesson_id: uuid.UUID) -> Edition | None:
    """Return the newest edition of a lesson, if it was ever published."""
    query = select(Edition).where(Edition.lesson_id == lesson_id).order_by(Edition.number.desc()).limit(1)
    return session.scalar(query)


def to_practise(session: Session, account: Account, lesson_id: uuid.UUID) -> tuple[Lesson, Edition, Following | None]:
    """Return the edition of a lesson that somebody practises: the one that they have begun, or the newest.

    Whoever has begun a lesson can go on with it when it has been deleted; for all others it is not there.
    """
    mine = and_(Following.lesson_id == Edition.lesson_id, Following.account_id == account.id)
    query = (
        select(Lesson, Edition, Following)
        .join(Edition, Edition.lesson_id == Lesson.id)
        .outerjoin(Following, mine)
        .where(Lesson.id == lesson_id, or_(Lesson.deleted_at.is_(None), Following.account_id.is_not(None)))
        .order_by((Edition.number == Following.edition).desc().nulls_last(), Edition.number.desc())
        .limit(1)
    )
    found = session.execute(query).first()
    if found is None:
        raise NotFoundError("There is no such lesson, or it is not published yet.")
    return found[0], found[1], found[2]


def follow(
    session: Session, account: Account, lesson_id: uuid.UUID, place: int, *, short: bool, newest: bool = False
) -> Following:
    """Note where somebody is; with `newest` they move on to the newest edition, and stay at their step there."""
    _, edition, _ = to_practise(session, account, lesson_id)
    begun = insert(Following).values(
        account_id=account.id, lesson_id=lesson_id, edition=edition.number, short=short, place=place, begun_at=now()
    )
    session.execute(begun.on_conflict_do_nothing())  # two pages may begin at once
    following = session.get_one(Following, (account.id, lesson_id))
    latest = latest_of(session, lesson_id)
    reached = max(place, following.reached)
    if newest and latest is not None and following.edition != latest.number:
        old = edition_of(session, lesson_id, following.edition)
        place, reached = (same_step(old, latest, one, short=short) for one in (place, reached))
        following.edition = latest.number
    following.place, following.short, following.reached = place, short, reached
    following.seen_at = now()
    session.flush()
    return following


def same_step(old: Edition, new: Edition, place: int, *, short: bool) -> int:
    """Return where a step of one edition stands in another: itself, or else the nearest before it that is there."""
    before, after = (ids_in(one, short=short) for one in (old, new))
    return next((after.index(one) for one in reversed(before[: place + 1]) if one in after), 0)


def ids_in(edition: Edition, *, short: bool) -> list[str]:
    """Return the ids of an edition's steps, or of those of its short form."""
    if not short:
        return edition.step_ids
    steps = zip(edition.lesson["steps"], edition.step_ids, strict=True)
    return [identity for step, identity in steps if not step.get("extra")]


def published(session: Session, account: Account, words: str = "") -> list[Published]:
    """Return the lessons that anybody may practise, those that one has begun first; only such that have all words."""
    newest = select(Edition.lesson_id, func.max(Edition.number).label("number")).group_by(Edition.lesson_id).subquery()
    finished = (
        select(Standing.lesson_id, func.count().label("count"))
        .where(Standing.account_id == account.id, Standing.state == "done")
        .group_by(Standing.lesson_id)
        .subquery()
    )
    query = (
        select(Lesson, Edition, Following, func.coalesce(finished.c.count, 0))
        .join(newest, newest.c.lesson_id == Lesson.id)
        .join(Edition, and_(Edition.lesson_id == Lesson.id, Edition.number == newest.c.number))
        .outerjoin(Series, and_(Series.id == Lesson.series_id, Series.deleted_at.is_(None)))
        .outerjoin(Following, and_(Following.lesson_id == Lesson.id, Following.account_id == account.id))
        .outerjoin(finished, finished.c.lesson_id == Lesson.id)
        .where(Lesson.deleted_at.is_(None))
        .options(joinedload(Lesson.owner), contains_eager(Lesson.series), undefer(Edition.lesson))
        .order_by(
            Following.begun_at.desc().nulls_last(),
            Series.created_at,
            Lesson.series_place,
            Edition.published_at,
            Lesson.id,
        )
    )
    if words.strip():
        query = query.where(matches(Edition.words, words))
    return [Published(*row) for row in session.execute(query)]


def newest_of(session: Session, ids: Sequence[uuid.UUID]) -> dict[uuid.UUID, Edition]:
    """Return the newest edition of each of some lessons that has one, with what was published."""
    query = select(Edition).where(Edition.lesson_id.in_(ids)).distinct(Edition.lesson_id)
    query = query.options(undefer(Edition.lesson)).order_by(Edition.lesson_id, Edition.number.desc())
    return {one.lesson_id: one for one in session.scalars(query)}


def editions_with(
    session: Session, lesson_id: uuid.UUID, numbers: Collection[int]
) -> dict[tuple[int, bool], list[str]]:
    """Return the ids of the steps of some editions, whole (False) and in their short form (True)."""
    query = select(Edition).where(Edition.lesson_id == lesson_id, Edition.number.in_(numbers))
    found = session.scalars(query.options(undefer(Edition.lesson)))
    return {(one.number, short): ids_in(one, short=short) for one in found for short in (False, True)}


def newest_numbers(session: Session, ids: Sequence[uuid.UUID]) -> dict[uuid.UUID, int]:
    """Return the number of the newest edition of each of some lessons that has one."""
    query = select(Edition.lesson_id, func.max(Edition.number)).where(Edition.lesson_id.in_(ids))
    return {lesson_id: number for lesson_id, number in session.execute(query.group_by(Edition.lesson_id))}
