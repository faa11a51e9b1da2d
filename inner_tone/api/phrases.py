"""Phrases as MIDI files, and back."""

from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel

from inner_tone.api.received import received
from inner_tone.api.recordings import MOST_BYTES, TOO_LARGE
from inner_tone.api.schemas import Incoming
from inner_tone.api.work import TheWork
from inner_tone.core.phrase import Lever, Phrase, checked_phrase
from inner_tone.formats.midi import Found, midi_bytes
from inner_tone.work import errands

router = APIRouter(prefix="/api/phrases", tags=["phrases"])


class TrackOut(BaseModel):
    """A track with notes: its number from 0, its name, and how many notes it has."""

    number: int
    name: str
    notes: int


class MidiOut(BaseModel):
    """What a MIDI file has; without a phrase, a track has to be chosen. `said` is what could not be taken."""

    tracks: list[TrackOut]
    track: int | None
    phrase: Phrase | None
    said: list[str]


class MidiWish(Incoming):
    """A phrase that is wished as a MIDI file."""

    phrase: Phrase


def midi_out(found: Found) -> MidiOut:
    """Return what a file has for the wire."""
    tracks = [TrackOut(number=one.number, name=one.name, notes=one.notes) for one in found.tracks]
    return MidiOut(tracks=tracks, track=found.track, phrase=found.phrase, said=list(found.said))


@router.post("/midi")
async def take_midi(
    request: Request,
    work: TheWork,
    track: Annotated[int | None, Query(ge=0, le=10_000)] = None,
    levers: Annotated[list[Lever], Query(max_length=32)] = [],  # noqa: B006 - FastAPI copies it
) -> MidiOut:
    """Return the phrase that a MIDI file has, sent as it is; nothing is kept."""
    data = await received(request, MOST_BYTES, TOO_LARGE)
    return midi_out(await work.do(errands.played, data, track, levers))


@router.post("/midi/file", response_class=Response, responses={200: {"content": {"audio/midi": {}}}})
def make_midi(wish: MidiWish) -> Response:
    """Return a phrase as a MIDI file."""
    return Response(midi_bytes(checked_phrase(wish.phrase)), media_type="audio/midi")
