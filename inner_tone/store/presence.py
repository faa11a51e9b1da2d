"""Who is at a lesson's desk just now, and at which step."""

import uuid
from datetime import timedelta

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, joinedload

from inner_tone.store.models import Account, Presence, now

HERE = timedelta(seconds=12)  # a window tells every few seconds that it is there
FORGOTTEN = timedelta(hours=1)


def note_here(
    session: Session, account: Account, lesson_id: uuid.UUID, window: uuid.UUID, step_id: uuid.UUID | None
) -> None:
    """Note that somebody has a lesson open in a window, at one of its steps."""
    place = {"account_id": account.id, "step_id": step_id, "seen_at": now()}
    row = insert(Presence).values(lesson_id=lesson_id, window=window, **place)
    session.execute(row.on_conflict_do_update(index_elements=[Presence.lesson_id, Presence.window], set_=place))
    session.execute(delete(Presence).where(Presence.lesson_id == lesson_id, Presence.seen_at < now() - FORGOTTEN))


def note_gone(session: Session, account: Account, lesson_id: uuid.UUID, window: uuid.UUID) -> None:
    """Note that a window has left a lesson."""
    session.execute(
        delete(Presence).where(
            Presence.lesson_id == lesson_id, Presence.window == window, Presence.account_id == account.id
        )
    )


def others_here(session: Session, lesson_id: uuid.UUID, window: uuid.UUID) -> list[Presence]:
    """Return who else is at a lesson, by name."""
    query = select(Presence).where(
        Presence.lesson_id == lesson_id, Presence.window != window, Presence.seen_at > now() - HERE
    )
    found = session.scalars(query.options(joinedload(Presence.account)))
    return sorted(found, key=lambda one: (one.account.name, str(one.window)))
