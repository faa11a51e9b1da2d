"""Opening an edition to anyone, as a job: it becomes a page that needs no account."""

import gzip
import uuid

from pydantic import BaseModel
from sqlalchemy.orm import Session

from inner_tone.store import public, rights
from inner_tone.store.models import Account, Json
from inner_tone.store.rights import Right
from inner_tone.work import handed
from inner_tone.work.handed import Wanted
from inner_tone.work.handing import HandingOut, gathered
from inner_tone.work.jobs import Finish, Running


class Opening(BaseModel):
    """An edition of a lesson is to be opened to anyone."""

    lesson_id: uuid.UUID
    number: int


async def open_to_anyone(running: Running) -> Finish:
    """Return what opens an edition; raises NotFoundError."""
    wish = Opening.model_validate(running.wish)
    asked = HandingOut(lesson_id=wish.lesson_id, number=wish.number, form="html")
    found = await running.node.stored(lambda session: gathered(session, running.account_id, asked))
    page: bytes = await running.do(
        handed.handed, Wanted("html"), found.document, found.front, found.images, found.recordings
    )
    packed = gzip.compress(page, mtime=0)

    def finish(session: Session) -> Json:
        opener = session.get_one(Account, running.account_id)
        rights.require(session, opener, wish.lesson_id, Right.WRITE)  # it may have been taken away meanwhile
        return {"link": public.open_edition(session, wish.lesson_id, wish.number, opener.id, packed).link}

    return finish
