"""Doing a step at a bench of one's own: attempts, how near one is, what to turn, recordings of other instruments."""

import uuid
from typing import Annotated

from fastapi import APIRouter, Query, Request
from sqlalchemy.orm import Session

from inner_tone.api import following
from inner_tone.api.access import AttemptToSee, Me, OwnAttempt, OwnPlayed, OwnPlayedBriefly, OwnQuestion
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
    TickedOut,
    advice_out,
    attempt_out,
    near_out,
    played_out,
    question_out,
    sound_out,
    standing_out,
)
from inner_tone.api.class_schemas import SeenOut
from inner_tone.api.context import Database
from inner_tone.api.received import received
from inner_tone.api.recordings import MOST_BYTES, TOO_LARGE, keep_sound, taken_in
from inner_tone.api.renders import TICKET
from inner_tone.api.schemas import MOST_WHOLE
from inner_tone.api.work import TheWork, Work
from inner_tone.core.lesson.nearby import Task
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.validate import checked_patch
from inner_tone.store import attempts as store
from inner_tone.store import sources
from inner_tone.store.errors import NotFoundError
from inner_tone.store.models import Account, Attempt, Recording
from inner_tone.work import errands

steps = APIRouter(prefix="/api/practice/{lesson_id}/steps/{step_id}", tags=["attempts"])
own = APIRouter(prefix="/api/attempts", tags=["attempts"])


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


async def task_for(work: Work, lesson_id: uuid.UUID, step_id: uuid.UUID) -> Task:
    """Return what is to be done in a step."""
    return await work.stored(lambda session: following.task_of(session, work.me, lesson_id, step_id))


@steps.post("/near")
async def get_near(work: TheWork, lesson_id: uuid.UUID, step_id: uuid.UUID, wish: NearWish) -> NearOut:
    """Return how near a patch is to what the step leads to, and note how far one has come."""
    task = await task_for(work, lesson_id, step_id)
    found = await work.do(errands.near, task, checked_patch(wish.patch))
    state: store.State = "done" if found.done else "near" if found.near else "opened"

    def noted(session: Session) -> NearOut:
        return near_out(found, store.stand(session, work.me, lesson_id, step_id, state, shown=wish.shown))

    return await work.stored(noted)


@steps.post("/ticks")
async def get_ticks(work: TheWork, lesson_id: uuid.UUID, step_id: uuid.UUID, wish: NearWish) -> TickedOut:
    """Return what a patch shows of the step's instructions, and which levers it has; note what remains to be done."""
    task, patch = await task_for(work, lesson_id, step_id), checked_patch(wish.patch)
    found = await work.do(errands.ticks, task, patch)
    missing = [one.text for one, shown in zip(task.said, found.shown, strict=True) if not shown]
    left = [] if patch == task.start else missing
    await work.stored(lambda session: store.note_left(session, work.me, lesson_id, step_id, left))
    return TickedOut(ticks=found.shown, levers=found.levers)


@steps.post("/advice")
async def get_advice(work: TheWork, lesson_id: uuid.UUID, step_id: uuid.UUID, wish: AdviceWish) -> list[AdviceOut]:
    """Return what to turn so that a patch sounds more like the step, the best first."""
    task, patch = await task_for(work, lesson_id, step_id), checked_patch(wish.patch)
    found = await work.alone(wish.ticket, errands.advised, task, patch)
    return [advice_out(one) for one in found]


@steps.post("/played", status_code=201)
async def give_recording(
    request: Request,
    work: TheWork,
    lesson_id: uuid.UUID,
    step_id: uuid.UUID,
    name: Annotated[str, Query(min_length=1, max_length=120)],
) -> PlayedOut:
    """Keep a recording of the step's phrase on another instrument, sent as it is."""
    await task_for(work, lesson_id, step_id)
    taken = await taken_in(work, await received(request, MOST_BYTES, TOO_LARGE))

    def kept(session: Session) -> PlayedOut:
        recording = keep_sound(session, work.me, name, taken, work.settings.recording_minutes)
        return played_out(store.give(session, work.me, lesson_id, step_id, recording, name))

    return await work.stored(kept)


async def recorded(work: Work, played_id: uuid.UUID) -> bytes:
    """Return a recording that one has given, as FLAC; raises NotFoundError."""

    def given(session: Session) -> Recording:
        return sources.recording(session, store.own_played(session, work.me, played_id).recording_key)

    return (await work.stored(given)).flac


@steps.get("/played/{played_id}")
async def compare_recording(
    work: TheWork, lesson_id: uuid.UUID, step_id: uuid.UUID, played_id: OwnPlayedBriefly
) -> SoundOut:
    """Return how near a recording is to what the step leads to, and note that if it is the same."""
    task, flac = await task_for(work, lesson_id, step_id), await recorded(work, played_id)
    found, tolerances, said = await work.do(errands.compared, task, flac)
    if found.same:
        await work.stored(lambda session: store.stand(session, work.me, lesson_id, step_id, "done"))
    return sound_out(found, tolerances, said)


@steps.post("/played/{played_id}/advice")
async def advise_recording(
    work: TheWork,
    lesson_id: uuid.UUID,
    step_id: uuid.UUID,
    played_id: OwnPlayedBriefly,
    ticket: Annotated[str | None, Query(pattern=TICKET)] = None,
) -> list[AdviceOut]:
    """Return what to turn on the instrument that was recorded, the best first."""
    task, flac = await task_for(work, lesson_id, step_id), await recorded(work, played_id)
    found = await work.alone(ticket, errands.advised_of, task, flac)
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
    if wish.may_show is not None:
        attempt.may_show = wish.may_show
    session.flush()
    return attempt_out(attempt)


@own.get("/{attempt_id}/seen")
async def look_at(work: TheWork, attempt_id: AttemptToSee) -> SeenOut:
    """Return a learner's attempt to those who may look at it: at the lesson's desk, or in a class."""

    def seen(session: Session) -> tuple[Task | None, Patch, SeenOut]:
        attempt = store.attempt_for(session, work.me, attempt_id)
        learner = session.get_one(Account, attempt.account_id)
        asked = store.questions_of(session, learner, attempt.lesson_id)
        shown = attempt_out(attempt)
        questions = [question_out(one) for one in asked if one.step_id == attempt.step_id]
        try:
            task = following.task_of(session, learner, attempt.lesson_id, attempt.step_id)
        except NotFoundError:  # the step has gone from what they follow, and what they have made of it is there
            task = None
        return task, shown.patch, SeenOut(name=learner.name, attempt=shown, questions=questions, levers={})

    task, patch, found = await work.stored(seen)
    if task is None:
        return found
    return found.model_copy(update={"levers": (await work.do(errands.ticks, task, patch)).levers})


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
    before: Annotated[int | None, Query(ge=0, le=MOST_WHOLE)] = None,
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
