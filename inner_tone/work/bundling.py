"""Lessons as bundles: gathered with all that they need, and put in again, here or in another town."""

import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from hashlib import sha256

from sqlalchemy import select
from sqlalchemy.orm import Session

from inner_tone.core.errors import InnerToneError
from inner_tone.core.lesson.lesson import LessonDocument, Start
from inner_tone.formats.bundle import (
    MEDIA,
    Bundle,
    BundledSample,
    BundledSound,
    images_in,
    recordings_in,
    samples_in,
    suffix_of,
    with_recordings,
)
from inner_tone.formats.series import SeriesBundle, SeriesDocument
from inner_tone.store import images, lessons, series, sources
from inner_tone.store import sounds as own_sounds
from inner_tone.store.errors import NotFoundError
from inner_tone.store.models import Account, KeptImage, Lesson, Recording, Series, Sound
from inner_tone.work.errands import SoundFacts

Facts = Mapping[str, SoundFacts]
ELSEWHERE = str(uuid.UUID(int=0))  # the lesson that one starts from which was opened from a bundle


def gathered(session: Session, lesson: Lesson) -> Bundle:
    """Return a lesson with the images and the recordings that it needs; raises InnerToneError where one is gone."""
    document, _ = lessons.document_of(session, lesson)
    sounds, keys = {}, {}
    named = samples_in(document)
    kept = own_sounds.flac_of(session, named)
    if named.keys() - kept.keys():
        gone = named[min(named.keys() - kept.keys())]
        raise InnerToneError(f"The sound “{gone}” of this lesson is gone. Let its samplers play another one first.")
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
    samples = {key: sample(session, lesson, key, called, kept[key]) for key, called in named.items()}
    return Bundle(with_recordings(document, keys), pictures, sounds, samples)


def sample(session: Session, lesson: Lesson, key: str, called: str, flac: bytes) -> BundledSample:
    """Return an own sound as a lesson takes it along: with what its author says of it, if they have it."""
    try:
        had = own_sounds.sound_as_had(session, lesson.owner, key)
    except NotFoundError:  # whoever had it has given it up; the lesson plays it still
        seconds = session.get_one(Sound, key).seconds
        return BundledSample(called, seconds, flac)
    return BundledSample(called, had.sound.seconds, flac, had.source, had.licence)


def known_in(session: Session, bundle: Bundle) -> set[str]:
    """Return the keys of what a bundle brings that is here already."""
    pictures = session.scalars(select(KeptImage.key).where(KeptImage.key.in_(bundle.images)))
    sounds = session.scalars(select(Recording.key).where(Recording.key.in_(bundle.sounds)))
    samples = session.scalars(select(Sound.key).where(Sound.key.in_(bundle.samples)))
    return {*pictures, *sounds, *samples}


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


@dataclass(frozen=True)
class Room:
    """How many minutes of recordings, and of sounds for samplers, one account may keep."""

    recordings: float
    sounds: float


def put_in(
    session: Session, owner: Account, bundle: Bundle, facts: Facts, room: Room, before: str | None = None
) -> Lesson:
    """Make a lesson of what a bundle holds, which starts from another one if that is here. Nothing here is changed.

    `facts` are what is known of its own sounds, by their keys. Raises InnerToneError where there is no room for its
    images, recordings or sounds.
    """
    for data in bundle.images.values():
        images.keep_image(session, owner.id, MEDIA[suffix_of(data)], data)
    for key, one in bundle.sounds.items():
        sources.keep_within(session, owner.id, key, one.name, one.seconds, one.flac, room.recordings)
    for key, own in bundle.samples.items():
        about = {"name": own.name, "source": own.source, "licence": own.licence}
        found = facts[key].model_dump(mode="json")
        own_sounds.keep(session, owner.id, key, own.flac, found, about, room.sounds)
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


def put_series_in(session: Session, owner: Account, bundle: SeriesBundle, facts: Facts, room: Room) -> Series:
    """Make a series of one's own of what a bundle holds, each lesson anew; raises InnerToneError as above."""
    made = series.create_series(session, owner, bundle.series.title, bundle.series.summary)
    ids: list[str] = []
    for start, one in zip(bundle.series.starts, bundle.lessons, strict=True):
        lesson = put_in(session, owner, one, facts, room, before=None if start is None else ids[start])
        series.append(session, owner, made.id, lesson)
        session.flush()
        ids.append(str(lesson.id))
    return made
