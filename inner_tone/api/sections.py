"""The personal list of sections that are kept for reuse."""

import uuid
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from inner_tone.api.access import Educator
from inner_tone.api.context import Database
from inner_tone.api.schemas import Incoming
from inner_tone.core.patch.edit import fragment, section_in
from inner_tone.core.patch.model import Name, Patch
from inner_tone.core.patch.validate import checked_patch
from inner_tone.store import sections as store
from inner_tone.store.models import KeptSection

router = APIRouter(prefix="/api/sections", tags=["sections"])


class SectionWish(Incoming):
    """A section of a patch that is to be kept."""

    patch: Patch
    section: Annotated[Name, Field(description="the section's id")]


class SectionOut(BaseModel):
    """A kept section: its name, and the fragment to paste."""

    id: uuid.UUID
    label: str
    fragment: Patch


def section_out(kept: KeptSection) -> SectionOut:
    """Return a kept section for the wire."""
    return SectionOut(id=kept.id, label=kept.label, fragment=Patch.model_validate(kept.fragment))


@router.get("")
def list_sections(session: Database, me: Educator) -> list[SectionOut]:
    """Return the sections that one has kept."""
    return [section_out(kept) for kept in store.sections_of(session, me.id)]


@router.post("", status_code=201)
def keep_section(session: Database, me: Educator, wish: SectionWish) -> SectionOut:
    """Keep a section for reuse."""
    section = section_in(checked_patch(wish.patch), wish.section)
    part = fragment(wish.patch, section.modules)
    return section_out(store.keep_section(session, me.id, section.label, part.to_json()))


@router.delete("/{section_id}", status_code=204)
def forget_section(session: Database, me: Educator, section_id: uuid.UUID) -> None:
    """Take a section off the list."""
    store.forget_section(session, me.id, section_id)
