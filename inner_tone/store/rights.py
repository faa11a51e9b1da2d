"""Who may do what with a lesson, and with whom it is shared."""

import uuid
from enum import IntEnum

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, joinedload

from inner_tone.core.errors import InnerToneError
from inner_tone.store.accounts import EDUCATOR
from inner_tone.store.errors import ForbiddenError, NotFoundError
from inner_tone.store.models import Account, ClassEducator, ClassLesson, ClassMember, Lesson, Share, Step


class Right(IntEnum):
    """What somebody may do with a lesson at its desk; each right has those before it."""

    NONE = 0
    READ = 1
    WRITE = 2
    OWN = 3


NEEDED = {
    Right.READ: "This lesson is not shared with you.",
    Right.WRITE: "This lesson is shared with you for reading only. Duplicate it to change a copy.",
    Right.OWN: "Only the lesson’s owner can do that.",
}


def right_to(session: Session, account: Account, lesson_id: uuid.UUID) -> Right:
    """Return somebody's right to a lesson; of a deleted one only its owner has any."""
    if account.role != EDUCATOR:
        return Right.NONE
    owner, deleted = session.execute(
        select(Lesson.owner_id, Lesson.deleted_at).where(Lesson.id == lesson_id)
    ).first() or (
        None,
        None,
    )
    if owner == account.id:
        return Right.OWN
    if deleted is not None:
        return Right.NONE
    share = session.get(Share, (lesson_id, account.id))
    return Right.NONE if share is None else Right.WRITE if share.may_write else Right.READ


def require(session: Session, account: Account, lesson_id: uuid.UUID, needed: Right) -> None:
    """Raise unless somebody has a right to a lesson: NotFoundError if they may not even know of it."""
    right = right_to(session, account, lesson_id)
    if right is Right.NONE:
        raise NotFoundError("There is no such lesson. It may have been deleted, or not been shared with you.")
    if right < needed:
        raise ForbiddenError(NEEDED[needed])


def require_for_step(session: Session, account: Account, step_id: uuid.UUID, needed: Right) -> None:
    """Raise unless somebody has a right to the lesson of a step."""
    lesson_id = session.scalar(select(Step.lesson_id).where(Step.id == step_id))
    if lesson_id is None or right_to(session, account, lesson_id) is Right.NONE:
        raise NotFoundError("There is no such step. It may have been deleted.")
    require(session, account, lesson_id, needed)


def shares_of(session: Session, lesson_id: uuid.UUID) -> list[Share]:
    """Return with whom a lesson is shared, by name."""
    query = select(Share).where(Share.lesson_id == lesson_id).options(joinedload(Share.account))
    return sorted(session.scalars(query), key=lambda share: (share.account.name, share.account.sign_in))


def share(session: Session, lesson_id: uuid.UUID, account: Account, *, may_write: bool) -> None:
    """Share a lesson with an educator, or change for what it is shared; raises InnerToneError for its owner."""
    if session.scalar(select(Lesson.owner_id).where(Lesson.id == lesson_id)) == account.id:
        raise InnerToneError("The lesson is yours already: it cannot be shared with its owner.")
    row = insert(Share).values(lesson_id=lesson_id, account_id=account.id, may_write=may_write)
    session.execute(
        row.on_conflict_do_update(index_elements=[Share.lesson_id, Share.account_id], set_={"may_write": may_write})
    )


def unshare(session: Session, lesson_id: uuid.UUID, account_id: uuid.UUID) -> None:
    """Share a lesson with somebody no longer."""
    found = session.get(Share, (lesson_id, account_id))
    if found is not None:
        session.delete(found)


def teaches(session: Session, account: Account, member_id: uuid.UUID, lesson_id: uuid.UUID) -> bool:
    """Tell whether somebody teaches a class to which a lesson is set and in which somebody else is."""
    query = (
        select(ClassLesson.class_id)
        .join(ClassMember, ClassMember.class_id == ClassLesson.class_id)
        .join(ClassEducator, ClassEducator.class_id == ClassLesson.class_id)
        .where(
            ClassLesson.lesson_id == lesson_id,
            ClassMember.account_id == member_id,
            ClassEducator.account_id == account.id,
        )
    )
    return session.scalar(query.limit(1)) is not None
