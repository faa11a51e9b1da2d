"""What goes over the wire of classes."""

import uuid
from datetime import date, datetime
from typing import Annotated

from pydantic import BaseModel, Field

from inner_tone.api.attempt_schemas import AttemptOut, QuestionOut
from inner_tone.api.schemas import Incoming, Title, Whole
from inner_tone.store.attempts import State
from inner_tone.store.classes import FIRST_DAY, LAST_DAY, MOST_LESSONS


class ClassWish(Incoming):
    """A class to be begun."""

    title: Title


class SetWish(Incoming):
    """A lesson that is set, perhaps for a date."""

    lesson: uuid.UUID
    due: Annotated[date, Field(ge=FIRST_DAY, le=LAST_DAY)] | None = None


class ClassChange(Incoming):
    """What a class that stands at `version` is to be: its title, whether one can join, and its lessons in order."""

    version: Whole
    title: Title
    open: bool
    lessons: Annotated[list[SetWish], Field(max_length=MOST_LESSONS)]


class TeachWish(Incoming):
    """An educator who is to teach a class too."""

    sign_in: Annotated[str, Field(min_length=1, max_length=80)]


class JoinWish(Incoming):
    """The code of a class, as it was typed."""

    code: Annotated[str, Field(min_length=1, max_length=40)]


class PersonOut(BaseModel):
    """Somebody who teaches a class."""

    account: uuid.UUID
    name: str


class ClassHead(BaseModel):
    """A class that somebody teaches, as it stands in a list."""

    id: uuid.UUID
    title: str
    code: str
    members: int
    lessons: int
    waiting: int


class ClassLessonOut(BaseModel):
    """A lesson that is set to a class, in its newest edition."""

    id: uuid.UUID
    title: str
    owner: str
    edition: int
    step_count: int
    due: date | None


class ProgressIn(BaseModel):
    """How far somebody is in a lesson: the step where they are and how far they have been, from 0; what is done."""

    lesson: uuid.UUID
    place: int | None
    reached: int | None
    done: int
    waiting: int


class MemberOut(BaseModel):
    """Somebody who has joined a class, and how far they are in its lessons that they have begun."""

    id: uuid.UUID
    name: str
    joined_at: datetime
    progress: list[ProgressIn]


class ClassOut(BaseModel):
    """A class as those see it who teach it."""

    id: uuid.UUID
    version: int
    title: str
    code: str
    open: bool
    is_own: bool
    educators: list[PersonOut]
    lessons: list[ClassLessonOut]
    members: list[MemberOut]


class StandingIn(BaseModel):
    """How far somebody has come with a step, and what their bench did not show yet when it was compared last."""

    step_id: uuid.UUID
    state: State
    shown: bool
    left: list[str]


class AttemptHead(BaseModel):
    """An attempt without its patch."""

    id: uuid.UUID
    step_id: uuid.UUID
    name: str
    updated_at: datetime
    may_show: bool


class AtWork(BaseModel):
    """Somebody of a class in a lesson: the step where they are, if they have begun, and all they have done."""

    id: uuid.UUID
    name: str
    step_id: uuid.UUID | None
    seen_at: datetime | None
    standings: list[StandingIn]
    attempts: list[AttemptHead]
    questions: list[QuestionOut]


class StopOut(BaseModel):
    """An instruction that remains to be done at so many benches."""

    text: str
    count: int


class StepIn(BaseModel):
    """A step of a lesson as a class does it: how many stand there, how many have done it, and what stops the others."""

    id: uuid.UUID
    title: str
    here: int
    done: int
    stops: list[StopOut]


class ClassWorkOut(BaseModel):
    """A class in one of its lessons."""

    title: str
    lesson: ClassLessonOut
    steps: list[StepIn]
    people: list[AtWork]


class JoinedLesson(BaseModel):
    """A lesson that is set to a class that one has joined, and how far one is in it."""

    id: uuid.UUID
    title: str
    step_count: int
    due: date | None
    place: int | None
    done: int


class JoinedOut(BaseModel):
    """A class that one has joined: who teaches it, and what is set."""

    id: uuid.UUID
    title: str
    educators: list[str]
    lessons: list[JoinedLesson]


class SeenOut(BaseModel):
    """A learner's attempt, to be looked at by those who may; with what they have asked at its step.

    `levers` says which of its levers is each of the step's: those are what the step's phrase moves.
    """

    name: str
    attempt: AttemptOut
    questions: list[QuestionOut]
    levers: dict[str, str]
