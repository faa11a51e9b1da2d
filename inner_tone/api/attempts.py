"""Doing a step at a bench of one's own: attempts, how near one is, what to turn, recordings of other instruments."""

import threading
import uuid
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel, Field
from starlette.concurrency import run_in_threadpool

from inner_tone.api import following
from inner_tone.api.access import Me, OwnAttempt, OwnPlayed, OwnQuestion
from inner_tone.api.context import Database, TheStudio
from inner_tone.api.recordings import keep_sound, received, sound_in
from inner_tone.api.renders import TICKET
from inner_tone.api.schemas import MOST_SET, Incoming
from inner_tone.core import nearness
from inner_tone.core.advice import Advice
from inner_tone.core.analysis.compare import RECORDED, Comparison, Tolerances
from inner_tone.core.analysis.sentences.clause import sentence
from inner_tone.core.analysis.sentences.near import near_clauses
from inner_tone.core.lesson.nearby import Nearness, Task, answer
from inner_tone.core.lesson.nearby import nearness as how_near
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.match import match
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import Edit, SetValue
from inner_tone.core.patch.validate import checked_patch
from inner_tone.core.units import capital
from inner_tone.store import attempts as store
from inner_tone.store import sources
from inner_tone.store.database import Sessions
from inner_tone.store.models import Account, Attempt, Played, Question, Standing

steps = APIRouter(prefix="/api/practice/{lesson_id}/steps/{step_id}", tags=["attempts"])
own = APIRouter(prefix="/api/attempts", tags=["attempts"])

Name = Annotated[str, Field(min_length=1, max_length=60)]
FIRST_NAME = "My bench"
searching = threading.Semaphore(1)  # one search keeps a processor busy for seconds


class AttemptOut(BaseModel):
    """What somebody has made of a step, under a name."""

    id: uuid.UUID
    step_id: uuid.UUID
    name: str
    version: int
    patch: Patch
    updated_at: datetime


class StandingOut(BaseModel):
    """How far somebody has come with a step, and whether some of it was shown to them."""

    step_id: uuid.UUID
    state: store.State
    shown: bool
    at: datetime


class QuestionOut(BaseModel):
    """A question at a place of a step, and its answer, if there is one."""

    id: uuid.UUID
    step_id: uuid.UUID
    attempt_id: uuid.UUID | None
    place: str
    text: str
    answer: str
    asked_at: datetime
    answered_at: datetime | None


class PlayedOut(BaseModel):
    """A recording that was given of a step; `key` is that of the recording."""

    id: uuid.UUID
    key: str
    name: str
    at: datetime


class OwnBench(BaseModel):
    """What there is of one's own at a step: what it begins with, attempts, how far one is, questions and recordings."""

    start: Patch
    attempts: list[AttemptOut]
    standing: StandingOut | None
    questions: list[QuestionOut]
    played: list[PlayedOut]


class AttemptWish(Incoming):
    """An attempt to be begun under a name: with a patch, or with what the step begins with."""

    name: Name = FIRST_NAME
    patch: Patch | None = None


class AttemptChange(Incoming):
    """What is new in an attempt since it stood at `version`: its patch, or only settings of it, and its name.

    `request` names the wish, and `own` those of the same page that may have been fulfilled since. `shown` if what is
    new was shown rather than done.
    """

    version: int
    name: Name | None = None
    patch: Patch | None = None
    settings: Annotated[list[SetValue], Field(max_length=MOST_SET, default_factory=list)]
    request: uuid.UUID | None = None
    own: Annotated[list[uuid.UUID], Field(max_length=8, default_factory=list)]
    shown: bool = False


class AttemptState(BaseModel):
    """A state that an attempt has had."""

    version: int
    action: str
    patch: Patch
    at: datetime


class HintOut(BaseModel):
    """Help with one thing that remains: where to look, what to do, and the edits that do it."""

    where: str
    what: str
    module: str
    edits: list[Edit]


class FigureOut(BaseModel):
    """One figure of a comparison: how far off it is, and how far counts as the same; nothing where nothing is there."""

    name: str
    words: str
    unit: str
    value: float | None
    limit: float


