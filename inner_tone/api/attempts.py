"""Doing a step at a bench of one's own: attempts, how near one is, what to turn, recordings of other instruments."""

import threading
import uuid
from typing import Annotated

from fastapi import APIRouter, Query, Request
from starlette.concurrency import run_in_threadpool

from inner_tone.api import following
from inner_tone.api.access import Me, OwnAttempt, OwnPlayed, OwnQuestion
from inner_tone.api.attempt_schemas import (
    AdviceOut,
    AdviceWish,
    AttemptChange,
    AttemptOut,
    AttemptState,
    AttemptWish,
    NearOut,
    NearWish,
    OwnBench,
    PlayedOut,
    QuestionOut,
    QuestionWish,
    SoundOut,
    StandingOut,
    advice_out,
    attempt_out,
    near_out,
    played_out,
    question_out,
    sound_out,
    standing_out,
)
from inner_tone.api.context import Database, TheStudio
from inner_tone.api.recordings import keep_sound, received, sound_in
from inner_tone.api.renders import TICKET
from inner_tone.core import nearness
from inner_tone.core.analysis.compare import RECORDED
from inner_tone.core.analysis.sentences.clause import sentence
from inner_tone.core.analysis.sentences.near import near_clauses
from inner_tone.core.lesson.nearby import Task
from inner_tone.core.lesson.nearby import nearness as how_near
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.match import match
from inner_tone.core.patch.validate import checked_patch
from inner_tone.core.units import capital
from inner_tone.store import attempts as store
from inner_tone.store import sources
from inner_tone.store.database import Sessions
from inner_tone.store.models import Account, Attempt

steps = APIRouter(prefix="/api/practice/{lesson_id}/steps/{step_id}", tags=["attempts"])
own = APIRouter(prefix="/api/attempts", tags=["attempts"])

searching = threading.Semaphore(1)  # one search keeps a processor busy for seconds


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
