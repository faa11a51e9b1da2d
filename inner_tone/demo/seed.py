"""Puts the demo lessons into a database that has none yet."""

from sqlalchemy import select

from inner_tone.demo import foghorn
from inner_tone.store import lessons
from inner_tone.store.database import Sessions
from inner_tone.store.models import Lesson


def seed(sessions: Sessions) -> None:
    """Add the demo lessons, once: what is changed or deleted later stays so."""
    with sessions.begin() as session:
        if session.scalar(select(Lesson.id).limit(1)) is None:
            lessons.create_lesson(session, foghorn.TITLE, foghorn.SUMMARY, foghorn.STEPS)
