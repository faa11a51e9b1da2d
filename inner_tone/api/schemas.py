"""What goes over the wire for lessons and steps."""

import uuid
from datetime import datetime
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from inner_tone.core.lesson.step import StepContent
from inner_tone.core.patch.instructions import Instruction, InstructionKind, Role
from inner_tone.store.lessons import content_of
from inner_tone.store.models import Lesson, Step

Title = Annotated[str, Field(min_length=1, max_length=200)]
Summary = Annotated[str, Field(max_length=2_000)]


class Incoming(BaseModel):
    """The base of all requests: unknown keys are refused."""

    model_config = ConfigDict(extra="forbid")


class PartOut(BaseModel):
    """A stretch of an instruction's sentence."""

    text: str
    role: Role


class InstructionOut(BaseModel):
    """An instruction."""

    kind: InstructionKind
    module: str
    text: str
    parts: list[PartOut]


class StepOut(BaseModel):
    """A step as it is kept, with the version that a change must name."""

    id: uuid.UUID
    version: int
    updated_at: datetime
    content: StepContent
    instructions: list[InstructionOut] = []


class LessonRow(BaseModel):
    """A lesson as the shelf shows it."""

    id: uuid.UUID
    version: int
    title: str
    summary: str
    updated_at: datetime
    step_count: int


class LessonOut(BaseModel):
    """A lesson with its steps in order."""

    id: uuid.UUID
    version: int
    title: str
    summary: str
    updated_at: datetime
    steps: list[StepOut]


class NewLesson(Incoming):
    """A lesson to be begun."""

    title: Title
    summary: Summary = ""


class LessonChange(Incoming):
    """A new title and summary for a lesson that stands at `version`."""

    version: int
    title: Title
    summary: Summary


class NewStep(Incoming):
    """A step to be added behind another, or at the end."""

    after: uuid.UUID | None = None


class StepChange(Incoming):
    """A new content for a step that stands at `version`."""

    version: int
    content: StepContent


class StepOrder(Incoming):
    """Another order of the steps of a lesson that stands at `version`."""

    version: int
    steps: list[uuid.UUID]


class HistoryRow(BaseModel):
    """One state that a step has had."""

    version: int
    action: Literal["created", "changed", "deleted", "restored"]
    at: datetime
    content: StepContent


def instruction_out(one: Instruction) -> InstructionOut:
    """Return an instruction for the wire."""
    parts = [PartOut(text=part.text, role=part.role) for part in one.parts]
    return InstructionOut(kind=one.kind, module=one.module, text=one.text, parts=parts)


def step_out(step: Step, instructions: list[Instruction] | None = None) -> StepOut:
    """Return a step for the wire."""
    return StepOut(
        id=step.id,
        version=step.version,
        updated_at=step.updated_at,
        content=content_of(step),
        instructions=[instruction_out(one) for one in instructions or []],
    )


def lesson_row(lesson: Lesson, step_count: int) -> LessonRow:
    """Return a lesson for the shelf."""
    return LessonRow(
        id=lesson.id,
        version=lesson.version,
        title=lesson.title,
        summary=lesson.summary,
        updated_at=lesson.updated_at,
        step_count=step_count,
    )
