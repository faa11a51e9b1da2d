"""Renders: the sound of a patch playing a phrase, its measures, and what lenses show of it."""

import threading
from collections.abc import Collection
from hashlib import sha256
from typing import Annotated

from cachetools import TTLCache
from fastapi import APIRouter, BackgroundTasks, Path, Request, Response
from pydantic import BaseModel, Field

from inner_tone.api.charts import TheRecordings, sounds_of
from inner_tone.api.context import Database, TheStudio
from inner_tone.api.once import Once
from inner_tone.api.schemas import MOST_SET, Incoming
from inner_tone.api.studio import Studio, Take
from inner_tone.core.analysis.closeup import on_cards
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.checkup import Code, Finding, checkup
from inner_tone.core.engine.render import Render, render_key
from inner_tone.core.errors import InnerToneError
from inner_tone.core.lens.chart import Chart, Seen, seen_in
from inner_tone.core.lens.look import taps_of
from inner_tone.core.lens.moment import Moment, span_of
from inner_tone.core.lens.recipe import RECORDING, Behind, Recipe, Recordings, beside, chart_of
from inner_tone.core.lens.view import View
from inner_tone.core.modules.version import engine_version
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.listening import Listening, heard
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import Edit, SetValue
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.validate import checked_patch
from inner_tone.core.phrase import Phrase, checked_phrase
from inner_tone.formats.audio import stereo, wav_bytes
from inner_tone.store import renders as store
from inner_tone.store import sources
from inner_tone.store.database import Sessions
from inner_tone.store.errors import NotFoundError

router = APIRouter(prefix="/api/renders", tags=["renders"])


NOTED_SECONDS = 60.0
MOST_ANSWERS = 200  # of about a hundred kB each
TICKET = r"^[A-Za-z0-9-]{8,64}$"
Ticket = Annotated[str, Path(pattern=TICKET)]


Key = Annotated[str, Field(pattern=RECORDING)]


class Since(Incoming):
    """A take that has been answered, as it was written, and the settings that are others since."""

    take: Key
    settings: Annotated[list[SetValue], Field(max_length=MOST_SET, default_factory=list)]


class BehindWish(Behind):
    """What stands behind the lenses; a patch and its phrase may be given by the key of their take."""

    take: Key | None = None


class RenderWish(Incoming):
    """A patch, a phrase, the lenses through which to look at the result, and what is muted, bypassed or alone.

    Instead of patch and phrase it may say what has been set `since` a take. An unknown take is answered with 404.
    All lenses look at one `moment`, and what stands `behind` is behind every one of them. Whoever makes up a ticket can
    ask how far the render is and stop it.
    """

    patch: Patch | None = None
    phrase: Phrase | None = None
    since: Since | None = None
    lenses: Annotated[list[View], Field(max_length=16, default_factory=list)]
    moment: Moment | None = None
    behind: BehindWish | None = None
    listening: Listening = Listening()
    ticket: Annotated[str | None, Field(pattern=TICKET)] = None


class MeasureOut(BaseModel):
    """What a port did: extremes, RMS, mean, and its outline in 128 parts.

    Of what a card shows closely, `cycle` has two cycles of its wave, or some
    milliseconds where `cycle_hz` is 0, and `bands` its levels in dB from 40 Hz to 16 kHz.
    """

    least: float
    greatest: float
    rms: float
    mean: float
    lows: list[float]
    highs: list[float]
    cycle: list[float]
    cycle_hz: float
    bands: list[float]


class ProgressOut(BaseModel):
    """How much of a render is done, 0 to 1; nothing if it is not under way."""

    part: float | None


class LoudnessOut(BaseModel):
    """How loud a render is heard, in LUFS (ITU-R BS.1770)."""

    lufs: float


class FindingOut(BaseModel):
    """What the checkup found at one place; `edits`, or another phrase, mend it where one move does."""

    code: Code
    module: str
    port: str
    message: str
    measured: str
    why: str
    remedy: str
    action: str
    edits: list[Edit]
    phrase: Phrase | None


