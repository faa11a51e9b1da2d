"""Invitations: codes by which somebody may make one account. Only their digests are kept."""

import secrets
import uuid
from datetime import timedelta
from hashlib import sha256

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from inner_tone.store.errors import ForbiddenError
from inner_tone.store.models import Invitation, now

LETTERS = "23456789abcdefghjkmnpqrstuvwxyz"  # none that is taken for another one when it is read aloud
GROUPS, GROUP = 4, 4


def invite(session: Session, role: str, lasts: timedelta) -> str:
    """Return the code of a new invitation; those that have run out are cleared away."""
    session.execute(delete(Invitation).where(Invitation.until < now(), Invitation.used_by.is_(None)))
    code = "-".join("".join(secrets.choice(LETTERS) for _ in range(GROUP)) for _ in range(GROUPS))
    session.add(Invitation(digest=digest_of(code), role=role, until=now() + lasts))
    return code


def held(session: Session, code: str, role: str) -> Invitation:
    """Return an invitation that counts still, held until the transaction ends; raises ForbiddenError."""
    query = select(Invitation).where(Invitation.digest == digest_of(code)).with_for_update()
    found = session.scalar(query)
    if found is None or found.used_by is not None or found.until < now() or found.role != role:
        raise ForbiddenError("This invitation is none, or is used up, has run out, or is for accounts of another kind.")
    return found


def use(invitation: Invitation, account_id: uuid.UUID) -> None:
    """Note who has made an account by an invitation."""
    invitation.used_by = account_id


def digest_of(code: str) -> str:
    """Return what is kept of a code, however it is written."""
    return sha256("".join(one for one in code.casefold() if one.isalnum()).encode()).hexdigest()
