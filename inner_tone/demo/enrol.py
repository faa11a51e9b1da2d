"""Puts the course into the demo: its bundles, opened as any other, published, each lesson with its target first."""

from collections.abc import Callable
from datetime import datetime, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from inner_tone.demo.course.build import BUNDLES, SERIES
from inner_tone.demo.seed import MAREN, present
from inner_tone.formats.audio import samples_of
from inner_tone.formats.series import SeriesBundle, opened_any
from inner_tone.store import editions, lessons
from inner_tone.store.database import Sessions
from inner_tone.store.models import Series, now
from inner_tone.store.series import lessons_in
from inner_tone.work.bundling import Room, put_series_in
from inner_tone.work.errands import facts_of

NOTES = "The first edition."
REASON = "What the checkup finds here is shown on purpose, and the text speaks of it."
ROOM = Room(recordings=60.0, sounds=60.0)


def enrol(sessions: Sessions, is_over: Callable[[], bool] = lambda: False) -> None:
    """Add the series of the course, each once and until it is over: what is changed or deleted later stays so."""
    for number, (title, _) in SERIES.items():
        if is_over():
            return
        file = BUNDLES / f"series-{number}.zip"
        with sessions.begin() as session:
            if session.scalar(select(Series.id).where(Series.title == title).limit(1)) is None:
                put_in(session, file.read_bytes(), now() - timedelta(days=int(number)))


def put_in(session: Session, data: bytes, changed: datetime) -> None:
    """Add a series that is a bundle, changed last at some time, and publish its lessons."""
    bundle = opened_any(data)
    assert isinstance(bundle, SeriesBundle)
    samples = {key: one.flac for lesson in bundle.lessons for key, one in lesson.samples.items()}
    facts = {key: facts_of(samples_of(flac)) for key, flac in samples.items()}
    maren = present(session, MAREN)
    made = put_series_in(session, maren, bundle, facts, ROOM)
    for lesson in lessons_in(session, made.id):
        document, _ = lessons.document_of(session, lesson)
        editions.publish(session, lesson.id, document, maren.id, NOTES, REASON)
        lesson.updated_at = changed  # what the demo is opened with stands first on the shelf