class RenderOut(BaseModel):
    """A render; its sound is at /api/renders/{key}/sound. Of a silent patch, `reach` are the modules that sound.

    `silences` says why modules give no sound.
    """

    key: str
    seconds: float
    limited_db: float
    measures: dict[str, MeasureOut]
    lenses: list[Chart]
    findings: list[FindingOut]
    reach: list[str]
    silences: dict[str, str]
    moment: Seen


def finding_out(one: Finding) -> FindingOut:
    """Return a finding for the wire."""
    return FindingOut(
        code=one.code,
        module=one.module,
        port=one.port,
        message=one.message,
        measured=one.measured,
        why=one.why,
        remedy=one.remedy.words,
        action=one.remedy.action or one.remedy.words,
        edits=list(one.remedy.edits),
        phrase=one.remedy.phrase,
    )


_noted: TTLCache[tuple[object, str], bool] = TTLCache(10_000, NOTED_SECONDS)
_kept: TTLCache[tuple[object, str], bool] = TTLCache(10_000, NOTED_SECONDS)
_noting = threading.Lock()
_answers: Once[tuple[str, bytes]] = Once(MOST_ANSWERS)


@router.post("", response_model=RenderOut)
def render_patch(
    request: Request, tasks: BackgroundTasks, studio: TheStudio, recordings: TheRecordings, wish: RenderWish
) -> Response:
    """Render, or remember, and look: once for all who wish for the very same."""
    written, phrase, behind = meant(request.app.state.sessions, wish)
    same = wish.model_copy(update={"patch": written, "phrase": phrase, "behind": behind, "since": None, "ticket": None})
    wanted = sha256(same.model_dump_json().encode()).digest()

    def work() -> tuple[str, bytes]:
        found = looked(studio, recordings, wish, written, phrase, behind)
        return found.key, found.model_dump_json().encode()

    key, found = _answers.of((engine_version(), wanted), work)
    known = studio.known(key)
    if known is not None:
        tasks.add_task(keep_if_saved, request.app.state.sessions, known.render)
    note_take(request.app.state.sessions, key, heard(written, wish.listening), phrase)
    return Response(found, media_type="application/json")


def looked(
    studio: Studio,
    recordings: Recordings,
    wish: RenderWish,
    written: Patch,
    phrase: Phrase,
    behind: Behind | None,
) -> RenderOut:
    """Return what a render is, and what is seen and found of it."""
    patch = heard(written, wish.listening)
    graph = Graph(patch)
    taps = {*tap_behind(behind)}.union(*(taps_of(view, graph) for view in wish.lenses))
    take = studio.take(patch, phrase, taps, name=wish.ticket)

    def sounds(wanted: Patch, played: Phrase, ports: Collection[str]) -> dict[str, Sound]:
        return {tap: take.sounds[tap] for tap in ports} if wanted is patch else sounds_of(studio, wanted, played, ports)

    found = checkup(patch, phrase, take.render, take.jumps)
    return RenderOut(
        key=take.render.key,
        seconds=take.render.seconds,
        limited_db=take.render.limited_db,
        measures={
            port: MeasureOut.model_validate(one)
            for port, one in on_cards(take.render.measures, take.render.close, take.render.rate).items()
        },
        lenses=[
            chart_of(
                Recipe(view=view, patch=patch, phrase=phrase, moment=wish.moment, behind=behind), sounds, recordings
            )
            for view in wish.lenses
        ],
        findings=[finding_out(one) for one in found.findings],
        reach=list(found.reach),
        silences=dict(found.silences),
        moment=seen_in(span_of(wish.moment, phrase), take.render.seconds),
    )


