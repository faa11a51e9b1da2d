"""The application in a process of its own, that can be killed and started again."""

import multiprocessing
import os
import signal
from multiprocessing.context import ForkServerProcess
from pathlib import Path
from typing import Any

import httpx

from inner_tone.api.access import COOKIE, TOKEN_HEADER, page_token
from inner_tone.api.accounts import DemoAccount
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.demo.seed import MAREN
from inner_tone.store.accounts import account_called, create_account
from inner_tone.store.database import connect, sessions
from inner_tone.store.lessons import create_lesson
from tests.support.database import DEMO, fresh_url
from tests.support.nursery import serve_and_tell

FORKS = multiprocessing.get_context("forkserver")
FORKS.set_forkserver_preload(["tests.support.nursery"])
ROOT = Path(__file__).resolve().parents[2]


class Application:
    """A server with a database of its own that holds the demo lessons."""

    def __init__(self, port: int = 0, **settings: Any) -> None:
        self.database = settings.pop("database", None) or fresh_url(DEMO)
        self.settings = settings
        self.tokens: dict[str, str] = {}
        self.port = port
        self.process: ForkServerProcess | None = None
        self.start()

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        """Start, on the port that is wished or was used before."""
        hears, told = FORKS.Pipe(duplex=False)
        given = self.settings | {"database": self.database, "port": self.port}
        self.process = FORKS.Process(target=serve_and_tell, args=(given, told))
        self.process.start()
        told.close()
        assert hears.poll(90), "The application does not start."
        self.port = int(hears.recv().rstrip("/").rsplit(":", 1)[1])
        hears.close()

    def client(self, who: DemoAccount | None = MAREN) -> httpx.Client:
        """Return somebody's way to the application, signed in unless it is nobody."""
        if who is None:
            return httpx.Client(base_url=self.address, timeout=60, verify=False)
        token = self.tokens.get(who.sign_in)
        if token is None or not is_signed_in(self.address, token):
            self.know(who)
            token = self.tokens[who.sign_in] = client_of(self.address, who).cookies[COOKIE]
        return client_with(self.address, token)

    def lesson_called(self, title: str) -> str:
        """Return the id of a lesson of the demo's educator."""
        with self.client() as client:
            return str({one["title"]: one["id"] for one in client.get("/api/lessons").json()}[title])

    def know(self, who: DemoAccount) -> None:
        """See to it that somebody has an account."""
        engine = connect(self.database)
        with sessions(engine).begin() as session:
            if account_called(session, who.sign_in) is None:
                create_account(session, who.sign_in, who.name, who.role, who.password)
        engine.dispose()

    def make(self, document: LessonDocument) -> str:
        """Make a lesson of the demo's educator; returns its id."""
        engine = connect(self.database)
        with sessions(engine).begin() as session:
            maren = account_called(session, MAREN.sign_in)
            assert maren is not None
            lesson = str(create_lesson(session, maren.id, document).id)
        engine.dispose()
        return lesson

    def kill(self) -> None:
        """End at once, with nothing tidied up."""
        self.end(signal.SIGKILL)

    def stop(self) -> None:
        self.end(signal.SIGTERM)

    def end(self, how: signal.Signals) -> None:
        if self.process is not None and self.process.pid is not None:
            os.kill(self.process.pid, how)
            self.process.join(20)
            self.process.close()
            self.process = None


def is_ready(address: str) -> bool:
    """Tell whether an application says that it can work: it answers before its processes are there."""
    try:
        return httpx.get(f"{address}/ready", timeout=5).status_code == 200
    except httpx.HTTPError:
        return False


def is_signed_in(address: str, token: str) -> bool:
    """Tell whether the token of a sign-in still counts."""
    answer = httpx.get(f"{address}/api/account/session", cookies={COOKIE: token}, timeout=60)
    return answer.json()["me"] is not None


def client_of(address: str, who: DemoAccount) -> httpx.Client:
    """Return a client that is signed in to an account."""
    wish = {"sign_in": who.sign_in, "password": who.password}
    answer = httpx.post(f"{address.rstrip('/')}/api/account/session", json=wish, timeout=60)
    answer.raise_for_status()
    return client_with(address, answer.cookies[COOKIE])


def client_with(address: str, token: str) -> httpx.Client:
    """Return a client that shows the token of a sign-in, and that of our pages."""
    headers = {TOKEN_HEADER: page_token(token)}
    return httpx.Client(base_url=address, cookies={COOKIE: token}, headers=headers, timeout=60, verify=False)
