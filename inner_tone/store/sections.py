"""Sections that have been kept for reuse: the personal list."""

import uuid
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from inner_tone.store.errors import NotFoundError
from inner_tone.store.models import KeptSection


def sections_of(session: Session, owner_id: uuid.UUID) -> list[KeptSection]:
    """Return the sections that somebody has kept, by name."""
    query = select(KeptSection).where(KeptSection.owner_id == owner_id)
    return list(session.scalars(query.order_by(KeptSection.label, KeptSection.created_at)))


def keep_section(session: Session, owner_id: uuid.UUID, label: str, fragment: dict[str, Any]) -> KeptSection:
    """Keep a section; one of the same name stays beside it."""
    kept = KeptSection(owner_id=owner_id, label=label, fragment=fragment)
    session.add(kept)
    session.flush()
    return kept


def forget_section(session: Session, owner_id: uuid.UUID, section_id: uuid.UUID) -> None:
    """Take a section off somebody's list; raises NotFoundError."""
    found = session.get(KeptSection, section_id)
    if found is None or found.owner_id != owner_id:
        raise NotFoundError("There is no such section on the list any longer.")
    session.delete(found)