class SoundOut(BaseModel):
    """How near a sound is, and when its phrase begins. Where that cannot be told, `cannot_tell` says why."""

    same: bool
    confidence: float
    cannot_tell: str | None
    sentence: str
    level_db: float
    begins_s: float
    figures: list[FigureOut]


class NearWish(Incoming):
    """A patch of which it is asked how near it is; and whether some of it was shown."""

    patch: Patch
    shown: bool = False


class NearOut(BaseModel):
    """How near somebody is to what a step leads to.

    `ticks` says of each of the step's instructions whether the patch shows it; `hints` help with what remains.
    """

    answer: str
    done: bool
    near: bool
    untouched: bool
    wiring: bool
    ticks: list[bool]
    hints: list[HintOut]
    sound: SoundOut
    standing: StandingOut


class AdviceWish(Incoming):
    """A patch for which advice is sought; whoever makes up a ticket can ask how far that is and stop it."""

    patch: Patch
    ticket: Annotated[str | None, Field(pattern=TICKET)] = None


class AdviceOut(BaseModel):
    """What to turn, the way and about how far."""

    module: str
    setting: str
    text: str


class QuestionWish(Incoming):
    """A question at a place of a step, with the attempt that it is about."""

    place: Annotated[str, Field(max_length=400)] = ""
    text: Annotated[str, Field(min_length=1, max_length=2_000)]
    attempt_id: uuid.UUID | None = None


def attempt_out(one: Attempt) -> AttemptOut:
    """Return an attempt for the wire."""
    return AttemptOut(
        id=one.id,
        step_id=one.step_id,
        name=one.name,
        version=one.version,
        patch=store.patch_of(one),
        updated_at=one.updated_at,
    )


def standing_out(one: Standing) -> StandingOut:
    """Return a standing for the wire."""
    return StandingOut.model_validate(one, from_attributes=True)


def question_out(one: Question) -> QuestionOut:
    """Return a question for the wire."""
    return QuestionOut.model_validate(one, from_attributes=True)


def played_out(one: Played) -> PlayedOut:
    """Return a recording that was given, for the wire."""
    return PlayedOut(id=one.id, key=one.recording_key, name=one.name, at=one.at)


def advice_out(one: Advice) -> AdviceOut:
    """Return advice for the wire."""
    return AdviceOut(module=one.module, setting=one.setting, text=one.text)


FIGURES = (
    ("pitch_cents", "pitch", "cents"),
    ("partials_db", "partials", "dB"),
    ("envelope_db", "envelope", "dB"),
    ("spectrum_db", "spectrum over time", "dB"),
)


def sound_out(found: Comparison, tolerances: Tolerances, said: str) -> SoundOut:
    """Return a comparison for the wire."""
    return SoundOut(
        same=found.same,
        confidence=found.confidence,
        cannot_tell=nearness.REASONS[found.cannot_tell] if found.cannot_tell else None,
        sentence=said,
        level_db=round(found.level_db, 2),
        begins_s=round(found.begins_s, 4),
        figures=[
            FigureOut(name=name, words=words, unit=unit, value=getattr(found, name), limit=getattr(tolerances, name))
            for name, words, unit in FIGURES
        ],
    )


def near_out(found: Nearness, standing: Standing) -> NearOut:
    """Return how near somebody is, for the wire."""
    said = capital(sentence(found.clauses)) if found.clauses else ""
    return NearOut(
        answer=answer(found),
        done=found.done,
        near=found.near,
        untouched=found.untouched,
        wiring=found.match.same,
        ticks=list(found.shown),
        hints=[
            HintOut(where=one.where, what=one.what, module=one.module, edits=list(one.edits)) for one in found.hints
        ],
        sound=sound_out(found.sound, found.tolerances, said),
        standing=standing_out(standing),
    )


