"""Classes: people who follow lessons together. Whoever teaches one sees how far its members are in its lessons.

What members make stays theirs: who leaves takes it along, or deletes it.
"""

import secrets
import uuid
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import TypeVar

from sqlalchemy import ColumnElement, and_, delete, exists, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, joinedload

from inner_tone.core.errors import InnerToneError
from inner_tone.store.attempts import forget
from inner_tone.store.errors import ConflictError, ForbiddenError, NotFoundError
from inner_tone.store.models import (
    Account,
    Attempt,
    Class,
    ClassEducator,
    ClassLesson,
    ClassMember,
    Edition,
    Following,
    Lesson,
    Played,
    Question,
    Standing,
)

# neither 0, O, 1 and I, nor what rhymes when it is said aloud: of B C D E G P T V Z 3 only 3, of A J K 8 only A
SPOKEN = "AFHLMRWXY34679"
LENGTH = 7
MOST_LESSONS = 100
FIRST_DAY, LAST_DAY = date(2000, 1, 1), date(2099, 12, 31)  # that a lesson can be set for
MOST_MEMBERS = 500
MOST_CLASSES = 200  # that somebody teaches

Whereabouts = tuple[uuid.UUID, uuid.UUID]  # somebody, in a lesson


@dataclass(frozen=True)
class SetLesson:
    """A lesson that is to be set to a class, perhaps for a date."""

    lesson: uuid.UUID
    due: date | None


def new_code() -> str:
    """Return a code that nobody guesses: one of a hundred million."""
    return "".join(secrets.choice(SPOKEN) for _ in range(LENGTH))


def as_typed(code: str) -> str:
    """Return a code as it is kept, however it was typed."""
    return "".join(one for one in code.upper() if one.isalnum())


def begin(session: Session, owner: Account, title: str) -> Class:
    """Begin a class; raises InnerToneError for who teaches too many."""
    count = select(func.count()).where(Class.owner_id == owner.id)
    if (session.scalar(count) or 0) >= MOST_CLASSES:
        raise InnerToneError(f"You have {MOST_CLASSES} classes already. Delete one to make room.")
    made = Class(owner_id=owner.id, title=title, code=new_code())
    session.add(made)
    session.flush()
    session.add(ClassEducator(class_id=made.id, account_id=owner.id))
    session.flush()
    return made


def taught_by(session: Session, account: Account) -> list[Class]:
    """Return the classes that somebody teaches, the newest first."""
    query = select(Class).join(ClassEducator, ClassEducator.class_id == Class.id)
    return list(
        session.scalars(query.where(ClassEducator.account_id == account.id).order_by(Class.created_at.desc(), Class.id))
    )


def joined_by(session: Session, account: Account) -> list[Class]:
    """Return the classes that somebody has joined, the one joined last first."""
    query = select(Class).join(ClassMember, ClassMember.class_id == Class.id)
    return list(
        session.scalars(query.where(ClassMember.account_id == account.id).order_by(ClassMember.joined_at.desc()))
    )


def taught(session: Session, account: Account, class_id: uuid.UUID, *, lock: bool = False) -> Class:
    """Return a class to those who teach it; raises NotFoundError to all others."""
    found = session.get(Class, class_id, with_for_update=lock or None)
    if found is None or session.get(ClassEducator, (class_id, account.id)) is None:
        raise NotFoundError("There is no such class. It may have been deleted.")
    return found


def owned(session: Session, account: Account, class_id: uuid.UUID) -> Class:
    """Return a class to whoever began it; raises NotFoundError, and ForbiddenError for the others who teach it."""
    found = taught(session, account, class_id, lock=True)
    if found.owner_id != account.id:
        raise ForbiddenError("Only who began the class can do that.")
    return found


def joined(session: Session, account: Account, class_id: uuid.UUID) -> Class:
    """Return a class to its members; raises NotFoundError to all others."""
    found = session.get(Class, class_id)
    if found is None or session.get(ClassMember, (class_id, account.id)) is None:
        raise NotFoundError("You are in no such class. It may have been deleted.")
    return found


def educators_of(session: Session, class_id: uuid.UUID) -> list[Account]:
    """Return who teaches a class, whoever began it first."""
    query = select(Account).join(ClassEducator, ClassEducator.account_id == Account.id)
    return list(
        session.scalars(query.where(ClassEducator.class_id == class_id).order_by(ClassEducator.since, Account.id))
    )


def members_of(session: Session, class_id: uuid.UUID) -> list[ClassMember]:
    """Return who has joined a class, by name."""
    query = select(ClassMember).join(ClassMember.account).where(ClassMember.class_id == class_id)
    return list(
        session.scalars(query.options(joinedload(ClassMember.account)).order_by(func.lower(Account.name), Account.id))
    )


