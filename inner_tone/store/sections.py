"""Sections that have been kept for reuse: the personal list."""

import uuid
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from inner_tone.store.lessons import NotFoundError
from inner_tone.store.models import KeptSection


def all_sections(session: Session) -> list[KeptSection]:
    """Return the kept sections by name."""
    return list(session.scalars(select(KeptSection).order_by(KeptSection.label, KeptSection.created_at)))


def keep_section(session: Session, label: str, fragment: dict[str, Any]) -> KeptSection:
    """Keep a section; one of the same name stays beside it."""
    kept = KeptSection(label=label, fragment=fragment)
    session.add(kept)
    session.flush()
    return kept


def forget_section(session: Session, section_id: uuid.UUID) -> None:
    """Take a section off the list; raises NotFoundError."""
    found = session.get(KeptSection, section_id)
    if found is None:
        raise NotFoundError("There is no such section on the list any longer.")
    session.delete(found)
