"""Live fields: what the fields of a step's texts read, given its patch and its phrase."""

from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel

from inner_tone.api.charts import sounds_of
from inner_tone.api.context import TheStudio
from inner_tone.api.schemas import Incoming
from inner_tone.core.lesson.fields import fields_in, link_of, links_offered, offered, tap_of, texts_of, value_of
from inner_tone.core.lesson.step import StepContent
from inner_tone.core.patch.validate import checked_patch
from inner_tone.core.phrase import checked_phrase

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
def read_fields(studio: TheStudio, wish: FieldsWish) -> FieldsOut:
    """Return what the fields of a step's texts read; only what is measured is rendered."""
    step = wish.content
    patch, phrase = checked_patch(step.patch), checked_phrase(step.phrase)
    fields = list(dict.fromkeys(field for text in texts_of(step) for field in fields_in(text)))
    links = {field: link for field in fields if (link := link_of(field, step))}
    taps = {tap for field in fields if (tap := tap_of(field, patch))}
    sounds = sounds_of(studio, patch, phrase, taps) if taps else {}
    return FieldsOut(
        values={field: value_of(field, step, sounds) for field in fields if field not in links},
        links={field: LinkOut(kind=link.kind, id=link.id, text=link.text) for field, link in links.items()},
        offered=offered(patch) if wish.offer else [],
        links_offered=links_offered(step) if wish.offer else [],
    )
