"""Accounts and sign-ins. Passwords are kept as Argon2id hashes, the tokens of sign-ins as SHA-256 digests."""

import secrets
import threading
import uuid
from datetime import timedelta
from hashlib import sha256

from argon2 import PasswordHasher
from argon2.exceptions import VerificationError
from sqlalchemy import delete, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session, joinedload

from inner_tone.core.errors import InnerToneError
from inner_tone.store.errors import NotFoundError, NotSignedInError
from inner_tone.store.models import Account, SignIn, now
from inner_tone.store.notices import SIGNED_OUT, tell

LASTS = timedelta(days=30)  # how long a sign-in lasts that is not used
NOTED = timedelta(minutes=5)  # how exactly the latest use is known
MOST_BROWSER = 120

EDUCATOR, LEARNER = "educator", "learner"
FEWEST_DIGITS = 3  # behind a sign-in name that anybody may have

hasher = PasswordHasher()  # RFC 9106, the profile for memory-constrained machines: Argon2id, 64 MiB, 3 passes
AT_ONCE = threading.BoundedSemaphore(2)  # each hash fills 64 MiB: many at once must not fill the machine
# of nothing that anybody knows: so that an unknown name takes as long as a wrong password
NOBODYS = "$argon2id$v=19$m=65536,t=3,p=4$jAPkqIUzuvOXcUC09f2oRQ$8mBzMbOWBeBp7fR/GFDs+smhK7rjLW4v2I/EZ+2mXoo"


class TakenError(InnerToneError):
    """Somebody has that sign-in name already."""


def create_account(session: Session, sign_in: str, name: str, role: str, password: str) -> Account:
    """Make an account; raises TakenError."""
    created = Account(sign_in=sign_in.casefold(), name=name, role=role, password_hash=hashed(password))
    try:
        with session.begin_nested():
            session.add(created)
    except IntegrityError as error:
        raise TakenError(f"“{sign_in}” is taken. Choose another sign-in name.") from error
    return created


def create_numbered(session: Session, wished: str, name: str, role: str, password: str) -> Account:
    """Make an account whose sign-in name is the one that is wished with a number behind it.

    So it is never told to anybody whether a name is taken.
    """
    digits = FEWEST_DIGITS
    while True:
        number = secrets.randbelow(9 * 10 ** (digits - 1)) + 10 ** (digits - 1)
        try:
            return create_account(session, f"{wished}{number}", name, role, password)
        except TakenError:
            digits += 1


def account_called(session: Session, sign_in: str) -> Account | None:
    """Return the account with a sign-in name, however its letters are written."""
    return session.scalar(select(Account).where(Account.sign_in == sign_in.casefold()))


def educator_called(session: Session, sign_in: str) -> Account:
    """Return the educator with a sign-in name; raises NotFoundError."""
    found = account_called(session, sign_in)
    if found is None or found.role != EDUCATOR:
        raise NotFoundError(f"There is no educator with the sign-in name “{sign_in}”.")
    return found


def account_with(session: Session, sign_in: str, password: str) -> Account:
    """Return the account that a sign-in name and a password belong to; raises NotSignedInError."""
    found = account_called(session, sign_in)
    try:
        with AT_ONCE:
            hasher.verify(found.password_hash if found and found.password_hash else NOBODYS, password)
    except VerificationError:
        found = None
    if found is None:
        raise NotSignedInError("The sign-in name or the password is wrong.")
    if hasher.check_needs_rehash(found.password_hash):
        found.password_hash = hashed(password)
    return found


def hashed(password: str) -> str:
    """Return what is kept of a password."""
    with AT_ONCE:
        return hasher.hash(password)


def digest_of(token: str) -> str:
    """Return what is kept of a sign-in's token."""
    return sha256(token.encode()).hexdigest()


def begin_sign_in(session: Session, account: Account, browser: str) -> str:
    """Sign a browser in; returns the token that it has to show. Sign-ins that have run out are cleared away."""
    session.execute(delete(SignIn).where(SignIn.used_at < now() - LASTS))
    token = secrets.token_urlsafe(32)
    session.add(SignIn(token_digest=digest_of(token), account_id=account.id, browser=browser[:MOST_BROWSER]))
    return token


def account_of(session: Session, token: str) -> Account:
    """Return the account that a token signs in, and note that it was used; raises NotSignedInError."""
    query = select(SignIn).where(SignIn.token_digest == digest_of(token)).options(joinedload(SignIn.account))
    found = session.scalar(query)
    present = now()
    if found is None or found.used_at < present - LASTS:
        raise NotSignedInError("The sign-in has ended. Sign in again; what was not kept yet is still here.")
    if found.used_at < present - NOTED:
        found.used_at = present
    return found.account


def sign_ins_of(session: Session, account_id: uuid.UUID) -> list[SignIn]:
    """Return the browsers that somebody is signed in with, the one used last first."""
    query = select(SignIn).where(SignIn.account_id == account_id, SignIn.used_at >= now() - LASTS)
    return list(session.scalars(query.order_by(SignIn.used_at.desc(), SignIn.token_digest)))


def end_sign_in(session: Session, token: str) -> None:
    """Sign one browser out, at all nodes."""
    tell(session, SIGNED_OUT)
    session.execute(delete(SignIn).where(SignIn.token_digest == digest_of(token)))


def end_all_sign_ins(session: Session, account_id: uuid.UUID, but: str | None = None) -> None:
    """Sign somebody out everywhere, but for the browser with a token if one is given."""
    tell(session, SIGNED_OUT)
    ended = delete(SignIn).where(SignIn.account_id == account_id)
    session.execute(ended.where(SignIn.token_digest != digest_of(but)) if but else ended)


def change_password(session: Session, account: Account, password: str, token: str | None = None) -> None:
    """Give an account another password; all other browsers than the one with the token are signed out."""
    session.merge(account).password_hash = hashed(password)
    end_all_sign_ins(session, account.id, but=token)