def count_members(session: Session, class_id: uuid.UUID) -> int:
    """Return how many have joined a class."""
    return session.scalar(select(func.count()).where(ClassMember.class_id == class_id)) or 0


def lessons_of(session: Session, class_id: uuid.UUID) -> list[ClassLesson]:
    """Return what is set to a class in order, without lessons that have been deleted since."""
    query = select(ClassLesson).join(ClassLesson.lesson).where(ClassLesson.class_id == class_id)
    query = query.where(Lesson.deleted_at.is_(None)).options(joinedload(ClassLesson.lesson).joinedload(Lesson.owner))
    return list(session.scalars(query.order_by(ClassLesson.place)))


def lesson_in(session: Session, class_id: uuid.UUID, lesson_id: uuid.UUID) -> Lesson:
    """Return a lesson that is set to a class; raises NotFoundError."""
    found = next((one.lesson for one in lessons_of(session, class_id) if one.lesson_id == lesson_id), None)
    if found is None:
        raise NotFoundError("This lesson is not set to the class.")
    return found


def change(
    session: Session, found: Class, version: int, title: str, *, is_open: bool, wanted: Sequence[SetLesson]
) -> None:
    """Give a class another title, let others in or not, and set lessons to it in their order.

    Raises ConflictError, NotFoundError for a lesson that is not published, and InnerToneError where one stands twice.
    """
    if found.version != version:
        raise ConflictError("class", found.version)
    ids = [one.lesson for one in wanted]
    if len(set(ids)) != len(ids):
        raise InnerToneError("A lesson stands twice in this class. Take one of them out.")
    published = exists().where(Edition.lesson_id == Lesson.id)
    query = select(Lesson.id).where(Lesson.id.in_(ids), Lesson.deleted_at.is_(None), published)
    if set(session.scalars(query)) != set(ids):
        raise NotFoundError("One of these lessons is not published, or has been deleted. Nothing was changed.")
    session.execute(delete(ClassLesson).where(ClassLesson.class_id == found.id))
    session.add_all(
        ClassLesson(class_id=found.id, lesson_id=one.lesson, place=place, due=one.due)
        for place, one in enumerate(wanted)
    )
    found.title, found.open = title, is_open
    found.version += 1
    session.flush()


def renew_code(session: Session, found: Class) -> None:
    """Give a class another code; the old one leads nowhere."""
    found.code = new_code()
    session.flush()


def end(session: Session, found: Class) -> None:
    """Delete a class; what its members have made stays theirs."""
    session.delete(found)
    session.flush()


def join(session: Session, account: Account, code: str) -> Class:
    """Let somebody into the class with a code; raises NotFoundError, and InnerToneError where they cannot be."""
    found = session.scalar(select(Class).where(Class.code == as_typed(code)).with_for_update(key_share=True))
    if found is None or not found.open:
        raise NotFoundError("There is no class with this code, or nobody can join it now. Ask whoever teaches it.")
    if session.get(ClassEducator, (found.id, account.id)) is not None:
        raise InnerToneError("You teach this class: its educators see it already.")
    if session.get(ClassMember, (found.id, account.id)) is None and count_members(session, found.id) >= MOST_MEMBERS:
        raise InnerToneError(f"This class has {MOST_MEMBERS} members already; no class has more.")
    row = insert(ClassMember).values(class_id=found.id, account_id=account.id, joined_at=func.now())
    session.execute(row.on_conflict_do_nothing())
    return found


def teach(session: Session, found: Class, account: Account) -> None:
    """Let another educator teach a class; they are no member of it then."""
    row = insert(ClassEducator).values(class_id=found.id, account_id=account.id, since=func.now())
    session.execute(row.on_conflict_do_nothing())
    session.execute(delete(ClassMember).where(ClassMember.class_id == found.id, ClassMember.account_id == account.id))


def teach_no_longer(session: Session, found: Class, account_id: uuid.UUID) -> None:
    """Let somebody teach a class no longer; raises InnerToneError for whoever began it."""
    if account_id == found.owner_id:
        raise InnerToneError("Who began the class teaches it as long as there is one. Delete the class instead.")
    which = (ClassEducator.class_id == found.id, ClassEducator.account_id == account_id)
    session.execute(delete(ClassEducator).where(*which))


def remove(session: Session, class_id: uuid.UUID, account_id: uuid.UUID) -> None:
    """Take somebody out of a class; what they have made stays theirs."""
    which = (ClassMember.class_id == class_id, ClassMember.account_id == account_id)
    session.execute(delete(ClassMember).where(*which))


def leave(session: Session, account: Account, class_id: uuid.UUID, *, delete_work: bool) -> None:
    """Leave a class: with what one has made in its lessons, or deleting that. Raises NotFoundError."""
    joined(session, account, class_id)
    remove(session, class_id, account.id)
    if delete_work:
        forget_work(session, account.id, [one.lesson_id for one in lessons_of(session, class_id)])


