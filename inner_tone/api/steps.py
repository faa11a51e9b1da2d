"""Steps: changed, duplicated, deleted, restored."""

from typing import Annotated

from fastapi import APIRouter, Query, Response

from inner_tone.api.access import ReadableStep, ReadableStepBriefly, WritableStep
from inner_tone.api.context import Database
from inner_tone.api.schemas import (
    MOST_WHOLE,
    HistoryRow,
    KeptStepOut,
    StepAt,
    StepChange,
    StepOut,
    StepSplit,
    StepState,
    kept_step_out,
)
from inner_tone.api.shown import kept
from inner_tone.api.work import TheWork
from inner_tone.core.outside import INSTRUMENTS
from inner_tone.store import lessons as store
from inner_tone.store import written
from inner_tone.store.errors import NotFoundError
from inner_tone.work import errands

router = APIRouter(prefix="/api/steps", tags=["steps"])


@router.put("/{step_id}")
def change_step(session: Database, step_id: WritableStep, wish: StepChange) -> KeptStepOut:
    """Keep what is new in a step, with what others have changed in it since; where both have the same, it is asked."""
    old, step = store.change_step(session, step_id, wish.wish)
    return kept(session, old, step)


@router.post("/{step_id}/beside", status_code=201)
def keep_beside(session: Database, step_id: WritableStep, wish: StepChange) -> StepOut:
    """Put what is new into a step of its own behind this one, and leave this one as it is."""
    return kept_step_out(store.keep_beside(session, step_id, wish.wish))


@router.post("/{step_id}/duplicate", status_code=201)
def duplicate_step(session: Database, step_id: WritableStep) -> StepOut:
    """Add a copy behind a step."""
    return kept_step_out(store.duplicate_step(session, step_id))


@router.delete("/{step_id}", status_code=204)
def delete_step(session: Database, step_id: WritableStep) -> None:
    """Take a step out of its lesson; it can be restored."""
    store.delete_step(session, step_id)


@router.post("/{step_id}/restore")
def restore_step(session: Database, step_id: WritableStep) -> StepOut:
    """Bring a deleted step back to where it stood."""
    return kept_step_out(store.restore_step(session, step_id))


@router.post("/{step_id}/split", status_code=201)
def split_step(session: Database, step_id: WritableStep, wish: StepSplit) -> StepOut:
    """Put the first instructions of a step into a step of their own before it."""
    return kept_step_out(store.split_step(session, step_id, wish.version, wish.after))


@router.post("/{step_id}/join")
def join_step(session: Database, step_id: WritableStep, wish: StepAt) -> StepOut:
    """Make one step of a step and the one before it."""
    return kept_step_out(store.join_step(session, step_id, wish.version))


@router.post("/{step_id}/carry")
def carry(session: Database, step_id: WritableStep) -> list[StepState]:
    """Bring a step's change into all steps behind it; the states can be taken back together."""
    return [StepState(id=step.id, version=step.version) for step in store.carry(session, step_id)]


@router.get("/{step_id}/outside/{name}", response_class=Response, responses={200: {"content": {"audio/wav": {}}}})
async def get_outside(work: TheWork, step_id: ReadableStepBriefly, name: str) -> Response:
    """Return what somebody with another instrument would record of a step, as a WAV file."""
    if name not in INSTRUMENTS:
        raise NotFoundError(f"There is no instrument “{name}”. There are {', '.join(INSTRUMENTS)}.")
    content = await work.stored(lambda session: written.content_of(store.step_with(session, step_id)))
    sound = await work.do(errands.recorded_outside, name, content.patch, content.phrase)
    return Response(sound, media_type="audio/wav", headers={"Content-Disposition": f'inline; filename="{name}.wav"'})


@router.get("/{step_id}/history")
def get_history(
    session: Database,
    step_id: ReadableStep,
    before: Annotated[int | None, Query(ge=0, le=MOST_WHOLE)] = None,
    limit: Annotated[int, Query(ge=1, le=500)] = 200,
) -> list[HistoryRow]:
    """Return the states that a step has had, the newest first; with `before`, those older than a version."""
    rows = written.history_of(session, step_id, before, limit)
    return [HistoryRow.model_validate(row, from_attributes=True) for row in rows]
