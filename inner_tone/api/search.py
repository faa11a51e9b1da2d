"""Search over one's own and shared lessons: titles, texts, names and types of modules."""

import uuid
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from inner_tone.api.access import Educator
from inner_tone.api.context import Database
from inner_tone.store.search import FoundStep, found_steps

router = APIRouter(prefix="/api/search", tags=["search"])


class FoundStepOut(BaseModel):
    """A step that was found, at its place from 0. Every second piece of the excerpt is a word that was looked for."""

    lesson: uuid.UUID
    lesson_title: str
    step: uuid.UUID
    place: int
    title: str
    excerpt: list[str]


def found_out(found: FoundStep) -> FoundStepOut:
    """Return a found step for the wire."""
    return FoundStepOut(
        lesson=found.lesson.id,
        lesson_title=found.lesson.title,
        step=found.step_id,
        place=found.place,
        title=found.title,
        excerpt=list(found.excerpt),
    )


@router.get("")
def search(session: Database, me: Educator, words: Annotated[str, Query(max_length=200)]) -> list[FoundStepOut]:
    """Return the steps in which all words stand; of a lesson whose title has them, the first."""
    return [found_out(one) for one in found_steps(session, me, words)]
