"""Who asks, and whether they may: every router takes from here what it needs to know about that.

A browser is signed in by a cookie that no script can read and that is not sent from other sites. As a second defence,
what changes something has to come from our own pages: its origin is ours, and it carries a token that only they can
have read.
"""

import asyncio
import hmac
import time
import uuid
from collections.abc import Awaitable, Callable
from hashlib import sha256
from typing import Annotated, Any
from urllib.parse import urlsplit

from fastapi import Depends, Request
from fastapi.concurrency import run_in_threadpool
from starlette.requests import HTTPConnection

from inner_tone.api.context import Database
from inner_tone.store import accounts, attempts, classes, rights, series
from inner_tone.store.database import Sessions
from inner_tone.store.errors import ForbiddenError, NotSignedInError, OldPageError
from inner_tone.store.models import Account
from inner_tone.store.rights import Right

COOKIE = "inner_tone_sign_in"
TOKEN_HEADER = "X-Inner-Tone-Token"
READING = {"GET", "HEAD", "OPTIONS"}
MOST_RECENT = 10_000


def client_of(request: Request) -> str:
    """Return the address that a request comes from; a proxy that is trusted has said it."""
    return request.client.host if request.client else ""


def page_token(token: str) -> str:
    """Return what our own pages have to send with every change, given the token of the sign-in."""
    return sha256(f"page {token}".encode()).hexdigest()


async def from_our_pages(request: HTTPConnection) -> None:
    """Raise ForbiddenError for a change that another site asks for; what plays live sees to that itself."""
    if request.scope.get("method", "GET") in READING:
        return
    origin = request.headers.get("origin")
    foreign = origin is not None and urlsplit(origin).netloc != request.headers.get("host")
    if foreign or request.headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
        raise ForbiddenError("This was asked for by another site. Nothing was changed.")


class Recent:
    """Who has shown which token within the last moments, so that a burst of requests asks the database once.

    It is trusted only while it `hears` who signs out, at whichever node.
    """

    def __init__(self, hears: Callable[[], bool], seconds: float = 2.0) -> None:
        self._hears, self._seconds = hears, seconds
        self._seen: dict[str, tuple[float, Account]] = {}
        self._asking: dict[str, asyncio.Future[Account]] = {}

    def account(self, token: str) -> Account | None:
        """Return whose token it is, if it was shown just now."""
        seen = self._seen.get(token)
        return seen[1] if seen and time.monotonic() < seen[0] and self._hears() else None

    async def asked(self, token: str, ask: Callable[[], Awaitable[Account]]) -> Account:
        """Return whose token it is, as the database is asked, once for all who want to know at the same time."""
        asking = self._asking.get(token)
        if asking is None:
            asking = self._asking[token] = asyncio.ensure_future(ask())
            asking.add_done_callback(lambda _: self._asking.pop(token, None))
        account = await asyncio.shield(asking)
        self.note(token, account)
        return account

    def note(self, token: str, account: Account) -> None:
        """Note whose token it is."""
        if len(self._seen) >= MOST_RECENT:
            self._seen.clear()
        self._seen[token] = time.monotonic() + self._seconds, account

    def forget(self) -> None:
        """Ask the database again for everybody: somebody was signed out."""
        self._seen.clear()


def account_in(sessions: Sessions, token: str) -> Account:
    """Return whose token it is; raises NotSignedInError."""
    with sessions.begin() as session:  # ended at once: who waits for a render holds no connection
        return accounts.account_of(session, token)


async def whose(app: Any, token: str | None) -> Account:
    """Return whose token it is that an application was shown; raises NotSignedInError."""
    if not token:
        raise NotSignedInError
    recent: Recent = app.state.recent
    known = recent.account(token)
    return known or await recent.asked(token, lambda: run_in_threadpool(account_in, app.state.sessions, token))


async def signed_in(request: Request) -> Account:
    """Return who asks; raises NotSignedInError, and OldPageError for a change without our pages' token."""
    token = request.cookies.get(COOKIE)
    account = await whose(request.app, token)
    shown = request.headers.get(TOKEN_HEADER, "").encode()
    if request.method not in READING and not hmac.compare_digest(shown, page_token(token or "").encode()):
        raise OldPageError("The page’s token is missing or old. Load the page anew.")
    return account


Me = Annotated[Account, Depends(signed_in)]


async def educator(me: Me) -> Account:
    """Return who asks, if they are an educator; raises ForbiddenError."""
    if me.role != accounts.EDUCATOR:
        raise ForbiddenError("Only educators write lessons.")
    return me


Educator = Annotated[Account, Depends(educator)]


def lesson_for(needed: Right) -> Callable[..., uuid.UUID]:
    """Return a dependency that gives the lesson of the address to those who have a right to it."""

    def check(session: Database, me: Me, lesson_id: uuid.UUID) -> uuid.UUID:
        rights.require(session, me, lesson_id, needed)
        return lesson_id

    return check


def step_for(needed: Right) -> Callable[..., uuid.UUID]:
    """Return a dependency that gives the step of the address to those who have a right to its lesson."""

    def check(session: Database, me: Me, step_id: uuid.UUID) -> uuid.UUID:
        rights.require_for_step(session, me, step_id, needed)
        return step_id

    return check


