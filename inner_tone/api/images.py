"""Images that are taken into texts."""

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel
from starlette.concurrency import run_in_threadpool

from inner_tone.api.access import Educator, Me
from inner_tone.api.context import Database
from inner_tone.formats.image import ImageError, read_image
from inner_tone.store import images

router = APIRouter(prefix="/api/images", tags=["images"])

MOST_BYTES = 12 * 1024 * 1024


class ImageOut(BaseModel):
    """An image that is kept: its key, and how many pixels it has."""

    key: str
    width: int
    height: int


@router.post("", status_code=201)
async def add_image(request: Request, session: Database, me: Educator) -> ImageOut:
    """Keep an image, sent as it is, made small enough for a page."""
    if int(request.headers.get("content-length", 0)) > MOST_BYTES:
        raise ImageError(f"The file has more than {MOST_BYTES // 1024**2} megabytes. Make it smaller first.")
    data = await request.body()

    def kept() -> ImageOut:
        picture = read_image(data)
        key = images.keep_image(session, me.id, picture.media_type, picture.data)
        return ImageOut(key=key, width=picture.width, height=picture.height)

    return await run_in_threadpool(kept)


@router.get("/{key}", response_class=Response, responses={200: {"content": {"image/png": {}, "image/jpeg": {}}}})
def get_image(session: Database, me: Me, key: str) -> Response:
    """Return an image."""
    found = images.image(session, key)
    headers = {"Cache-Control": "private, max-age=31536000, immutable", "X-Content-Type-Options": "nosniff"}
    return Response(found.data, media_type=found.media_type, headers=headers)
