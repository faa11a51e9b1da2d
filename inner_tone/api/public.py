"""Editions for anyone: opened and withdrawn by those who write the lesson, seen by whoever has the link."""

import gzip
from datetime import datetime
from html import escape
from typing import Annotated, Any

from fastapi import APIRouter, Path, Request, Response
from pydantic import BaseModel, Field

from inner_tone.api.access import Me, ReadableLesson, WritableLesson, WritableLessonBriefly
from inner_tone.api.context import Database
from inner_tone.api.jobs import JobOut, TheJobs, asked
from inner_tone.api.schemas import MOST_WHOLE, Incoming
from inner_tone.api.work import takes_gzip
from inner_tone.formats.onefile import POLICY
from inner_tone.store import editions
from inner_tone.store import public as store
from inner_tone.store.errors import NotFoundError
from inner_tone.work.opening import Opening

router = APIRouter(prefix="/api/lessons/{lesson_id}/public", tags=["public"])
pages = APIRouter(prefix="/open", tags=["public"])

# the page has nothing of ours within its reach: it is as if it came from another site
TOLD = {
    "content-security-policy": f"{POLICY}; frame-ancestors 'none'; sandbox allow-scripts allow-popups",
    "vary": "accept-encoding",
    "cache-control": "no-cache",
}


NOTHING = """<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Inner Tone</title>
<meta name="viewport" content="width=device-width"><meta name="robots" content="noindex"></head>
<body style="font: 18px/1.5 Georgia, serif; max-width: 32em; margin: 20vh auto; padding: 0 1em; color: #1c2830">
<h1>Inner Tone</h1><p>{said}</p></body></html>
"""


PAGE: dict[str, Any] = {"description": "A page that says so.", "content": {"text/html": {}}, "model": None}


class PublicOut(BaseModel):
    """The edition that anybody may see, and by which link."""

    number: int
    link: str
    since: datetime


class OpenWish(Incoming):
    """An edition is to be opened to anyone."""

    number: Annotated[int, Field(ge=1, le=MOST_WHOLE)]


@router.get("")
def get_public(session: Database, lesson_id: ReadableLesson) -> PublicOut | None:
    """Return the edition of a lesson that anybody may see, if there is one."""
    found = store.open_of(session, lesson_id)
    return PublicOut.model_validate(found, from_attributes=True) if found else None


@router.post("", status_code=202)
async def open_edition(jobs: TheJobs, me: Me, lesson_id: WritableLessonBriefly, wish: OpenWish) -> JobOut:
    """Open an edition to anyone, as a job; one that was open before goes."""
    await jobs.node.stored(lambda session: editions.edition_of(session, lesson_id, wish.number))
    wanted = Opening(lesson_id=lesson_id, number=wish.number)
    return await asked(jobs, me.id, "open", "A lesson for anyone", wanted.model_dump(mode="json"))


@router.delete("", status_code=204)
def withdraw(session: Database, lesson_id: WritableLesson) -> None:
    """Withdraw what anybody may see; its link leads nowhere from then on."""
    store.withdraw(session, lesson_id)


@pages.get("/{link}", response_class=Response, responses={200: {"content": {"text/html": {}}}, 404: PAGE})
def get_page(request: Request, session: Database, link: Annotated[str, Path(max_length=100)]) -> Response:
    """Return a lesson that anybody may see, as a page by itself."""
    try:
        page = store.behind(session, link).page
    except NotFoundError as error:
        told = NOTHING.format(said=escape(str(error)))
        return Response(told, 404, media_type="text/html; charset=utf-8", headers=TOLD)
    body, packed = (page, {"content-encoding": "gzip"}) if takes_gzip(request) else (gzip.decompress(page), {})
    return Response(body, media_type="text/html; charset=utf-8", headers=TOLD | packed)
