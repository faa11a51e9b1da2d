"""Steps: changed, duplicated, deleted, restored."""

import uuid
from typing import Annotated

from fastapi import APIRouter, Query

from inner_tone.api.context import Database
from inner_tone.api.schemas import HistoryRow, StepChange, StepOut, step_out
from inner_tone.core.lesson.step import checked
from inner_tone.store import lessons as store

router = APIRouter(prefix="/api/steps", tags=["steps"])


@router.put("/{step_id}")
def change_step(session: Database, step_id: uuid.UUID, wish: StepChange) -> StepOut:
    """Keep a new content of a step, unless somebody else has changed it since."""
    return step_out(store.change_step(session, step_id, wish.version, checked(wish.content)))


@router.post("/{step_id}/duplicate", status_code=201)
def duplicate_step(session: Database, step_id: uuid.UUID) -> StepOut:
    """Add a copy behind a step."""
    return step_out(store.duplicate_step(session, step_id))


@router.delete("/{step_id}", status_code=204)
def delete_step(session: Database, step_id: uuid.UUID) -> None:
    """Take a step out of its lesson; it can be restored."""
    store.delete_step(session, step_id)


@router.post("/{step_id}/restore")
def restore_step(session: Database, step_id: uuid.UUID) -> StepOut:
    """Bring a deleted step back to where it stood."""
    return step_out(store.restore_step(session, step_id))


@router.get("/{step_id}/history")
def get_history(
    session: Database, step_id: uuid.UUID, before: int | None = None, limit: Annotated[int, Query(ge=1, le=500)] = 200
) -> list[HistoryRow]:
    """Return the states that a step has had, the newest first; with `before`, those older than a version."""
    rows = store.history_of(session, step_id, before, limit)
    return [HistoryRow.model_validate(row, from_attributes=True) for row in rows]