def meant(sessions: Sessions, wish: RenderWish) -> tuple[Patch, Phrase, Behind | None]:
    """Return the patch, the phrase and what stands behind, with what is given by a take's key put in.

    Raises NotFoundError, DocumentError or EditError.
    """
    behind = wish.behind
    if behind is not None and behind.take is not None:
        patch, phrase = played(sessions, behind.take)
        behind = behind.model_copy(update={"patch": patch, "phrase": phrase})
    elif behind is not None and behind.patch is not None:
        checked_patch(behind.patch)
    if wish.since is not None:
        patch, phrase = played(sessions, wish.since.take)
        return checked_patch(made(patch, wish.since.settings).patch), phrase, behind
    if wish.patch is None or wish.phrase is None:
        raise InnerToneError("It is not said what to render: a patch and a phrase, or a take and what is set since.")
    return checked_patch(wish.patch), checked_phrase(wish.phrase), behind


def played(sessions: Sessions, key: str) -> tuple[Patch, Phrase]:
    """Return the patch and the phrase of a take; raises NotFoundError."""
    with sessions.begin() as session:  # ended at once: who waits for a render holds no connection
        found = sources.take_of(session, key)
    if found is None:
        raise NotFoundError("This take is no longer remembered. Send its patch and its phrase.")
    return found


def tap_behind(behind: Behind | None) -> set[Port]:
    """Return the tap of the same patch that stands behind the lenses, if one does."""
    return {behind.tap} if behind and beside(behind) and behind.tap else set()


def note_take(sessions: Sessions, key: str, patch: Patch, phrase: Phrase) -> None:
    """Note what a key stands for, so that its sound can be had from any process, now and later."""
    database = sessions.kw["bind"].url
    with _noting:
        known = (database, key) in _noted
        _noted[database, key] = True
    if known:  # a class that hears the same need not write the same down again and again
        return
    with sessions.begin() as session:
        sources.keep_take(session, key, patch, phrase)


def take_again(session: Database, studio: TheStudio, key: str) -> Take:
    """Return a take by its key, as it is remembered or made again; raises NotFoundError."""
    known = studio.known(key)
    if known is not None:
        return known
    played = sources.take_of(session, key)
    if played is None or render_key(*played) != key:
        raise NotFoundError("This sound is no longer remembered. Render it again.")
    return studio.take(*played)


def keep_if_saved(sessions: Sessions, done: Render) -> None:
    """Keep the sound if a saved step has it, so that it need not be rendered again after a restart."""
    place = sessions.kw["bind"].url, done.key
    with _noting:
        if place in _kept:  # a class that hears the same need not ask again and again
            return
    with sessions.begin() as session:
        kept = store.is_kept(session, done.key)
        if not kept and store.belongs_to_step(session, done.key):
            store.keep(session, done.key, wav_bytes(stereo(done), done.rate))
            kept = True
    with _noting:
        if kept:
            _kept[place] = True


@router.get("/progress/{ticket}")
def get_progress(studio: TheStudio, ticket: Ticket) -> ProgressOut:
    """Return how far a render is, if it is under way."""
    return ProgressOut(part=studio.progress(ticket))


@router.delete("/progress/{ticket}", status_code=204)
def stop_render(studio: TheStudio, ticket: Ticket) -> None:
    """Give up a render; one that is done already, or was never begun, is no error."""
    studio.stop(ticket)


@router.get("/{key}/loudness")
def get_loudness(session: Database, studio: TheStudio, key: str) -> LoudnessOut:
    """Return how loud a render is heard, so that two can be compared equally loud."""
    return LoudnessOut(lufs=take_again(session, studio, key).loudness_lufs)


@router.get("/{key}/sound", response_class=Response, responses={200: {"content": {"audio/wav": {}}}})
def get_sound(session: Database, studio: TheStudio, key: str) -> Response:
    """Return a render's sound as a WAV file, in stereo."""
    wav = store.wav_of(session, key) if studio.known(key) is None else None
    if wav is None:
        done = take_again(session, studio, key).render
        wav = wav_bytes(stereo(done), done.rate)
    return Response(wav, media_type="audio/wav", headers={"Cache-Control": "private, max-age=31536000, immutable"})
