"""A step: what it says, the patch that it leaves, and the phrase that exercises it."""

from collections.abc import Sequence
from itertools import pairwise
from typing import Annotated, TypeVar

from pydantic import Field

from inner_tone.core.documents import Document
from inner_tone.core.errors import InnerToneError
from inner_tone.core.patch.difference import difference, opening
from inner_tone.core.patch.instructions import Instruction
from inner_tone.core.patch.model import Module, Patch
from inner_tone.core.patch.placements import HEADROOM_DB
from inner_tone.core.patch.validate import checked_patch
from inner_tone.core.phrase import Note, Phrase, checked_phrase

MOST_STEPS = 200

Identity = TypeVar("Identity")


class LessonError(InnerToneError):
    """A wish about a lesson that cannot be fulfilled."""


class StepContent(Document):
    """What the educator writes and builds in a step; `why` and `listen` are Markdown."""

    title: Annotated[str, Field(max_length=200)] = ""
    why: Annotated[str, Field(max_length=20_000)] = ""
    listen: Annotated[str, Field(max_length=5_000)] = ""
    patch: Patch = Patch()
    phrase: Phrase = Phrase()


def checked(content: StepContent) -> StepContent:
    """Return a step's content if its patch and its phrase are right; raises DocumentError."""
    checked_patch(content.patch)
    checked_phrase(content.phrase)
    return content


def first_step() -> StepContent:
    """Return the step that a new lesson begins with: a player and an output, and one note to play."""
    modules = (Module(id="player", type="player"), Module(id="out", type="output", settings={"level": HEADROOM_DB}))
    phrase = Phrase(title="One note", beats=4, notes=(Note(start=0, length=2, pitch=57),))
    return StepContent(title="First step", patch=Patch(modules=modules), phrase=phrase)


def following_step(previous: StepContent) -> StepContent:
    """Return the step that comes after another: the same patch and phrase, nothing said yet."""
    return StepContent(title="New step", patch=previous.patch, phrase=previous.phrase)


def duplicate(content: StepContent) -> StepContent:
    """Return a copy that can be told from the original."""
    return content.model_copy(update={"title": f"{content.title} (copy)"[:200]})


def instructions(steps: Sequence[StepContent]) -> list[list[Instruction]]:
    """Return, for each step of a lesson, what to do to come there from the step before."""
    if not steps:
        return []
    patches = [opening(steps[0].patch), *(step.patch for step in steps)]
    return [difference(before, after) for before, after in pairwise(patches)]


def reordered(present: Sequence[Identity], wanted: Sequence[Identity]) -> list[Identity]:
    """Return the wanted order of a lesson's steps; raises LessonError unless it has every step exactly once."""
    if sorted(map(str, present)) != sorted(map(str, wanted)):
        raise LessonError("The order does not name every step of the lesson exactly once. Load the lesson anew.")
    return list(wanted)


def room_for_another(count: int) -> None:
    """Raise LessonError if a lesson with `count` steps can have no further one."""
    if count >= MOST_STEPS:
        raise LessonError(f"A lesson has at most {MOST_STEPS} steps. Begin another lesson.")