@steps.get("/bench")
def get_own_bench(session: Database, me: Me, lesson_id: uuid.UUID, step_id: uuid.UUID) -> OwnBench:
    """Return what there is of one's own at a step."""
    task = following.task_of(session, me, lesson_id, step_id)
    standings = {one.step_id: one for one in store.standings_of(session, me, lesson_id)}
    here = standings.get(step_id)
    return OwnBench(
        start=task.start,
        attempts=[attempt_out(one) for one in store.attempts_at(session, me, lesson_id, step_id)],
        standing=standing_out(here) if here else None,
        questions=[question_out(one) for one in store.questions_of(session, me, lesson_id) if one.step_id == step_id],
        played=[played_out(one) for one in store.played_at(session, me, lesson_id, step_id)],
    )


@steps.post("/attempts", status_code=201)
def begin_attempt(session: Database, me: Me, lesson_id: uuid.UUID, step_id: uuid.UUID, wish: AttemptWish) -> AttemptOut:
    """Begin an attempt at a step."""
    task = following.task_of(session, me, lesson_id, step_id)
    patch = checked_patch(wish.patch) if wish.patch is not None else task.start
    return attempt_out(store.begin(session, me, lesson_id, step_id, wish.name, patch))


def task_for(request: Request, me: Account, lesson_id: uuid.UUID, step_id: uuid.UUID) -> Task:
    """Return what is to be done in a step; whoever then waits for a render holds no connection."""
    makers: Sessions = request.app.state.sessions
    with makers.begin() as session:
        return following.task_of(session, me, lesson_id, step_id)


@steps.post("/near")
def get_near(request: Request, me: Me, lesson_id: uuid.UUID, step_id: uuid.UUID, wish: NearWish) -> NearOut:
    """Return how near a patch is to what the step leads to, and note how far one has come."""
    task = task_for(request, me, lesson_id, step_id)
    found = how_near(task, checked_patch(wish.patch), following.target_of(task))
    state: store.State = "done" if found.done else "near" if found.near else "opened"
    with request.app.state.sessions.begin() as session:
        standing = store.stand(session, me, lesson_id, step_id, state, shown=wish.shown)
        return near_out(found, standing)


@steps.post("/ticks")
def get_ticks(request: Request, me: Me, lesson_id: uuid.UUID, step_id: uuid.UUID, wish: NearWish) -> list[bool]:
    """Return, for each of the step's instructions, whether a patch shows it."""
    task = task_for(request, me, lesson_id, step_id)
    return match(checked_patch(wish.patch), task.goal, task.start).shown(task.said)


@steps.post("/advice")
def get_advice(
    request: Request, studio: TheStudio, me: Me, lesson_id: uuid.UUID, step_id: uuid.UUID, wish: AdviceWish
) -> list[AdviceOut]:
    """Return what to turn so that a patch sounds more like the step, the best first."""
    task = task_for(request, me, lesson_id, step_id)
    target, patch = following.target_of(task), checked_patch(wish.patch)
    with studio.ticket(f"advice {wish.ticket}", wish.ticket) as ticket, ticket.holding(searching):
        found = nearness.advice_for(target, patch, task.phrase, ticket.flight.watch)
    return [advice_out(one) for one in found]


@steps.post("/played", status_code=201)
async def give_recording(
    request: Request,
    me: Me,
    lesson_id: uuid.UUID,
    step_id: uuid.UUID,
    name: Annotated[str, Query(min_length=1, max_length=120)],
) -> PlayedOut:
    """Keep a recording of the step's phrase on another instrument, sent as it is."""
    data = await received(request)

    def kept() -> PlayedOut:
        with request.app.state.sessions.begin() as session:
            following.task_of(session, me, lesson_id, step_id)
            recording = keep_sound(session, me, name, data)
            return played_out(store.give(session, me, lesson_id, step_id, recording, name))

    return await run_in_threadpool(kept)


def recorded_sound(request: Request, me: Account, played_id: uuid.UUID) -> tuple[Floats, float]:
    """Return the samples of a recording that one has given, and their rate in Hz; raises NotFoundError."""
    with request.app.state.sessions.begin() as session:
        given = store.own_played(session, me, played_id)
        sound = sound_in(sources.recording(session, given.recording_key))
    return sound.signal, sound.rate


