"""Recordings: sound files that lenses look at, alone or behind a render."""

from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel
from sqlalchemy.orm import Session

from inner_tone.api.access import Me
from inner_tone.api.context import Database
from inner_tone.api.received import received
from inner_tone.api.work import TheWork, Work
from inner_tone.core.lens.chart import Chart
from inner_tone.core.lens.look import View
from inner_tone.store import sources
from inner_tone.store.accounts import EDUCATOR
from inner_tone.store.attempts import heard_by
from inner_tone.store.models import Account, Recording
from inner_tone.work import errands
from inner_tone.work.errands import Received

router = APIRouter(prefix="/api/recordings", tags=["recordings"])

MOST_BYTES = 64 * 1024 * 1024
TOO_LARGE = f"The file has more than {MOST_BYTES // 1024**2} megabytes. Cut it, or send it as FLAC."


class RecordingOut(BaseModel):
    """A recording: its key, its name, how long it lasts, and what it is in a sentence."""

    key: str
    name: str
    seconds: float
    sentence: str


async def recording_out(work: Work, recording: Recording) -> RecordingOut:
    """Return a recording for the wire."""
    said = await work.once(recording.key.encode(), None, errands.told, recording.flac)
    return RecordingOut(key=recording.key, name=recording.name, seconds=recording.seconds, sentence=said.decode())


async def taken_in(work: Work, data: bytes) -> Received:
    """Return a sound file as it is kept; raises InnerToneError for one that cannot be read or is too long.

    What an educator sends is known by what it is, since lessons refer to it; what a learner sends is theirs alone.
    """
    owner = b"" if work.me.role == EDUCATOR else work.me.id.bytes
    return await work.do(errands.taken_in, data, owner)


def keep_sound(session: Session, me: Account, name: str, taken: Received, minutes: float) -> Recording:
    """Keep a sound file in one channel; raises InnerToneError when there is no room for more than so many minutes."""
    return sources.keep_within(session, me.id, taken.key, name, taken.seconds, taken.flac, minutes)


@router.post("", status_code=201)
async def add_recording(
    request: Request, work: TheWork, name: Annotated[str, Query(min_length=1, max_length=120)]
) -> RecordingOut:
    """Keep a sound file, sent as it is, under the digest of what was sent."""
    taken = await taken_in(work, await received(request, MOST_BYTES, TOO_LARGE))
    most = work.settings.recording_minutes
    kept = await work.stored(lambda session: keep_sound(session, work.me, name, taken, most))
    return await recording_out(work, kept)


@router.get("/{key}")
async def get_recording(work: TheWork, key: str) -> RecordingOut:
    """Return what is known of a recording."""
    return await recording_out(work, await work.stored(lambda session: heard_by(session, work.me, key)))


@router.get("/{key}/sound", response_class=Response, responses={200: {"content": {"audio/flac": {}}}})
def get_sound(session: Database, me: Me, key: str) -> Response:
    """Return a recording as a FLAC file, in one channel."""
    headers = {"Cache-Control": "private, max-age=31536000, immutable"}
    return Response(heard_by(session, me, key).flac, media_type="audio/flac", headers=headers)


@router.post("/{key}/look")
async def look_at(work: TheWork, key: str, view: View) -> Chart:
    """Return what a lens shows of a recording by itself; the names of its taps do not matter."""
    found = await work.stored(lambda session: heard_by(session, work.me, key))
    return await work.do(errands.looked_at, found.name, found.flac, view)
