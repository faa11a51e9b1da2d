"""Lessons as bundles: gathered with all that they need, and put in again, here or in another town."""

import uuid
from hashlib import sha256

from sqlalchemy import select
from sqlalchemy.orm import Session

from inner_tone.core.errors import InnerToneError
from inner_tone.core.lesson.lesson import LessonDocument, Start
from inner_tone.formats.bundle import MEDIA, Bundle, BundledSound, images_in, recordings_in, suffix_of, with_recordings
from inner_tone.store import images, lessons, sources
from inner_tone.store.errors import NotFoundError
from inner_tone.store.models import Account, KeptImage, Lesson, Recording

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


def put_in(session: Session, owner: Account, bundle: Bundle, minutes: float) -> Lesson:
    """Make a lesson of what a bundle holds. Nothing that is here already is changed.

    Raises InnerToneError where there is no room for its images or recordings.
    """
    for data in bundle.images.values():
        images.keep_image(session, owner.id, MEDIA[suffix_of(data)], data)
    for key, one in bundle.sounds.items():
        sources.keep_within(session, owner.id, key, one.name, one.seconds, one.flac, minutes)
    start = Start(lesson=ELSEWHERE, patch=bundle.lesson.start) if bundle.lesson.start else None
    return lessons.create_lesson(session, owner.id, bundle.lesson, start)