@steps.get("/played/{played_id}")
def compare_recording(
    request: Request, me: Me, lesson_id: uuid.UUID, step_id: uuid.UUID, played_id: OwnPlayed
) -> SoundOut:
    """Return how near a recording is to what the step leads to, and note that if it is the same."""
    signal, rate = recorded_sound(request, me, played_id)
    task = task_for(request, me, lesson_id, step_id)
    tolerances = RECORDED.wider(task.aim.tolerance if task.aim else 1.0)
    found = nearness.recording_compared(task.goal, task.phrase, signal, rate, tolerances)
    clauses = near_clauses(following.target_of(task), found, tolerances) if not found.same else []
    with request.app.state.sessions.begin() as session:
        if found.same:
            store.stand(session, me, lesson_id, step_id, "done")
    return sound_out(found, tolerances, capital(sentence(clauses)) if clauses else "")


@steps.post("/played/{played_id}/advice")
def advise_recording(
    request: Request,
    studio: TheStudio,
    me: Me,
    lesson_id: uuid.UUID,
    step_id: uuid.UUID,
    played_id: OwnPlayed,
    ticket: Annotated[str | None, Query(pattern=TICKET)] = None,
) -> list[AdviceOut]:
    """Return what to turn on the instrument that was recorded, the best first."""
    signal, rate = recorded_sound(request, me, played_id)
    task = task_for(request, me, lesson_id, step_id)
    with studio.ticket(f"advice {ticket}", ticket) as held, held.holding(searching):
        found = nearness.advice_for_recording(task.goal, task.phrase, signal, rate, held.flight.watch)
    return [advice_out(one) for one in found]


@steps.delete("/played/{played_id}", status_code=204)
def drop_recording(session: Database, me: Me, lesson_id: uuid.UUID, step_id: uuid.UUID, played_id: OwnPlayed) -> None:
    """Take a recording of one's own back."""
    session.delete(store.own_played(session, me, played_id))


@steps.post("/questions", status_code=201)
def ask(session: Database, me: Me, lesson_id: uuid.UUID, step_id: uuid.UUID, wish: QuestionWish) -> QuestionOut:
    """Put a question to the educator."""
    following.task_of(session, me, lesson_id, step_id)
    return question_out(store.ask(session, me, lesson_id, step_id, wish.attempt_id, wish.place, wish.text))


@own.get("/standings")
def list_standings(session: Database, me: Me, lesson_id: uuid.UUID) -> list[StandingOut]:
    """Return how far one has come with the steps of a lesson."""
    return [standing_out(one) for one in store.standings_of(session, me, lesson_id)]


@own.put("/{attempt_id}")
def change_attempt(session: Database, me: Me, attempt_id: OwnAttempt, wish: AttemptChange) -> AttemptOut:
    """Keep what is new in an attempt of one's own."""
    attempt = store.own_attempt(session, me, attempt_id, lock=True)
    if wish.patch is not None or wish.settings:
        base = wish.patch if wish.patch is not None else store.patch_at(session, attempt, wish.version)
        patch = checked_patch(made(base, wish.settings).patch)
        store.change(session, attempt, wish.version, patch, wish.request, wish.own, shown=wish.shown)
    if wish.name is not None:
        attempt.name = wish.name
    session.flush()
    return attempt_out(attempt)


@own.delete("/{attempt_id}", status_code=204)
def delete_attempt(session: Database, me: Me, attempt_id: OwnAttempt) -> None:
    """Delete an attempt of one's own, with its history."""
    attempt = store.own_attempt(session, me, attempt_id, lock=True)
    store.forget(session, Attempt.id == attempt.id)


@own.get("/{attempt_id}/history")
def get_history(
    session: Database,
    me: Me,
    attempt_id: OwnAttempt,
    before: int | None = None,
    limit: Annotated[int, Query(ge=1, le=500)] = 200,
) -> list[AttemptState]:
    """Return the states that an attempt of one's own has had, the newest first."""
    attempt = store.own_attempt(session, me, attempt_id)
    rows = store.history_of(session, attempt, before, limit)
    return [AttemptState.model_validate(row, from_attributes=True) for row in rows]


@own.delete("/questions/{question_id}", status_code=204)
def take_back(session: Database, me: Me, question_id: OwnQuestion) -> None:
    """Take a question of one's own back."""
    session.delete(store.own_question(session, me, question_id))
