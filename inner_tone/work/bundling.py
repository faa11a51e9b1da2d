"""Lessons as bundles: gathered with all that they need, and put in again, here or in another town."""

import uuid
from hashlib import sha256

from sqlalchemy import select
from sqlalchemy.orm import Session

from inner_tone.core.errors import InnerToneError
from inner_tone.core.lesson.lesson import LessonDocument, Start
from inner_tone.formats.bundle import MEDIA, Bundle, BundledSound, images_in, recordings_in, suffix_of, with_recordings
from inner_tone.formats.series import SeriesBundle, SeriesDocument
from inner_tone.store import images, lessons, series, sources
from inner_tone.store.errors import NotFoundError
from inner_tone.store.models import Account, KeptImage, Lesson, Recording, Series

ELSEWHERE = str(uuid.UUID(int=0))  # the lesson that one starts from which was opened from a bundle


def gathered(session: Session, lesson: Lesson) -> Bundle:
    """Return a lesson with the images and the recordings that it needs; raises InnerToneError where one is gone."""
    document, _ = lessons.document_of(session, lesson)
    sounds, keys = {}, {}
    try:
        pictures = {key: images.image(session, key).data for key in images_in(document)}
        recordings = {key: sources.recording(session, key) for key in recordings_in(document)}
    except NotFoundError as error:
        raise InnerToneError(
            "An image or a recording of this lesson is gone. Take it out of the lesson first."
        ) from error
    for key, found in recordings.items():
        keys[key] = sha256(found.flac).hexdigest()  # known by what it is, so that nobody can pass it off as another
        sounds[keys[key]] = BundledSound(found.name, found.seconds, found.flac)
    return Bundle(with_recordings(document, keys), pictures, sounds)


def known_in(session: Session, bundle: Bundle) -> set[str]:
    """Return the keys of what a bundle brings that is here already."""
    pictures = session.scalars(select(KeptImage.key).where(KeptImage.key.in_(bundle.images)))
    sounds = session.scalars(select(Recording.key).where(Recording.key.in_(bundle.sounds)))
    return {*pictures, *sounds}


def same_as(session: Session, owner_id: uuid.UUID, document: LessonDocument) -> list[Lesson]:
    """Return the lessons of somebody that are the very same as one that comes."""
    own = select(Lesson).where(Lesson.owner_id == owner_id, Lesson.title == document.title, Lesson.deleted_at.is_(None))
    return [one for one in session.scalars(own.order_by(Lesson.created_at)) if is_same(session, one, document)]


def is_same(session: Session, lesson: Lesson, document: LessonDocument) -> bool:
    """Tell whether a lesson is the very same as one that comes; one of which something is gone is not."""
    try:
        return gathered(session, lesson).lesson == document
    except InnerToneError:
        return False


def put_in(session: Session, owner: Account, bundle: Bundle, minutes: float, before: str | None = None) -> Lesson:
    """Make a lesson of what a bundle holds, which starts from another one if that is here. Nothing here is changed.

    Raises InnerToneError where there is no room for its images or recordings.
    """
    for data in bundle.images.values():
        images.keep_image(session, owner.id, MEDIA[suffix_of(data)], data)
    for key, one in bundle.sounds.items():
        sources.keep_within(session, owner.id, key, one.name, one.seconds, one.flac, minutes)
    start = Start(lesson=before or ELSEWHERE, patch=bundle.lesson.start) if bundle.lesson.start else None
    return lessons.create_lesson(session, owner.id, bundle.lesson, start)


def gathered_series(session: Session, found: Series) -> SeriesBundle:
    """Return a series with its lessons and all that they need; raises InnerToneError where something is gone."""
    inside = series.lessons_in(session, found.id)
    places = {str(one.id): place for place, one in enumerate(inside)}
    starts = tuple(
        before if (before := places.get((one.start or {}).get("lesson", ""))) is not None and before < place else None
        for place, one in enumerate(inside)
    )
    document = SeriesDocument(title=found.title, summary=found.summary, starts=starts)
    return SeriesBundle(document, tuple(gathered(session, one) for one in inside))


def put_series_in(session: Session, owner: Account, bundle: SeriesBundle, minutes: float) -> Series:
    """Make a series of one's own of what a bundle holds, each lesson anew; raises InnerToneError as above."""
    made = series.create_series(session, owner, bundle.series.title, bundle.series.summary)
    ids: list[str] = []
    for start, one in zip(bundle.series.starts, bundle.lessons, strict=True):
        lesson = put_in(session, owner, one, minutes, before=None if start is None else ids[start])
        series.append(session, owner, made.id, lesson)
        session.flush()
        ids.append(str(lesson.id))
    return made