def forget_work(session: Session, account_id: uuid.UUID, lessons: Sequence[uuid.UUID]) -> None:
    """Delete all that somebody has made, given and asked in some lessons, and how far they have come."""
    forget(session, (Attempt.account_id == account_id) & Attempt.lesson_id.in_(lessons))
    for table in (Question, Standing, Played, Following):
        session.execute(delete(table).where(table.account_id == account_id, table.lesson_id.in_(lessons)))


@dataclass(frozen=True)
class Head:
    """An attempt without its patch."""

    id: uuid.UUID
    account_id: uuid.UUID
    step_id: uuid.UUID
    name: str
    updated_at: datetime
    may_show: bool


@dataclass(frozen=True)
class Work:
    """What the members of a class have done in a lesson, by whose it is."""

    followings: Mapping[uuid.UUID, list[Following]]
    standings: Mapping[uuid.UUID, list[Standing]]
    attempts: Mapping[uuid.UUID, list[Head]]
    questions: Mapping[uuid.UUID, list[Question]]


def work_in(session: Session, class_id: uuid.UUID, lesson_id: uuid.UUID) -> Work:
    """Return what the members of a class have done in a lesson: four questions, however many members there are."""
    members = select(ClassMember.account_id).where(ClassMember.class_id == class_id)

    def theirs(table: type[Following] | type[Standing] | type[Question] | type[Attempt]) -> ColumnElement[bool]:
        return and_(table.lesson_id == lesson_id, table.account_id.in_(members))

    asked = select(Question).where(theirs(Question)).options(joinedload(Question.account))
    heads = select(
        Attempt.id, Attempt.account_id, Attempt.step_id, Attempt.name, Attempt.updated_at, Attempt.may_show
    ).where(theirs(Attempt))
    return Work(
        followings=by_whose(session.scalars(select(Following).where(theirs(Following)))),
        standings=by_whose(session.scalars(select(Standing).where(theirs(Standing)))),
        attempts=by_whose(Head(*row) for row in session.execute(heads.order_by(Attempt.updated_at.desc()))),
        questions=by_whose(session.scalars(asked.order_by(Question.asked_at))),
    )


Row = TypeVar("Row", Following, Standing, Question, Head)


def by_whose(found: Iterable[Row]) -> dict[uuid.UUID, list[Row]]:
    whose: dict[uuid.UUID, list[Row]] = {}
    for one in found:
        whose.setdefault(one.account_id, []).append(one)
    return whose


@dataclass(frozen=True)
class Progress:
    """How far somebody is in a lesson: their place and how far they have been, steps done, questions that wait."""

    following: Following | None
    done: int
    waiting: int


def progress_in(session: Session, class_id: uuid.UUID) -> dict[tuple[uuid.UUID, uuid.UUID], Progress]:
    """Return how far each member of a class is in each of its lessons, by both."""
    members = select(ClassMember.account_id).where(ClassMember.class_id == class_id)
    lessons = select(ClassLesson.lesson_id).where(ClassLesson.class_id == class_id)

    def count(table: type[Standing] | type[Question], *which: ColumnElement[bool]) -> dict[Whereabouts, int]:
        query = select(table.account_id, table.lesson_id, func.count())
        query = query.where(table.account_id.in_(members), table.lesson_id.in_(lessons), *which)
        rows = session.execute(query.group_by(table.account_id, table.lesson_id))
        return {(account, lesson): number for account, lesson, number in rows}

    done = count(Standing, Standing.state == "done")
    waiting = count(Question, Question.answer == "")
    begun = select(Following).where(Following.account_id.in_(members), Following.lesson_id.in_(lessons))
    followings = {(one.account_id, one.lesson_id): one for one in session.scalars(begun)}
    return {
        place: Progress(followings.get(place), done.get(place, 0), waiting.get(place, 0))
        for place in {*done, *waiting, *followings}
    }


def own_progress(session: Session, account: Account, class_id: uuid.UUID) -> dict[uuid.UUID, tuple[int, int]]:
    """Return by lesson of a class at which place one is, and how many steps one has done."""
    lessons = select(ClassLesson.lesson_id).where(ClassLesson.class_id == class_id)
    begun = select(Following).where(Following.account_id == account.id, Following.lesson_id.in_(lessons))
    done = select(Standing.lesson_id, func.count()).where(
        Standing.account_id == account.id, Standing.lesson_id.in_(lessons), Standing.state == "done"
    )
    counted = {lesson: count for lesson, count in session.execute(done.group_by(Standing.lesson_id))}
    return {one.lesson_id: (one.place, counted.get(one.lesson_id, 0)) for one in session.scalars(begun)}
