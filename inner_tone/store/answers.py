"""Answers that are worked out once for all nodes. They can be made again: nothing is lost when they are."""

from datetime import timedelta

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from inner_tone.store.models import Answer, now

LASTS = timedelta(hours=1)


def answer_of(session: Session, key: str) -> bytes | None:
    """Return what was worked out for a key, if it is still kept."""
    return session.scalar(select(Answer.found).where(Answer.key == key))


def keep_answer(session: Session, key: str, found: bytes) -> None:
    """Keep what was worked out for a key."""
    session.execute(insert(Answer).values(key=key, found=found, at=now()).on_conflict_do_nothing())


def clear_answers(session: Session) -> None:
    """Clear away what was worked out long ago."""
    session.execute(delete(Answer).where(Answer.at < now() - LASTS))