def lesson_briefly(needed: Right) -> Callable[..., uuid.UUID]:
    """Return what `lesson_for` does for what takes its time: its connection is given back at once."""

    def check(request: Request, me: Me, lesson_id: uuid.UUID) -> uuid.UUID:
        with request.app.state.sessions.begin() as session:
            rights.require(session, me, lesson_id, needed)
        return lesson_id

    return check


def step_briefly(request: Request, me: Me, step_id: uuid.UUID) -> uuid.UUID:
    """Return the step of the address to those who may read its lesson, like `step_for`; for what takes its time."""
    with request.app.state.sessions.begin() as session:
        rights.require_for_step(session, me, step_id, Right.READ)
    return step_id


def played_briefly(request: Request, me: Me, played_id: uuid.UUID) -> uuid.UUID:
    """Return the given recording of the address to whose it is, like `own_played`; for what takes its time."""
    with request.app.state.sessions.begin() as session:
        attempts.own_played(session, me, played_id)
    return played_id


def taught_class(session: Database, me: Educator, class_id: uuid.UUID) -> uuid.UUID:
    """Return the class of the address to those who teach it; raises NotFoundError to all others."""
    classes.taught(session, me, class_id)
    return class_id


def own_class(session: Database, me: Educator, class_id: uuid.UUID) -> uuid.UUID:
    """Return the class of the address to whoever began it; raises NotFoundError and ForbiddenError."""
    classes.owned(session, me, class_id)
    return class_id


def joined_class(session: Database, me: Me, class_id: uuid.UUID) -> uuid.UUID:
    """Return the class of the address to its members; raises NotFoundError."""
    classes.joined(session, me, class_id)
    return class_id


def own_series(session: Database, me: Educator, series_id: uuid.UUID) -> uuid.UUID:
    """Return the series of the address to its owner; raises NotFoundError to all others."""
    series.own_series(session, me, series_id)
    return series_id


def own_series_briefly(request: Request, me: Educator, series_id: uuid.UUID) -> uuid.UUID:
    """Return the series of the address to its owner, like `own_series`; for what takes its time."""
    with request.app.state.sessions.begin() as session:
        series.own_series(session, me, series_id)
    return series_id


def own_attempt(session: Database, me: Me, attempt_id: uuid.UUID) -> uuid.UUID:
    """Return the attempt of the address to whose it is; raises NotFoundError."""
    attempts.own_attempt(session, me, attempt_id)
    return attempt_id


def attempt_to_see(request: Request, me: Me, attempt_id: uuid.UUID) -> uuid.UUID:
    """Return the attempt of the address to those who may look at it, for what takes its time; raises NotFoundError."""
    with request.app.state.sessions.begin() as session:
        attempts.attempt_for(session, me, attempt_id)
    return attempt_id


def own_played(session: Database, me: Me, played_id: uuid.UUID) -> uuid.UUID:
    """Return the given recording of the address to whose it is; raises NotFoundError."""
    attempts.own_played(session, me, played_id)
    return played_id


def own_question(session: Database, me: Me, question_id: uuid.UUID) -> uuid.UUID:
    """Return the question of the address to whose it is; raises NotFoundError."""
    attempts.own_question(session, me, question_id)
    return question_id


def question_to_answer(session: Database, me: Me, question_id: uuid.UUID) -> uuid.UUID:
    """Return the question of the address to those who may answer it; raises NotFoundError."""
    attempts.question_for(session, me, question_id)
    return question_id


ReadableLesson = Annotated[uuid.UUID, Depends(lesson_for(Right.READ))]
WritableLesson = Annotated[uuid.UUID, Depends(lesson_for(Right.WRITE))]
OwnLesson = Annotated[uuid.UUID, Depends(lesson_for(Right.OWN))]
ReadableStep = Annotated[uuid.UUID, Depends(step_for(Right.READ))]
WritableStep = Annotated[uuid.UUID, Depends(step_for(Right.WRITE))]
OwnSeries = Annotated[uuid.UUID, Depends(own_series)]
TaughtClass = Annotated[uuid.UUID, Depends(taught_class)]
OwnClass = Annotated[uuid.UUID, Depends(own_class)]
JoinedClass = Annotated[uuid.UUID, Depends(joined_class)]
OwnSeriesBriefly = Annotated[uuid.UUID, Depends(own_series_briefly)]
ReadableLessonBriefly = Annotated[uuid.UUID, Depends(lesson_briefly(Right.READ))]
WritableLessonBriefly = Annotated[uuid.UUID, Depends(lesson_briefly(Right.WRITE))]
ReadableStepBriefly = Annotated[uuid.UUID, Depends(step_briefly)]
OwnPlayedBriefly = Annotated[uuid.UUID, Depends(played_briefly)]
AttemptToSee = Annotated[uuid.UUID, Depends(attempt_to_see)]
OwnAttempt = Annotated[uuid.UUID, Depends(own_attempt)]
OwnPlayed = Annotated[uuid.UUID, Depends(own_played)]
OwnQuestion = Annotated[uuid.UUID, Depends(own_question)]
QuestionToAnswer = Annotated[uuid.UUID, Depends(question_to_answer)]
