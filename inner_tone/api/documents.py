"""Patches and phrases as files of their own: read and checked as they are sent; nothing is kept."""

import json

from fastapi import APIRouter, Request
from pydantic import BaseModel

from inner_tone.api.received import received
from inner_tone.core.errors import InnerToneError
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.validate import read_patch
from inner_tone.core.phrase import Phrase, read_phrase

router = APIRouter(prefix="/api/documents", tags=["documents"])

MOST_BYTES = 8 * 1024 * 1024
TOO_LARGE = f"The file has more than {MOST_BYTES // 1024**2} megabytes; no patch or phrase is that large."
KINDS = {
    "inner-tone/lesson": "This is a lesson. Lessons are opened from the shelf, as bundles.",
    "": "This is JSON, but neither a patch nor a phrase of Inner Tone: it does not say its format.",
}


class DocumentOut(BaseModel):
    """What a file is: a patch, or a phrase."""

    patch: Patch | None = None
    phrase: Phrase | None = None


@router.post("/opened")
async def open_document(request: Request) -> DocumentOut:
    """Return the patch or the phrase that a file holds, checked; raises InnerToneError, with places where there are."""
    data = read_json(await received(request, MOST_BYTES, TOO_LARGE))
    form = data.get("format", "") if isinstance(data, dict) else ""
    if form == "inner-tone/patch":
        return DocumentOut(patch=read_patch(data))
    if form == "inner-tone/phrase":
        return DocumentOut(phrase=read_phrase(data))
    raise InnerToneError(KINDS.get(str(form)[:40]) or KINDS[""])


def read_json(data: bytes) -> object:
    """Return what a file holds as JSON; raises InnerToneError."""
    try:
        found: object = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise InnerToneError("This file is not JSON, or it is damaged or nested too deep to be meant.") from error
    return found
