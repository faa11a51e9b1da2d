"""Images that are taken into texts."""

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel

from inner_tone.api.access import Educator, Me
from inner_tone.api.context import Database
from inner_tone.api.received import received
from inner_tone.api.work import TheWork
from inner_tone.store import images
from inner_tone.work import errands

router = APIRouter(prefix="/api/images", tags=["images"])

MOST_BYTES = 12 * 1024 * 1024
TOO_LARGE = f"The file has more than {MOST_BYTES // 1024**2} megabytes. Make it smaller first."


class ImageOut(BaseModel):
    """An image that is kept: its key, and how many pixels it has."""

    key: str
    width: int
    height: int


@router.post("", status_code=201)
async def add_image(request: Request, work: TheWork, me: Educator) -> ImageOut:
    """Keep an image, sent as it is, made small enough for a page."""
    picture = await work.do(errands.taken_image, await received(request, MOST_BYTES, TOO_LARGE))
    key = await work.stored(lambda session: images.keep_image(session, me.id, picture.media_type, picture.data))
    return ImageOut(key=key, width=picture.width, height=picture.height)


@router.get("/{key}", response_class=Response, responses={200: {"content": {"image/png": {}, "image/jpeg": {}}}})
def get_image(session: Database, me: Me, key: str) -> Response:
    """Return an image."""
    found = images.image(session, key)
    headers = {"Cache-Control": "private, max-age=31536000, immutable", "X-Content-Type-Options": "nosniff"}
    return Response(found.data, media_type=found.media_type, headers=headers)
