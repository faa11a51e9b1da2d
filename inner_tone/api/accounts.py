"""Accounts: made, signed in and out, and given another password."""

import secrets
from datetime import datetime, timedelta
from typing import Annotated, Literal

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from inner_tone.api.access import COOKIE, Me, client_of, page_token, signed_in
from inner_tone.api.context import Database
from inner_tone.api.jobs import JobOut, TheJobs, asked
from inner_tone.api.limits import MADE_FROM_ONE, WRONG_FOR_ONE, WRONG_FROM_ONE, Limiter
from inner_tone.api.schemas import Incoming
from inner_tone.api.settings import Admission, Settings
from inner_tone.core.errors import InnerToneError
from inner_tone.store import accounts as store
from inner_tone.store import endings, invitations, tries
from inner_tone.store.database import Sessions
from inner_tone.store.errors import ForbiddenError, NotSignedInError
from inner_tone.store.models import Account, SignIn
from inner_tone.store.passwords import refuse_easy

router = APIRouter(prefix="/api/account", tags=["account"])

DEVICE = "inner_tone_device"
DEVICE_LASTS = int(timedelta(days=400).total_seconds())

SignInName = Annotated[str, Field(min_length=2, max_length=60, pattern=r"^[A-Za-z0-9][A-Za-z0-9._@+-]*$")]
Password = Annotated[str, Field(min_length=10, max_length=200)]
Role = Literal["educator", "learner"]


class SignInWish(Incoming):
    """A sign-in name and a password."""

    sign_in: Annotated[str, Field(max_length=80)]
    password: Annotated[str, Field(max_length=200)]


class NewAccount(Incoming):
    """An account to be made. Only with an invitation is its name just that; else a number is put behind it."""

    sign_in: SignInName
    name: Annotated[str, Field(min_length=1, max_length=80)]
    role: Role
    password: Password
    invitation: Annotated[str, Field(max_length=80)] = ""


class PasswordChange(Incoming):
    """A new password, and the one that it replaces."""

    old: Annotated[str, Field(max_length=200)]
    new: Password


class DemoAccount(BaseModel):
    """An account that the demo starts with, for everybody to use."""

    sign_in: str
    name: str
    role: Role
    password: str


class AccountOut(BaseModel):
    """Who somebody is."""

    sign_in: str
    name: str
    role: Role


class SessionOut(BaseModel):
    """Who is signed in, if anybody is; the token that changes have to carry; the accounts of the demo, if it is one.

    `admission` says who may make an account of each kind.
    """

    me: AccountOut | None
    token: str
    demo: list[DemoAccount]
    admission: dict[Role, Admission]


class SignInOut(BaseModel):
    """A browser that one is signed in with."""

    browser: str
    begun_at: datetime
    used_at: datetime
    here: bool


def account_out(account: Account) -> AccountOut:
    """Return an account for the wire."""
    return AccountOut.model_validate(account, from_attributes=True)


def session_out(request: Request, account: Account | None, token: str = "") -> SessionOut:
    """Return who is signed in, for the wire."""
    me = account_out(account) if account else None
    return SessionOut(
        me=me,
        token=page_token(token) if token else "",
        demo=request.app.state.demo,
        admission=admissions(request.app.state.settings),
    )


def admissions(settings: Settings) -> dict[Role, Admission]:
    """Return who may make an account of each kind."""
    return {"learner": settings.learners, "educator": settings.educators}


def admit(request: Request, response: Response, session: Database, account: Account) -> SessionOut:
    """Sign a browser in; whoever was signed in with it before is signed out."""
    session.flush()
    if COOKIE in request.cookies:
        store.end_sign_in(session, request.cookies[COOKIE])
        request.app.state.recent.forget()
    token = store.begin_sign_in(session, account, request.headers.get("user-agent", ""))
    response.set_cookie(
        COOKIE,
        token,
        max_age=int(store.LASTS.total_seconds()),
        httponly=True,
        samesite="strict",
        secure=request.url.scheme == "https",
    )
    device = request.cookies.get(DEVICE) or secrets.token_urlsafe(32)
    tries.know(session, store.digest_of(device), account.id)
    response.set_cookie(
        DEVICE, device, max_age=DEVICE_LASTS, httponly=True, samesite="strict", secure=request.url.scheme == "https"
    )
    return session_out(request, account, token)


@router.get("/session")
async def get_session(request: Request) -> SessionOut:
    """Return who is signed in, if anybody is."""
    try:
        return session_out(request, await signed_in(request), request.cookies[COOKIE])
    except NotSignedInError:
        return session_out(request, None)


@router.post("/session")
def sign_in(request: Request, response: Response, wish: SignInWish) -> SessionOut:
    """Sign in with a name and a password; too many wrong ones are refused for a while."""
    limiter: Limiter = request.app.state.limiter
    makers: Sessions = request.app.state.sessions
    device = store.digest_of(request.cookies.get(DEVICE, ""))
    with makers.begin() as session:
        found = store.account_called(session, wish.sign_in)
        known = found is not None and tries.knows(session, device, found.id)
    whose = f"device {device}" if known else f"name {wish.sign_in.casefold()}"
    limits = ((WRONG_FOR_ONE, whose),)
    around = ((WRONG_FROM_ONE, f"from {client_of(request)}"),)  # a class that signs in at once is behind one address
    limiter.refuse_if_over(around)
    limiter.begin(limits)  # before anything is hashed: those who try many at once are counted too
    with makers.begin() as session:
        try:
            admitted = admit(request, response, session, store.account_with(session, wish.sign_in, wish.password))
        except NotSignedInError:
            limiter.count(around)
            raise
    limiter.forgive(limits)
    return admitted


