"""A database of its own for a class of tests, with an educator in it."""

import unittest
import uuid

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from inner_tone.core.lesson.step import StepContent
from inner_tone.store.accounts import EDUCATOR, create_account
from inner_tone.store.database import Sessions, sessions
from inner_tone.store.lessons import Wish, change_step
from inner_tone.store.models import Account, Step
from tests.support.database import fresh_engine

PASSWORD = "seven grey gulls"


def put(session: Session, step_id: uuid.UUID, version: int, content: StepContent) -> Step:
    """Give a step another content, as somebody does who knows it at a version."""
    _, step = change_step(session, step_id, Wish(version, lambda then: (then, content)))
    return step


class StoreTest(unittest.TestCase):
    engine: Engine
    sessions: Sessions
    owner: Account

    @classmethod
    def setUpClass(cls) -> None:
        cls.engine = fresh_engine()
        cls.sessions = sessions(cls.engine)
        cls.addClassCleanup(cls.engine.dispose)
        cls.owner = cls.account("imke")

    @classmethod
    def account(cls, sign_in: str, role: str = EDUCATOR) -> Account:
        """Make an account."""
        with cls.sessions.begin() as session:
            return create_account(session, sign_in, sign_in.title(), role, PASSWORD)
