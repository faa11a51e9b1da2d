"""Tries that are counted, such as wrong passwords: in the database, so that all who serve it count together."""

import uuid
from datetime import timedelta

from sqlalchemy import delete, func, select, text
from sqlalchemy.orm import Session

from inner_tone.store.models import Device, Try, now

FORGOTTEN = timedelta(days=1)
UNKNOWN = timedelta(days=400)  # as long as a browser remembers itself


def begin(session: Session, whose: str, most: int, seconds: float) -> bool:
    """Count a try if there were fewer than so many within the last seconds; tell whether that was so."""
    session.execute(text("SELECT pg_advisory_xact_lock(hashtextextended(:whose, 0))"), {"whose": whose})
    if len(within(session, whose, seconds)) >= most:
        return False
    session.add(Try(whose=whose, at=now()))
    return True


def clear_old(session: Session) -> None:
    """Clear away tries that no longer count, and devices that nobody has used for long."""
    session.execute(delete(Try).where(Try.at < now() - FORGOTTEN))
    session.execute(delete(Device).where(Device.used_at < now() - UNKNOWN))


def within(session: Session, whose: str, seconds: float) -> list[float]:
    """Return when the tries within the last seconds were, the first one first, in seconds since 1970."""
    query = select(Try.at).where(Try.whose == whose, Try.at > now() - timedelta(seconds=seconds)).order_by(Try.at)
    return [at.timestamp() for at in session.scalars(query)]


def forgive(session: Session, whose: str) -> None:
    """Take the latest try back: it was none."""
    latest = select(func.max(Try.id)).where(Try.whose == whose).scalar_subquery()
    session.execute(delete(Try).where(Try.id == latest))


def clear(session: Session, whose: str) -> None:
    """Forget all tries of somebody."""
    session.execute(delete(Try).where(Try.whose == whose))


def know(session: Session, digest: str, account_id: uuid.UUID) -> None:
    """Note that somebody has signed in with a device."""
    session.merge(Device(digest=digest, account_id=account_id, used_at=now()))


def knows(session: Session, digest: str, account_id: uuid.UUID) -> bool:
    """Tell whether somebody has signed in with a device before."""
    return session.get(Device, (digest, account_id)) is not None