@router.post("", status_code=201)
def make_account(request: Request, response: Response, session: Database, wish: NewAccount) -> SessionOut:
    """Make an account and sign it in; its sign-in name is told in the answer."""
    limiter: Limiter = request.app.state.limiter
    limiter.begin(((MADE_FROM_ONE, f"made from {client_of(request)}"),))
    admission = admissions(request.app.state.settings)[wish.role]
    if admission == "nobody":
        raise ForbiddenError(f"Accounts of {wish.role}s are made by whoever runs this place. Ask them for one.")
    if admission == "invited" and not wish.invitation:
        raise ForbiddenError(f"To make an account as {wish.role} you need an invitation.")
    invitation = invitations.held(session, wish.invitation, wish.role) if wish.invitation else None
    refuse_easy(wish.password, wish.sign_in, wish.name)
    make = store.create_account if invitation else store.create_numbered
    account = make(session, wish.sign_in, wish.name.strip() or wish.sign_in, wish.role, wish.password)
    session.flush()
    if invitation:
        invitations.use(invitation, account.id)
    return admit(request, response, session, account)


@router.delete("/session", status_code=204)
def sign_out(request: Request, response: Response, session: Database, me: Me) -> None:
    """Sign this browser out."""
    store.end_sign_in(session, request.cookies[COOKIE])
    request.app.state.recent.forget()
    response.delete_cookie(COOKIE)


class GoneOut(BaseModel):
    """What would go with an account: lessons and classes, and how many others have begun the lessons."""

    lessons: int
    classes: int
    others: int


@router.get("/kept")
def what_goes(session: Database, me: Me) -> GoneOut:
    """Return what would go with one's account."""
    lessons, classes, others = endings.gone_with(session, me)
    return GoneOut(lessons=lessons, classes=classes, others=others)


@router.post("/mine", status_code=202)
async def write_mine(jobs: TheJobs, me: Me) -> JobOut:
    """Write everything of one's account into a ZIP file, as a job."""
    return await asked(jobs, me.id, "mine", "Everything of mine", {})


class AccountEnd(Incoming):
    """That one's account is to be deleted, with the password.

    `heir` is the sign-in name of another educator, to whom lessons, series and classes pass; without one they go too.
    """

    password: str
    heir: Annotated[str, Field(min_length=1, max_length=80)] | None = None


@router.post("/end", status_code=204)
def end_account(request: Request, response: Response, session: Database, me: Me, wish: AccountEnd) -> None:
    """Delete one's account with all that was made with it; lessons, series and classes may pass to somebody else."""
    confirm(request, session, me, wish.password, "The password is another one. Nothing was deleted.")
    heir = store.educator_called(session, wish.heir) if wish.heir else None
    endings.delete_account(session, me, heir)
    request.app.state.recent.forget()
    response.delete_cookie(COOKIE)


def confirm(request: Request, session: Session, me: Account, password: str, refusal: str) -> None:
    """Raise InnerToneError unless a password is that of somebody; too many wrong ones are refused for a while."""
    limiter: Limiter = request.app.state.limiter
    limits = ((WRONG_FOR_ONE, f"name {me.sign_in}"),)
    limiter.begin(limits)
    try:
        store.account_with(session, me.sign_in, password)
    except NotSignedInError as error:
        raise InnerToneError(refusal) from error
    limiter.forgive(limits)


@router.get("/sessions")
def list_sign_ins(request: Request, session: Database, me: Me) -> list[SignInOut]:
    """Return the browsers that one is signed in with."""
    here = store.digest_of(request.cookies[COOKIE])
    return [sign_in_out(one, here) for one in store.sign_ins_of(session, me.id)]


def sign_in_out(one: SignIn, here: str) -> SignInOut:
    """Return a sign-in for the wire."""
    return SignInOut(browser=one.browser, begun_at=one.begun_at, used_at=one.used_at, here=one.token_digest == here)


@router.delete("/sessions", status_code=204)
def sign_out_everywhere(request: Request, response: Response, session: Database, me: Me) -> None:
    """Sign every browser out, this one too."""
    store.end_all_sign_ins(session, me.id)
    request.app.state.recent.forget()
    response.delete_cookie(COOKIE)


@router.put("/password", status_code=204)
def change_password(request: Request, session: Database, me: Me, wish: PasswordChange) -> None:
    """Change one's password; all other browsers are signed out."""
    confirm(request, session, me, wish.old, "The present password is another one. Nothing was changed.")
    refuse_easy(wish.new, me.sign_in, me.name)
    store.change_password(session, me, wish.new, request.cookies[COOKIE])
    request.app.state.recent.forget()
