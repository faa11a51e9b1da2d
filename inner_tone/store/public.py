"""Editions that anybody may see who has their link, until they are withdrawn."""

import secrets
import uuid

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, undefer

from inner_tone.store.errors import NotFoundError
from inner_tone.store.models import Lesson, PublicEdition, now

LINK_BYTES = 12


def open_edition(session: Session, lesson_id: uuid.UUID, number: int, by_id: uuid.UUID, page: bytes) -> PublicEdition:
    """Let anybody see an edition, as a compressed page; one that was open before goes, and its link leads to this."""
    row = insert(PublicEdition).values(
        lesson_id=lesson_id, number=number, link=secrets.token_urlsafe(LINK_BYTES), by_id=by_id, since=now(), page=page
    )
    now_there = {"number": number, "by_id": by_id, "since": now(), "page": page}
    session.execute(row.on_conflict_do_update(index_elements=[PublicEdition.lesson_id], set_=now_there))
    session.flush()
    found = open_of(session, lesson_id)
    assert found is not None
    return found


def open_of(session: Session, lesson_id: uuid.UUID) -> PublicEdition | None:
    """Return the edition of a lesson that anybody may see, if there is one."""
    return session.scalar(
        select(PublicEdition).where(PublicEdition.lesson_id == lesson_id).execution_options(populate_existing=True)
    )


def withdraw(session: Session, lesson_id: uuid.UUID) -> None:
    """Let nobody see a lesson without an account any longer; its link leads nowhere, for ever."""
    session.execute(delete(PublicEdition).where(PublicEdition.lesson_id == lesson_id))


def behind(session: Session, link: str) -> PublicEdition:
    """Return what anybody may see behind a link; raises NotFoundError, also where the lesson has been deleted."""
    query = select(PublicEdition).join(Lesson, Lesson.id == PublicEdition.lesson_id)
    query = query.where(PublicEdition.link == link, Lesson.deleted_at.is_(None)).options(undefer(PublicEdition.page))
    found = session.scalar(query)
    if found is None:
        raise NotFoundError("There is no lesson behind this link, or it has been withdrawn.")
    return found
