"""Bundles that are opened again: what they would bring, and bringing it."""

import uuid

from fastapi import APIRouter, Request
from pydantic import BaseModel
from sqlalchemy.orm import Session

from inner_tone.api.access import Educator
from inner_tone.api.received import received
from inner_tone.api.schemas import LessonOut
from inner_tone.api.shown import at_the_desk
from inner_tone.api.work import TheWork
from inner_tone.formats.bundle import MOST_BYTES, Bundle
from inner_tone.work import bundling as store
from inner_tone.work import errands

router = APIRouter(prefix="/api/bundles", tags=["bundles"])

TOO_LARGE = f"The file has more than {MOST_BYTES // 1024**2} megabytes; no bundle is that large."


class BundledStepOut(BaseModel):
    """A step of a bundle: its title, and whether it is left out of the short edition."""

    title: str
    extra: bool


class BundledSoundOut(BaseModel):
    """A recording in a bundle."""

    name: str
    seconds: float


class SameOut(BaseModel):
    """A lesson of one's own that is the very same."""

    id: uuid.UUID
    title: str


class BundleOut(BaseModel):
    """What a bundle would bring: a lesson, its images and recordings, and how many of those are here already."""

    title: str
    summary: str
    steps: list[BundledStepOut]
    images: int
    sounds: list[BundledSoundOut]
    known: int
    same: list[SameOut]


@router.post("/preview")
async def preview(request: Request, work: TheWork, me: Educator) -> BundleOut:
    """Return what a bundle would bring; nothing is kept."""
    bundle = await work.do(errands.unbundled, await received(request, MOST_BYTES, TOO_LARGE))

    def looked_up(session: Session) -> BundleOut:
        return BundleOut(
            title=bundle.lesson.title,
            summary=bundle.lesson.summary,
            steps=[BundledStepOut(title=step.title, extra=step.extra) for step in bundle.lesson.steps],
            images=len(bundle.images),
            sounds=[BundledSoundOut(name=one.name, seconds=one.seconds) for one in bundle.sounds.values()],
            known=len(store.known_in(session, bundle)),
            same=[SameOut(id=one.id, title=one.title) for one in store.same_as(session, me.id, bundle.lesson)],
        )

    return await work.stored(looked_up)


@router.post("", status_code=201)
async def open_bundle(request: Request, work: TheWork, me: Educator) -> LessonOut:
    """Make a lesson of one's own of what a bundle holds; what is here already stays as it is."""
    bundle: Bundle = await work.do(errands.unbundled, await received(request, MOST_BYTES, TOO_LARGE))

    def put_in(session: Session) -> LessonOut:
        made = store.put_in(session, me, bundle, work.settings.recording_minutes)
        return at_the_desk(session, me, made)

    return await work.stored(put_in)
