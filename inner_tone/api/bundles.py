"""Bundles that are opened again: what they would bring, and bringing it."""

import uuid

from fastapi import APIRouter, Request
from pydantic import BaseModel
from sqlalchemy.orm import Session

from inner_tone.api.access import Educator
from inner_tone.api.received import received
from inner_tone.api.work import TheWork
from inner_tone.formats.bundle import MOST_BYTES, Bundle
from inner_tone.formats.series import SeriesBundle
from inner_tone.store.models import Account
from inner_tone.store.series import lessons_in
from inner_tone.work import bundling as store
from inner_tone.work import errands

router = APIRouter(prefix="/api/bundles", tags=["bundles"])

TOO_LARGE = f"The file has more than {MOST_BYTES // 1024**2} megabytes; no bundle is that large."


class BundledStepOut(BaseModel):
    """A step of a bundle: its title, and whether it is left out of the short edition."""

    title: str
    extra: bool


class BundledSoundOut(BaseModel):
    """A recording, or a sound for samplers, in a bundle."""

    name: str
    seconds: float


class SameOut(BaseModel):
    """A lesson of one's own that is the very same."""

    id: uuid.UUID
    title: str


class BundleOut(BaseModel):
    """A lesson that a bundle would bring, its images and recordings, and how many of those are here already."""

    title: str
    summary: str
    steps: list[BundledStepOut]
    images: int
    sounds: list[BundledSoundOut]
    known: int
    same: list[SameOut]


class PreviewOut(BaseModel):
    """What a bundle would bring: a lesson, or a series (by its title) of several."""

    series: str | None
    lessons: list[BundleOut]


class OpenedOut(BaseModel):
    """What a bundle has brought: its lessons, and the series that they are in."""

    series: uuid.UUID | None
    lessons: list[uuid.UUID]


def lesson_out(session: Session, me: Account, bundle: Bundle) -> BundleOut:
    """Return what a lesson would bring, for the wire."""
    return BundleOut(
        title=bundle.lesson.title,
        summary=bundle.lesson.summary,
        steps=[BundledStepOut(title=step.title, extra=step.extra) for step in bundle.lesson.steps],
        images=len(bundle.images),
        sounds=[
            BundledSoundOut(name=one.name, seconds=one.seconds)
            for one in (*bundle.sounds.values(), *bundle.samples.values())
        ],
        known=len(store.known_in(session, bundle)),
        same=[SameOut(id=one.id, title=one.title) for one in store.same_as(session, me.id, bundle.lesson)],
    )


@router.post("/preview")
async def preview(request: Request, work: TheWork, me: Educator) -> PreviewOut:
    """Return what a bundle would bring; nothing is kept."""
    found = (await work.do(errands.unbundled, await received(request, MOST_BYTES, TOO_LARGE))).found
    title, lessons = (found.series.title, found.lessons) if isinstance(found, SeriesBundle) else (None, (found,))

    def looked_up(session: Session) -> PreviewOut:
        return PreviewOut(series=title, lessons=[lesson_out(session, me, one) for one in lessons])

    return await work.stored(looked_up)


@router.post("", status_code=201)
async def open_bundle(request: Request, work: TheWork, me: Educator) -> OpenedOut:
    """Make lessons of one's own of what a bundle holds, in a series if it is one; what is here stays as it is."""
    brought = await work.do(errands.unbundled, await received(request, MOST_BYTES, TOO_LARGE))
    found, facts = brought.found, brought.facts
    room = store.Room(work.settings.recording_minutes, work.settings.sound_minutes)

    def put_in(session: Session) -> OpenedOut:
        if not isinstance(found, SeriesBundle):
            return OpenedOut(series=None, lessons=[store.put_in(session, me, found, facts, room).id])
        made = store.put_series_in(session, me, found, facts, room)
        return OpenedOut(series=made.id, lessons=[one.id for one in lessons_in(session, made.id)])

    return await work.stored(put_in)
