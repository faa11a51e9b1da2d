"""Sounds for samplers: those that come with the program, and own ones: sent, or made of a take or a recording."""

from typing import Annotated

from fastapi import APIRouter, Path, Query, Request, Response
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from inner_tone.api.access import Me
from inner_tone.api.context import Database
from inner_tone.api.received import received
from inner_tone.api.recordings import MOST_BYTES, TOO_LARGE
from inner_tone.api.renders import Key, take_again
from inner_tone.api.schemas import Incoming
from inner_tone.api.work import TheWork, Work
from inner_tone.core.errors import InnerToneError
from inner_tone.core.patch.port import Port
from inner_tone.core.units import note_name
from inner_tone.store import sounds as store
from inner_tone.store.errors import NotFoundError
from inner_tone.store.models import Account, OwnSound
from inner_tone.work import errands
from inner_tone.work.errands import NewSound, SoundFacts

router = APIRouter(prefix="/api/sounds", tags=["sounds"])

MOST_NAME, MOST_ABOUT = 60, 200
Name = Annotated[str, Field(min_length=1, max_length=MOST_NAME, pattern=r"^\S")]
About = Annotated[str, Field(max_length=MOST_ABOUT)]
SoundKey = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


class SamplerSoundAbout(Incoming):
    """What somebody calls a sound, where it comes from, and what may be done with it."""

    name: Name
    source: About = ""
    licence: About = ""


class SamplerSoundWish(SamplerSoundAbout):
    """A sound to be made of a take, at one of its taps or as it is heard, or of a recording; all of it, or a part."""

    take: Key | None = None
    tap: Port | None = None
    recording: Key | None = None
    begin_s: Annotated[float, Field(ge=0, le=600)] = 0.0
    end_s: Annotated[float | None, Field(gt=0, le=600)] = None


class SamplerSoundOut(BaseModel):
    """A sound that samplers play: what a sampler is set to, who it is from, what is known of it, what is proposed.

    `facts` are its length and places as parts of it, peak, loudness, and its pitch, if it has one; `note` is its name.
    """

    sound: str
    key: str
    name: str
    source: str
    licence: str
    own: bool
    facts: SoundFacts
    note: str


class SamplerSoundsOut(BaseModel):
    """The sounds that one has, those that come with the program, and how much room is taken, in seconds."""

    own: list[SamplerSoundOut]
    shipped: list[SamplerSoundOut]
    seconds: float
    most_seconds: float


def sound_out(found: OwnSound, me: Account) -> SamplerSoundOut:
    """Return a sound for the wire."""
    facts = SoundFacts.model_validate(found.sound.facts)
    return SamplerSoundOut(
        sound=f"{found.key} {found.name}",
        key=found.key,
        name=found.name,
        source=found.source,
        licence=found.licence,
        own=found.account_id == me.id,
        facts=facts,
        note=note_of(facts),
    )


def note_of(facts: SoundFacts) -> str:
    """Return the name of a sound's pitch; nothing where it has none."""
    return note_name(facts.note) if facts.note is not None else ""


@router.get("")
async def list_sounds(work: TheWork) -> SamplerSoundsOut:
    """Return the sounds that one can play."""
    shipped = [
        SamplerSoundOut(
            sound=name, key="", name=name, source="", licence="", own=False, facts=facts, note=note_of(facts)
        )
        for name, facts in (await work.do(errands.shipped_sounds)).items()
    ]

    def found(session: Session) -> SamplerSoundsOut:
        return SamplerSoundsOut(
            own=[sound_out(one, work.me) for one in store.own_sounds(session, work.me)],
            shipped=shipped,
            seconds=store.seconds_of(session, work.me.id),
            most_seconds=60.0 * work.settings.sound_minutes,
        )

    return await work.stored(found)


@router.post("", status_code=201)
async def add_sound(
    request: Request,
    work: TheWork,
    name: Annotated[str, Query(min_length=1, max_length=MOST_NAME, pattern=r"^\S")],
    source: Annotated[str, Query(max_length=MOST_ABOUT)] = "",
    licence: Annotated[str, Query(max_length=MOST_ABOUT)] = "",
) -> SamplerSoundOut:
    """Keep a sound file, sent as it is, for samplers: in one channel, at 48 kHz, by the digest of that."""
    data = await received(request, MOST_BYTES, TOO_LARGE)
    made = await work.do(errands.sound_received, data)
    return await kept(work, made, SamplerSoundAbout(name=name, source=source, licence=licence))


@router.post("/made", status_code=201)
async def make_sound(work: TheWork, wish: SamplerSoundWish) -> SamplerSoundOut:
    """Make a sound of a take or of a recording; raises NotFoundError for one that one may not hear."""
    if (wish.take is None) == (wish.recording is None):
        raise InnerToneError("It is not said of what the sound is to be made: of a take, or of a recording.")
    part = errands.Extent(wish.begin_s, wish.end_s)
    if wish.take is not None:
        patch, phrase = await take_again(work, wish.take)
        made = await work.do(errands.sound_of_take, patch, phrase, wish.tap, part)
    else:
        files = await work.files([wish.recording])
        made = await work.do(errands.sound_of_recording, files[str(wish.recording)], part)
    return await kept(work, made, wish)


async def kept(work: Work, made: NewSound, about: SamplerSoundAbout) -> SamplerSoundOut:
    """Let whoever asks have a sound."""
    said = about.model_dump(include={"name", "source", "licence"})
    most = work.settings.sound_minutes

    def keep(session: Session) -> SamplerSoundOut:
        facts = made.facts.model_dump(mode="json")
        return sound_out(store.keep(session, work.me.id, made.key, made.flac, facts, said, most), work.me)

    return await work.stored(keep)


@router.get("/shipped/{name}", response_class=Response, responses={200: {"content": {"audio/flac": {}}}})
async def get_shipped(work: TheWork, name: Annotated[str, Path(pattern=r"^[a-z]{1,20}$")]) -> Response:
    """Return a sound that comes with the program as a FLAC file; raises NotFoundError."""
    flac = await work.do(errands.shipped_sound, name)
    if flac is None:
        raise NotFoundError("No such sound comes with the program.")
    return Response(flac, media_type="audio/flac", headers={"Cache-Control": "private, max-age=86400"})


@router.get("/{key}")
def get_sound(session: Database, me: Me, key: SoundKey) -> SamplerSoundOut:
    """Return what is known of a sound to whoever has been given its key, as a patch gives it."""
    return sound_out(store.sound_as_had(session, me, key), me)


@router.get("/{key}/sound", response_class=Response, responses={200: {"content": {"audio/flac": {}}}})
async def get_samples(work: TheWork, key: SoundKey) -> Response:
    """Return a sound as a FLAC file, in one channel, at 48 kHz."""
    flac = await work.stored(lambda session: store.sound_as_had(session, work.me, key).sound.flac)
    headers = {"Cache-Control": "private, max-age=31536000, immutable"}
    return Response(flac, media_type="audio/flac", headers=headers)


@router.put("/{key}")
def describe_sound(session: Database, me: Me, key: SoundKey, wish: SamplerSoundAbout) -> SamplerSoundOut:
    """Call a sound of one's own otherwise, or say more of it; patches that play it keep the name that they have."""
    found = store.own_sound(session, me, key)
    found.name, found.source, found.licence = wish.name, wish.source, wish.licence
    session.flush()
    return sound_out(found, me)


@router.delete("/{key}", status_code=204)
def give_up_sound(session: Database, me: Me, key: SoundKey) -> None:
    """Take a sound off one's list; where patches play it, they go on to."""
    store.give_up(session, me, key)
