"""`inner-tone account`: makes an account, or gives one that is there another password."""

import getpass
import sys

from inner_tone.core.errors import InnerToneError
from inner_tone.store import accounts
from inner_tone.store.database import connect, migrate, sessions
from inner_tone.store.passwords import refuse_easy


def password_asked() -> str:
    """Return the password: asked for twice at a terminal, else the first line of the standard input."""
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\n")
    first = getpass.getpass("Password: ")
    if getpass.getpass("Once more: ") != first:
        raise InnerToneError("The two passwords differ. Nothing was changed.")
    return first


def set_account(database: str, sign_in: str, name: str | None, role: str | None) -> str:
    """Make an account, or change its password and sign it out everywhere; returns what was done, as a sentence."""
    engine = connect(database)
    migrate(engine)
    password = password_asked()
    refuse_easy(password, sign_in, name or "")
    with sessions(engine).begin() as session:
        found = accounts.account_called(session, sign_in)
        if found is not None:
            accounts.change_password(session, found, password)
            return f"{found.name} ({found.role}) has a new password and is signed out everywhere."
        if role is None:
            raise InnerToneError(f"There is no account “{sign_in}”. Say with --role what it is to be.")
        made = accounts.create_account(session, sign_in, name or sign_in, role, password)
        return f"{made.name} ({made.role}) can sign in as {made.sign_in}."
