"""Puts the demo lessons into a database that has none yet, and the accounts that own and follow them."""

from sqlalchemy import select
from sqlalchemy.orm import Session

from inner_tone.api.accounts import DemoAccount
from inner_tone.core.lesson.lesson import Start
from inner_tone.demo import bell, evening, fog, foghorn
from inner_tone.store import accounts, editions, lessons, series
from inner_tone.store.database import Sessions
from inner_tone.store.models import Account, Lesson, now

MAREN = DemoAccount(sign_in="maren", name="Maren Holt", role="educator", password="harbour light")
JONAS = DemoAccount(sign_in="jonas", name="Jonas Lind", role="learner", password="harbour bell")
ACCOUNTS = (MAREN, JONAS)

SERIES = "The sounds of the harbour"
SERIES_SUMMARY = (
    "An evening class on what is heard in Saltmarsh when one stands on the mole. Each lesson goes on where the last "
    "one ended."
)
FOGHORN_REASON = "The first three steps show on purpose what is missing: an end, a way through, a soft edge."
BELL_REASON = "The first two steps show on purpose what is missing."


def seed(sessions: Sessions) -> None:
    """Add the demo lessons, once: what is changed or deleted later stays so."""
    with sessions.begin() as session:
        maren, _ = (present(session, one) for one in ACCOUNTS)
        if session.scalar(select(Lesson.id).limit(1)) is None:
            horn = harbour(session, maren)
            evening.put_in(session, maren, horn, foghorn.LESSON)


def harbour(session: Session, maren: Account) -> Lesson:
    """Add the lessons of the harbour, two of a series and one by itself; returns the first."""
    bell_lesson = lessons.create_lesson(session, maren.id, bell.LESSON)
    horn = lessons.create_lesson(session, maren.id, foghorn.LESSON)
    start = Start(lesson=str(horn.id), patch=foghorn.DISTANT)
    later = lessons.create_lesson(session, maren.id, fog.LESSON, start)
    made = series.create_series(session, maren, SERIES, SERIES_SUMMARY)
    for lesson in (horn, later):
        series.append(session, maren, made.id, lesson)
    editions.publish(session, horn.id, foghorn.LESSON, maren.id, "The first edition.", FOGHORN_REASON)
    editions.publish(session, bell_lesson.id, bell.LESSON, maren.id, "The first edition.", BELL_REASON)
    horn.updated_at = now()  # the foghorn stands first on the shelf
    return horn


def present(session: Session, demo: DemoAccount) -> Account:
    """Return an account of the demo, made if it is not there yet."""
    found = accounts.account_called(session, demo.sign_in)
    return found or accounts.create_account(session, demo.sign_in, demo.name, demo.role, demo.password)
