"""Charts: pictures made from recipes, their files, the sound of a tap, and the plates that are made from them."""

from collections.abc import Collection
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Query, Request, Response
from pydantic import BaseModel, Field

from inner_tone.api.context import TheStudio
from inner_tone.api.recordings import recorded
from inner_tone.api.schemas import Incoming
from inner_tone.api.studio import Studio
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.lens.chart import Chart
from inner_tone.core.lens.recipe import Recipe, Recordings, charts, sentence
from inner_tone.core.lens.strip import FEWEST, MOST, values_for
from inner_tone.core.lesson import plate as rules
from inner_tone.core.lesson.plate import Plate
from inner_tone.core.patch.model import Name, Patch, Setting
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.validate import checked_patch
from inner_tone.core.phrase import Phrase, checked_phrase
from inner_tone.formats.audio import flac_bytes, wav_bytes

router = APIRouter(prefix="/api/charts", tags=["charts"])

PictureFormat = Literal["svg", "png", "csv"]
SoundFormat = Literal["wav", "flac"]
MEDIA = {"svg": "image/svg+xml", "png": "image/png", "csv": "text/csv; charset=utf-8"}


class DrawnOut(BaseModel):
    """What a recipe makes: one chart, or those of a strip, and the sentence that says what they show."""

    charts: list[Chart]
    sentence: str


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


def sounds_of(studio: Studio, patch: Patch, phrase: Phrase, taps: Collection[str]) -> dict[str, Sound]:
    """Return the sounds of some taps, as the studio remembers or renders them."""
    take = studio.take(patch, phrase, taps)
    return {tap: take.sounds[tap] for tap in taps}


def recordings_of(request: Request) -> Recordings:
    """Return what finds the recordings that recipes name."""
    return lambda key: recorded(request.app.state.sessions, key)


TheRecordings = Annotated[Recordings, Depends(recordings_of)]


def picture_of(studio: Studio, recordings: Recordings, recipe: Recipe) -> list[Chart]:
    """Return the charts of a recipe; raises InnerToneError."""
    checked_patch(recipe.patch)
    checked_phrase(recipe.phrase)
    if recipe.behind and recipe.behind.patch:
        checked_patch(recipe.behind.patch)
    return charts(recipe, lambda patch, phrase, taps: sounds_of(studio, patch, phrase, taps), recordings)


@router.post("")
def draw(studio: TheStudio, recordings: TheRecordings, wish: Recipe) -> DrawnOut:
    """Return what a recipe makes."""
    shown = picture_of(studio, recordings, wish)
    return DrawnOut(charts=shown, sentence=sentence(wish, shown))


@router.post("/picture", response_class=Response, responses={200: {"content": {"image/svg+xml": {}}}})
def picture_file(
    studio: TheStudio, recordings: TheRecordings, wish: PictureWish, format: Annotated[PictureFormat, Query()] = "svg"
) -> Response:
    """Return a picture as a file, in a print style with its caption, or its numbers."""
    from inner_tone.formats import numbers, picture  # noqa: PLC0415 - the drawing library takes time to load

    shown = picture_of(studio, recordings, wish.recipe)
    if format == "csv":
        data = numbers.csv_bytes(shown)
    else:
        data = (picture.svg if format == "svg" else picture.png)(shown, wish.caption)
    return Response(data, media_type=MEDIA[format])


@router.post("/sound", response_class=Response, responses={200: {"content": {"audio/wav": {}}}})
def sound_file(studio: TheStudio, wish: SoundWish, format: Annotated[SoundFormat, Query()] = "wav") -> Response:
    """Return the sound of a tap as a file."""
    take = studio.take(checked_patch(wish.patch), checked_phrase(wish.phrase), {wish.tap})
    signal, rate = take.sounds[wish.tap].signal, take.render.rate
    if format == "wav":
        return Response(wav_bytes(signal, rate), media_type="audio/wav")
    return Response(flac_bytes(signal, rate), media_type="audio/flac")


@router.post("/values")
def strip_values(wish: ValuesWish) -> ValuesOut:
    """Return values of a setting for a strip."""
    return ValuesOut(values=values_for(checked_patch(wish.patch), wish.module, wish.setting, wish.count))


@router.post("/refreshed")
def refreshed(studio: TheStudio, recordings: TheRecordings, wish: RefreshWish) -> Plate:
    """Return a plate made anew from its step as it is now."""
    recipe = wish.plate.recipe.model_copy(update={"patch": wish.patch, "phrase": wish.phrase})
    said = sentence(recipe, picture_of(studio, recordings, recipe))
    return rules.refreshed(wish.plate, wish.patch, wish.phrase, said)
