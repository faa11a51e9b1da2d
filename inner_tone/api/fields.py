"""Live fields: what the fields of a step's texts read, given its patch and its phrase."""

from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel

from inner_tone.api.schemas import Incoming
from inner_tone.api.work import TheWork
from inner_tone.core.lesson.fields import links_offered, offered
from inner_tone.core.lesson.step import StepContent
from inner_tone.core.patch.validate import checked_patch
from inner_tone.core.phrase import checked_phrase
from inner_tone.work import errands

router = APIRouter(prefix="/api/fields", tags=["fields"])


class FieldsWish(Incoming):
    """A step whose texts' fields are to be read; with `offer`, all that could be named is wanted too."""

    content: StepContent
    offer: bool = False


class LinkOut(BaseModel):
    """What a link in a text leads to, and how it reads."""

    kind: Literal["plate", "detour", "module", "mark"]
    id: str
    text: str


class FieldsOut(BaseModel):
    """What each field reads or leads to, nothing where it means nothing; and what could be named."""

    values: dict[str, str | None]
    links: dict[str, LinkOut]
    offered: list[str]
    links_offered: list[str]


@router.post("")
async def read_fields(work: TheWork, wish: FieldsWish) -> FieldsOut:
    """Return what the fields of a step's texts read; only what is measured is rendered."""
    checked_patch(wish.content.patch)
    checked_phrase(wish.content.phrase)
    read = await work.do(errands.read_fields, wish.content)
    return FieldsOut(
        values=read.values,
        links={field: LinkOut(kind=link.kind, id=link.id, text=link.text) for field, link in read.links.items()},
        offered=offered(wish.content.patch) if wish.offer else [],
        links_offered=links_offered(wish.content) if wish.offer else [],
    )
