"""The application in a process of its own, that can be killed and started again; and a part of one for some tests."""

import os
import select
import signal
import socket
import unittest
import uuid
from functools import cache, partial
from pathlib import Path
from typing import Any

import httpx
from sqlalchemy.orm import Session

from inner_tone.api.access import COOKIE, TOKEN_HEADER, page_token
from inner_tone.api.accounts import DemoAccount
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.demo import evening, foghorn
from inner_tone.demo.seed import JONAS, MAREN, harbour
from inner_tone.store.accounts import account_called, begin_sign_in, create_account
from inner_tone.store.database import Sessions, connect, sessions
from inner_tone.store.lessons import create_lesson
from inner_tone.store.models import Account, Lesson
from inner_tone.work.template import Template
from tests.support import plain
from tests.support.database import DEMO, fresh_url, world_url
from tests.support.lasting import LASTING
from tests.support.nursery import serve_and_tell

ROOT = Path(__file__).resolve().parents[2]
START_S, END_S = 90.0, 20.0


@cache
def nursery() -> Template:
    """Return the process that applications are forked from: begun before this one has threads and connections."""
    template = Template()
    template.start()
    LASTING.callback(template.stop)
    return template


class Place:
    """Where there is an application: its address and its database, and ways to it for whoever has an account."""

    database: str
    address: str

    def __init__(self) -> None:
        self.tokens: dict[str, str] = {}

    def called(self, who: DemoAccount) -> str:
        """Return the name by which somebody signs in here."""
        return who.sign_in

    def sessions(self) -> Sessions:
        """Return a way to the database; its connections end with the process."""
        return sessions_of(self.database)

    def client(self, who: DemoAccount | None = MAREN) -> httpx.Client:
        """Return somebody's way to the application, signed in unless it is nobody."""
        if who is None:
            return plain.client(base_url=self.address, timeout=60)
        name = self.called(who)
        token = self.tokens.get(name)
        if token is None or not is_signed_in(self.address, token):
            token = self.tokens[name] = self.sign_in(who)
        return client_with(self.address, token)

    def lesson_called(self, title: str) -> str:
        """Return the id of a lesson of the demo's educator."""
        with self.client() as client:
            return str({one["title"]: one["id"] for one in client.get("/api/lessons").json()}[title])

    def know(self, who: DemoAccount) -> None:
        """See to it that somebody has an account."""
        with self.sessions().begin() as session:
            name = self.called(who)
            if account_called(session, name) is None:
                create_account(session, name, who.name, who.role, who.password)

    def sign_in(self, who: DemoAccount) -> str:
        """Sign somebody in who may have no account yet; returns the token."""
        self.know(who)
        with self.sessions().begin() as session:
            return begin_sign_in(session, self.account(session, who), "a test")

    def account(self, session: Session, who: DemoAccount = MAREN) -> Account:
        """Return somebody's account."""
        found = account_called(session, self.called(who))
        assert found is not None
        return found

    def make(self, document: LessonDocument) -> str:
        """Make a lesson of the demo's educator; returns its id."""
        self.know(MAREN)
        with self.sessions().begin() as session:
            return str(create_lesson(session, self.account(session).id, document).id)


@cache
def sessions_of(database: str) -> Sessions:
    """Return a way to a database."""
    engine = connect(database)
    LASTING.callback(engine.dispose)
    return sessions(engine)


class Application(Place):
    """A server with a database of its own that holds the demo lessons."""

    def __init__(self, port: int = 0, **settings: Any) -> None:
        super().__init__()
        self.database = settings.pop("database", None) or fresh_url(DEMO)
        self.settings = settings
        self.port = port
        self.process: int | None = None
        self.start()

    @property
    def address(self) -> str:  # type: ignore[override]
        """Where it answers."""
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        """Start, on the port that is wished or was used before."""
        self.line, theirs = socket.socketpair()
        given = self.settings | {"database": self.database, "port": self.port}
        self.process = nursery().fork(partial(serve_and_tell, given), theirs)
        self.line.settimeout(START_S)
        told = self.line.recv(200).decode()
        assert told, "The application does not start."
        self.port = int(told.rstrip("/").rsplit(":", 1)[1])

    def kill(self) -> None:
        """End at once, with nothing tidied up."""
        self.end(signal.SIGKILL)

    def stop(self) -> None:
        """End in order."""
        self.end(signal.SIGTERM)

    def end(self, how: signal.Signals) -> None:
        """End by a signal, and wait until the process is gone."""
        if self.process is None:
            return
        process, self.process = self.process, None
        try:
            watched = os.pidfd_open(process)
        except ProcessLookupError:
            return
        os.kill(process, how)
        select.select([watched], [], [], END_S)
        os.close(watched)
        self.line.close()


@cache
def house() -> Application:
    """Return the application that most tests of this process share, on the database that all of them do."""
    application = Application(database=world_url())
    LASTING.callback(application.stop)
    return application


class School(Place):
    """An educator and a learner like the demo's, with lessons of their own, at an application that others use too."""

    def __init__(self) -> None:
        super().__init__()
        self.house = house()
        self.database, self.address = self.house.database, self.house.address
        self.mark = uuid.uuid4().hex[:8]
        self.names = {one.sign_in: f"{one.sign_in}-{self.mark}" for one in (MAREN, JONAS)}
        self.tokens = {self.called(one): self.sign_in(one) for one in (MAREN, JONAS)}
        with self.sessions().begin() as session:
            self.horn = harbour(session, self.account(session)).id

    def called(self, who: DemoAccount) -> str:
        """Return the name by which somebody signs in here."""
        return self.names.get(who.sign_in, who.sign_in)

    def open_class(self) -> None:
        """Have the class of the demo, which follows the foghorn."""
        with self.sessions().begin() as session:
            lesson = session.get_one(Lesson, self.horn)
            evening.put_in(session, self.account(session), lesson, foghorn.LESSON, f"class-{self.mark}")


class PlacedTest(unittest.TestCase):
    """A test with an educator and a learner at an application: its own only if it is not fit for others meanwhile."""

    alone = False
    application: Place

    @classmethod
    def setUpClass(cls) -> None:
        """Come to an application."""
        if cls.alone:
            application = Application()
            cls.addClassCleanup(application.stop)
            cls.application = application
        else:
            cls.application = School()

    @property
    def school(self) -> School:
        """What this class has at the application that it shares."""
        assert isinstance(self.application, School)
        return self.application

    @property
    def own(self) -> Application:
        """The application of this class alone."""
        assert isinstance(self.application, Application)
        return self.application


def is_ready(address: str) -> bool:
    """Tell whether an application says that it can work: it answers before its processes are there."""
    try:
        return plain.get(f"{address}/ready", timeout=5).status_code == 200
    except httpx.HTTPError:
        return False


def is_signed_in(address: str, token: str) -> bool:
    """Tell whether the token of a sign-in still counts."""
    answer = plain.get(f"{address}/api/account/session", cookies={COOKIE: token}, timeout=60)
    return answer.json()["me"] is not None


def client_of(address: str, who: DemoAccount) -> httpx.Client:
    """Return a client that is signed in to an account."""
    wish = {"sign_in": who.sign_in, "password": who.password}
    answer = plain.post(f"{address.rstrip('/')}/api/account/session", json=wish, timeout=60)
    answer.raise_for_status()
    return client_with(address, answer.cookies[COOKIE])


def client_with(address: str, token: str) -> httpx.Client:
    """Return a client that shows the token of a sign-in, and that of our pages."""
    headers = {TOKEN_HEADER: page_token(token)}
    return plain.client(base_url=address, cookies={COOKIE: token}, headers=headers, timeout=60)
