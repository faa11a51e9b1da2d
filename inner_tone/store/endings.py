"""The end of an account: what was made with it goes, or passes to somebody else; nothing of it is kept."""

import uuid
from collections.abc import Sequence

from sqlalchemy import ColumnElement, Select, delete, func, select, text, update
from sqlalchemy.orm import Session

from inner_tone.core.errors import InnerToneError
from inner_tone.store.attempts import forget
from inner_tone.store.models import (
    Account,
    Attempt,
    Class,
    ClassEducator,
    ClassLesson,
    Edition,
    Following,
    KeptImage,
    KeptSection,
    Lesson,
    Operation,
    OwnSound,
    Played,
    Presence,
    PublicEdition,
    Question,
    Recording,
    Series,
    Share,
    SignIn,
    Standing,
    Step,
    StepHistory,
)
from inner_tone.store.notices import SIGNED_OUT, tell
from inner_tone.store.sounds import forget_unheard


def delete_account(session: Session, account: Account, heir: Account | None = None) -> None:
    """Delete an account with all that was made with it.

    Lessons, series and classes, with the images and recordings in them, pass to an `heir`, or go too: with what others
    have made in the lessons. Raises InnerToneError for who would be their own heir.
    """
    mine = account.id
    if heir is not None and heir.id == mine:
        raise InnerToneError("That is your own sign-in name. Name another educator.")
    forget(session, Attempt.account_id == mine)
    for table in (Question, Standing, Played, Following, Presence, SignIn, Share):
        session.execute(delete(table).where(table.account_id == mine))
    had = list(session.scalars(select(OwnSound.key).where(OwnSound.account_id == mine)))
    if heir is not None:
        pass_on(session, mine, heir)
    else:
        owned = list(session.scalars(select(Lesson.id).where(Lesson.owner_id == mine)))
        delete_lessons(session, owned)
        session.execute(update(Lesson).where(in_series_of(mine)).values(series_id=None, series_place=None))
        session.execute(delete(Series).where(Series.owner_id == mine))
        session.execute(delete(Class).where(Class.owner_id == mine))
    session.execute(update(Question).where(Question.answered_by == mine).values(answered_by=None))
    forgetting(session, "on")
    session.execute(update(Edition).where(Edition.published_by == mine).values(published_by=None))
    forgetting(session, "off")
    for kept in (Recording, KeptSection, KeptImage):
        session.execute(delete(kept).where(kept.owner_id == mine))
    session.execute(delete(OwnSound).where(OwnSound.account_id == mine))
    forget_unheard(session, had)
    session.execute(delete(Account).where(Account.id == mine))
    tell(session, SIGNED_OUT)


def in_series_of(owner_id: uuid.UUID) -> ColumnElement[bool]:
    """Return whether a lesson is in a series of somebody."""
    return Lesson.series_id.in_(select(Series.id).where(Series.owner_id == owner_id))


def pass_on(session: Session, mine: uuid.UUID, heir: Account) -> None:
    """Let lessons, series and classes be somebody else's, with the images and recordings that stand in them."""
    session.execute(delete(Share).where(Share.account_id == heir.id, Share.lesson_id.in_(lessons_of(mine))))
    for table in (Lesson, Series, KeptImage, Recording, Class):
        session.execute(update(table).where(table.owner_id == mine).values(owner_id=heir.id))
    has = select(OwnSound.key).where(OwnSound.account_id == heir.id)
    passed = update(OwnSound).where(OwnSound.account_id == mine, OwnSound.key.not_in(has))
    session.execute(passed.values(account_id=heir.id))
    teaches = select(ClassEducator.class_id).where(ClassEducator.account_id == heir.id)
    own = select(Class.id).where(Class.owner_id == heir.id, Class.id.not_in(teaches))
    session.add_all(ClassEducator(class_id=one, account_id=heir.id) for one in session.scalars(own).all())
    session.flush()


def lessons_of(owner_id: uuid.UUID) -> Select[uuid.UUID]:
    """Return a question for the lessons of somebody."""
    return select(Lesson.id).where(Lesson.owner_id == owner_id)


def delete_lessons(session: Session, ids: Sequence[uuid.UUID]) -> None:
    """Delete lessons for good: their steps, history and editions, and what anybody has made in them."""
    forget(session, Attempt.lesson_id.in_(ids))
    for table in (Question, Standing, Played, Following, Presence, Share, ClassLesson, PublicEdition):
        session.execute(delete(table).where(table.lesson_id.in_(ids)))
    forgetting(session, "on")
    session.execute(delete(StepHistory).where(StepHistory.step_id.in_(select(Step.id).where(Step.lesson_id.in_(ids)))))
    for kept in (Step, Operation, Edition):
        session.execute(delete(kept).where(kept.lesson_id.in_(ids)))
    forgetting(session, "off")
    session.execute(delete(Lesson).where(Lesson.id.in_(ids)))


def forgetting(session: Session, word: str) -> None:
    """Say whether what is only ever added to may go, within this transaction."""
    session.execute(text("SELECT set_config('inner_tone.forgetting', :word, true)"), {"word": word})


def gone_with(session: Session, account: Account) -> tuple[int, int, int]:
    """Return what would go with an account: how many lessons, classes, and other people who have begun the lessons."""
    others = select(func.count(Following.account_id.distinct())).where(
        Following.lesson_id.in_(lessons_of(account.id)), Following.account_id != account.id
    )
    lessons = select(func.count()).where(Lesson.owner_id == account.id, Lesson.deleted_at.is_(None))
    classes = select(func.count()).where(Class.owner_id == account.id)
    found = [session.scalar(one) or 0 for one in (lessons, classes, others)]
    return found[0], found[1], found[2]
