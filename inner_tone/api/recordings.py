"""Recordings: sound files that lenses look at, alone or behind a render."""

from hashlib import sha256
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool

from inner_tone.api.access import Me
from inner_tone.api.context import Database, TheStudio
from inner_tone.api.studio import sound_of
from inner_tone.core.analysis.sentences.clause import sentence
from inner_tone.core.analysis.sentences.spectrum import spectrum_clauses
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.errors import InnerToneError
from inner_tone.core.lens.chart import Chart
from inner_tone.core.lens.look import look
from inner_tone.core.lens.source import Recorded
from inner_tone.core.lens.view import View
from inner_tone.formats.audio import flac_bytes, read_sound
from inner_tone.store import sources
from inner_tone.store.accounts import EDUCATOR
from inner_tone.store.attempts import may_hear
from inner_tone.store.database import Sessions
from inner_tone.store.errors import NotFoundError
from inner_tone.store.models import Account, Recording

router = APIRouter(prefix="/api/recordings", tags=["recordings"])

LONGEST_SECONDS = 60.0
MOST_BYTES = 64 * 1024 * 1024
MOST_SECONDS = 3_600.0  # of all recordings of one account together


class RecordingOut(BaseModel):
    """A recording: its key, its name, how long it lasts, and what it is in a sentence."""

    key: str
    name: str
    seconds: float
    sentence: str


def sound_in(recording: Recording) -> Sound:
    """Return a kept recording as a sound."""
    samples, rate = read_sound(recording.flac, LONGEST_SECONDS + 1.0)
    return sound_of(samples[0], rate)


def recorded(sessions: Sessions, key: str) -> Sound:
    """Return the recording that is kept under a key; raises NotFoundError."""
    with sessions.begin() as session:
        return sound_in(sources.recording(session, key))


def recording_out(recording: Recording) -> RecordingOut:
    """Return a recording for the wire."""
    said = sentence(spectrum_clauses(sound_in(recording).whole))
    return RecordingOut(key=recording.key, name=recording.name, seconds=recording.seconds, sentence=said)


async def received(request: Request) -> bytes:
    """Return the file that is sent, as it is; raises InnerToneError as soon as it has become too large."""
    too_large = InnerToneError(f"The file has more than {MOST_BYTES // 1024**2} megabytes. Cut it, or send it as FLAC.")
    told = request.headers.get("content-length", "0")
    if told.isdigit() and int(told) > MOST_BYTES:
        raise too_large
    parts, size = [], 0
    async for part in request.stream():  # what does not say how long it is must not fill the memory
        size += len(part)
        if size > MOST_BYTES:
            raise too_large
        parts.append(part)
    return b"".join(parts)


def keep_sound(session: Session, me: Account, name: str, data: bytes) -> Recording:
    """Keep a sound file in one channel; raises InnerToneError for one that cannot be read or is too long.

    What an educator sends is known by what it is, since lessons refer to it; what a learner sends is theirs alone.
    """
    samples, rate = read_sound(data, LONGEST_SECONDS)
    middle = np.mean(samples, axis=0)
    seconds = len(middle) / rate
    if sources.seconds_of(session, me.id) + seconds > MOST_SECONDS:
        raise InnerToneError("You have kept an hour of recordings, and that is all there is room for.")
    owner = b"" if me.role == EDUCATOR else me.id.bytes
    key = sha256(owner + data).hexdigest()
    return sources.keep_recording(session, me.id, key, name, seconds, flac_bytes(middle, rate))


def heard_by(session: Session, me: Account, key: str) -> Recording:
    """Return a recording that somebody may hear; raises NotFoundError for any other."""
    found = sources.recording(session, key)
    if not may_hear(session, me, found):
        raise NotFoundError("There is no such recording.")
    return found


@router.post("", status_code=201)
async def add_recording(
    request: Request, session: Database, me: Me, name: Annotated[str, Query(min_length=1, max_length=120)]
) -> RecordingOut:
    """Keep a sound file, sent as it is, under the digest of what was sent."""
    data = await received(request)
    return await run_in_threadpool(lambda: recording_out(keep_sound(session, me, name, data)))


@router.get("/{key}")
def get_recording(session: Database, me: Me, key: str) -> RecordingOut:
    """Return what is known of a recording."""
    return recording_out(heard_by(session, me, key))


@router.get("/{key}/sound", response_class=Response, responses={200: {"content": {"audio/flac": {}}}})
def get_sound(session: Database, me: Me, key: str) -> Response:
    """Return a recording as a FLAC file, in one channel."""
    headers = {"Cache-Control": "private, max-age=31536000, immutable"}
    return Response(heard_by(session, me, key).flac, media_type="audio/flac", headers=headers)


@router.post("/{key}/look")
def look_at(session: Database, me: Me, studio: TheStudio, key: str, view: View) -> Chart:
    """Return what a lens shows of a recording by itself; the names of its taps do not matter."""
    found = heard_by(session, me, key)
    return look(view, Recorded(found.name, sound_in(found)))
