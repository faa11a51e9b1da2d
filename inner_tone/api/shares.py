"""With whom a lesson is shared."""

import uuid
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from inner_tone.api.access import OwnLesson, ReadableLesson
from inner_tone.api.context import Database
from inner_tone.api.schemas import Incoming
from inner_tone.store import accounts, rights
from inner_tone.store.models import Share

router = APIRouter(prefix="/api/lessons/{lesson_id}/shares", tags=["shares"])


class ShareWish(Incoming):
    """An educator with whom a lesson is to be shared."""

    sign_in: Annotated[str, Field(min_length=1, max_length=80)]
    may_write: bool


class ShareOut(BaseModel):
    """An educator with whom a lesson is shared."""

    account: uuid.UUID
    sign_in: str
    name: str
    may_write: bool


def share_out(share: Share) -> ShareOut:
    """Return a share for the wire."""
    who = share.account
    return ShareOut(account=who.id, sign_in=who.sign_in, name=who.name, may_write=share.may_write)


@router.get("")
def list_shares(session: Database, lesson_id: ReadableLesson) -> list[ShareOut]:
    """Return with whom a lesson is shared."""
    return [share_out(one) for one in rights.shares_of(session, lesson_id)]


@router.put("")
def share_lesson(session: Database, lesson_id: OwnLesson, wish: ShareWish) -> list[ShareOut]:
    """Share a lesson with an educator, for reading or for writing too."""
    rights.share(session, lesson_id, accounts.educator_called(session, wish.sign_in), may_write=wish.may_write)
    return [share_out(one) for one in rights.shares_of(session, lesson_id)]


@router.delete("/{account_id}", status_code=204)
def unshare_lesson(session: Database, lesson_id: OwnLesson, account_id: uuid.UUID) -> None:
    """Share a lesson with somebody no longer."""
    rights.unshare(session, lesson_id, account_id)
