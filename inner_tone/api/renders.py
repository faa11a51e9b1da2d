"""Renders: the sound of a patch playing a phrase, its measures, and what lenses show of it."""

import threading
from typing import Annotated

from cachetools import TTLCache
from fastapi import APIRouter, BackgroundTasks, Path, Request, Response
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, Field

from inner_tone.api.schemas import MOST_SET, Incoming
from inner_tone.api.work import TheWork, Work, unpacked
from inner_tone.core.engine.render import render_key
from inner_tone.core.errors import InnerToneError
from inner_tone.core.lens.look import View
from inner_tone.core.lens.moment import Moment
from inner_tone.core.lens.recipe import RECORDING, Behind
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.listening import Listening, heard
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import SetValue
from inner_tone.core.patch.validate import checked_patch
from inner_tone.core.phrase import MOST_PARTS, Companion, Phrase, checked_phrase
from inner_tone.store import renders as store
from inner_tone.store import sources
from inner_tone.store.database import Sessions
from inner_tone.store.errors import NotFoundError
from inner_tone.work import errands
from inner_tone.work.answers import RenderOut
from inner_tone.work.errands import RenderTask
from inner_tone.work.node import Node

router = APIRouter(prefix="/api/renders", tags=["renders"])


NOTED_SECONDS = 60.0
TICKET = r"^[A-Za-z0-9-]{8,64}$"
Ticket = Annotated[str, Path(pattern=TICKET)]


Key = Annotated[str, Field(pattern=RECORDING)]


class Since(Incoming):
    """A take that has been answered, as it was written, the settings that are others since, and its company."""

    take: Key
    company: Annotated[tuple[Companion, ...], Field(max_length=MOST_PARTS)] = ()
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


class ProgressOut(BaseModel):
    """How much of a render is done, 0 to 1; nothing if it is not under way."""

    part: float | None


class LoudnessOut(BaseModel):
    """How loud a render is heard, in LUFS (ITU-R BS.1770)."""

    lufs: float


_noted: TTLCache[tuple[object, str], bool] = TTLCache(10_000, NOTED_SECONDS)
_kept: TTLCache[tuple[object, str], bool] = TTLCache(10_000, NOTED_SECONDS)
_noting = threading.Lock()


@router.post("", response_model=RenderOut)
async def render_patch(tasks: BackgroundTasks, request: Request, work: TheWork, wish: RenderWish) -> Response:
    """Render, or remember, and look: once for all who wish for the very same."""
    written, phrase, behind = await run_in_threadpool(meant, work.node.sessions, wish)
    same = wish.model_copy(update={"patch": written, "phrase": phrase, "behind": behind, "since": None, "ticket": None})
    task = RenderTask(written, phrase, tuple(wish.lenses), wish.moment, behind, wish.listening)
    files = await work.files([behind.recording if behind else None])
    found = await work.once(same.model_dump_json().encode(), wish.ticket, errands.rendered, task, files)
    played = heard(written, wish.listening)
    key = render_key(played, phrase)
    await run_in_threadpool(note_take, work.node, key, played, phrase)
    tasks.add_task(keep_if_saved, work, key, played, phrase)
    answer = await unpacked(request, found)
    answer.background = tasks
    return answer


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
    if behind is not None and behind.phrase is not None:
        checked_phrase(behind.phrase)
    if wish.since is not None:
        patch, phrase = played(sessions, wish.since.take)
        phrase = checked_phrase(phrase.model_copy(update={"company": wish.since.company}))
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


def note_take(node: Node, key: str, patch: Patch, phrase: Phrase) -> None:
    """Note what a key stands for, so that its sound can be had from any node, now and later."""
    with _noting:
        known = (node.wire.node, key) in _noted
        _noted[node.wire.node, key] = True
    if known:  # a class that hears the same need not write the same down again and again
        return
    with node.sessions.begin() as session:
        alone = phrase.model_copy(update={"company": ()})  # whoever sounds along is no part of a take
        sources.keep_take(session, key, patch, alone, node.wire.node)


async def take_again(work: Work, key: str) -> tuple[Patch, Phrase]:
    """Return what a render's key stands for; raises NotFoundError."""
    played = await work.stored(lambda session: sources.take_of(session, key))
    if played is None or render_key(*played) != key:
        raise NotFoundError("This sound is no longer remembered. Render it again.")
    return played


async def keep_if_saved(work: Work, key: str, patch: Patch, phrase: Phrase) -> None:
    """Keep the sound if a saved step has it, so that it need not be rendered again after a restart."""
    place = work.node.wire.node, key
    if place in _kept:  # a class that hears the same need not ask again and again
        return

    kept = await work.stored(lambda session: store.is_kept(session, key))
    if not kept and await work.stored(lambda session: store.belongs_to_step(session, key)):
        try:
            wav = await work.node.sound(work.me.id, patch, phrase)
        except InnerToneError:  # whoever asks for it next has it kept
            return
        await work.stored(lambda session: store.keep(session, key, wav, work.settings.kept_sounds))
        kept = True
    if kept:
        _kept[place] = True


@router.get("/progress/{ticket}")
async def get_progress(work: TheWork, ticket: Ticket) -> ProgressOut:
    """Return how far a render of one's own is, if it is under way."""
    return ProgressOut(part=await work.node.progress(f"{work.me.id} {ticket}"))


@router.delete("/progress/{ticket}", status_code=204)
async def stop_render(work: TheWork, ticket: Ticket) -> None:
    """Give up a render of one's own; one that is done already, or was never begun, is no error."""
    await work.node.stop_wish(f"{work.me.id} {ticket}")


@router.get("/{key}/loudness")
async def get_loudness(work: TheWork, key: str) -> LoudnessOut:
    """Return how loud a render is heard, so that two can be compared equally loud."""
    return LoudnessOut(lufs=await work.do(errands.loudness, *await take_again(work, key)))


@router.get("/{key}/sound", response_class=Response, responses={200: {"content": {"audio/wav": {}}}})
async def get_sound(work: TheWork, key: str) -> Response:
    """Return a render's sound as a WAV file, in stereo."""
    wav = await work.stored(lambda session: store.wav_of(session, key))
    if wav is None:
        wav = await work.sound(*await take_again(work, key))
    return Response(wav, media_type="audio/wav", headers={"Cache-Control": "private, max-age=31536000, immutable"})
