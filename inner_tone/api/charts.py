"""Charts: pictures made from recipes, their files, the sound of a tap, and the plates that are made from them."""

from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel, Field

from inner_tone.api.schemas import Incoming
from inner_tone.api.work import TheWork, Work, unpacked
from inner_tone.core.lens.recipe import Recipe
from inner_tone.core.lens.strip import FEWEST, MOST, values_for
from inner_tone.core.lesson import plate as rules
from inner_tone.core.lesson.plate import Plate
from inner_tone.core.patch.model import Name, Patch, Setting
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.validate import checked_patch
from inner_tone.core.phrase import Phrase
from inner_tone.work import errands
from inner_tone.work.answers import DrawnOut
from inner_tone.work.errands import Files, PictureFormat, SoundFormat

router = APIRouter(prefix="/api/charts", tags=["charts"])

MEDIA = {"svg": "image/svg+xml", "png": "image/png", "csv": "text/csv; charset=utf-8"}


class PictureWish(Incoming):
    """A picture that is to become a file, with its caption."""

    recipe: Recipe
    caption: Annotated[str, Field(max_length=2_000)] = ""


class SoundWish(Incoming):
    """A tap whose sound is to become a file."""

    patch: Patch
    phrase: Phrase
    tap: Port


class ValuesWish(Incoming):
    """A setting for which a strip's values are looked for."""

    patch: Patch
    module: Name
    setting: str
    count: Annotated[int, Field(ge=FEWEST, le=MOST)] = 5


class ValuesOut(BaseModel):
    """Values that show well what a setting does."""

    values: list[Setting]


class RefreshWish(Incoming):
    """A plate, and the patch and the phrase that its step has now."""

    plate: Plate
    patch: Patch
    phrase: Phrase


@router.post("", response_model=DrawnOut)
async def draw(request: Request, work: TheWork, wish: Recipe) -> Response:
    """Return what a recipe makes."""
    asked = wish.model_dump_json().encode()
    return await unpacked(request, await work.once(asked, None, errands.drawn, wish, await files_for(work, wish)))


async def files_for(work: Work, recipe: Recipe) -> Files:
    """Return the recordings that a recipe names."""
    return await work.files([recipe.behind.recording if recipe.behind else None])


@router.post("/picture", response_class=Response, responses={200: {"content": {"image/svg+xml": {}}}})
async def picture_file(work: TheWork, wish: PictureWish, format: Annotated[PictureFormat, Query()] = "svg") -> Response:
    """Return a picture as a file, in a print style with its caption, or its numbers."""
    files = await files_for(work, wish.recipe)
    data = await work.do(errands.pictured, wish.recipe, wish.caption, format, files)
    return Response(data, media_type=MEDIA[format])


@router.post("/sound", response_class=Response, responses={200: {"content": {"audio/wav": {}}}})
async def sound_file(work: TheWork, wish: SoundWish, format: Annotated[SoundFormat, Query()] = "wav") -> Response:
    """Return the sound of a tap as a file."""
    data = await work.do(errands.tapped, wish.patch, wish.phrase, wish.tap, format)
    return Response(data, media_type=f"audio/{format}")


@router.post("/values")
def strip_values(wish: ValuesWish) -> ValuesOut:
    """Return values of a setting for a strip."""
    return ValuesOut(values=values_for(checked_patch(wish.patch), wish.module, wish.setting, wish.count))


@router.post("/refreshed")
async def refreshed(work: TheWork, wish: RefreshWish) -> Plate:
    """Return a plate made anew from its step as it is now."""
    recipe = wish.plate.recipe.model_copy(update={"patch": wish.patch, "phrase": wish.phrase})
    sentence = await work.do(errands.said_of_plate, recipe, await files_for(work, recipe))
    return rules.refreshed(wish.plate, wish.patch, wish.phrase, sentence)
