"""What goes over the wire for lessons and steps."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import TYPE_CHECKING, Annotated, Any, Literal, Optional, Self, get_origin

from pydantic import BaseModel, ConfigDict, Field, ModelWrapValidatorHandler, create_model, model_validator
from pydantic.fields import FieldInfo

from inner_tone.core.documents import read, read_within_bounds
from inner_tone.core.lesson.plate import is_outdated
from inner_tone.core.lesson.step import StepContent, checked
from inner_tone.core.lesson.together import Side
from inner_tone.core.lesson.wording import Telling, Wording, facts_of, key_of
from inner_tone.core.message import Part, PartRole
from inner_tone.core.patch.difference import difference
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.instructions import Instruction, InstructionKind
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import SetValue
from inner_tone.store.lessons import Wish
from inner_tone.store.models import Lesson, Step
from inner_tone.store.rights import Right
from inner_tone.store.written import content_of

Title = Annotated[str, Field(min_length=1, max_length=200)]
Summary = Annotated[str, Field(max_length=2_000)]
RightName = Literal["read", "write", "own"]


MOST_SET = 200  # settings that are new at once
MOST_CLASHES = 2_000


MOST_WHOLE = 2**31 - 1  # what the database can count to
Whole = Annotated[int, Field(ge=0, le=MOST_WHOLE)]


class Incoming(BaseModel):
    """The base of all requests: unknown keys are refused, and texts that no database can keep."""

    model_config = ConfigDict(extra="forbid")

    @model_validator(mode="wrap")
    @classmethod
    def within_bounds(cls, data: Any, handler: ModelWrapValidatorHandler[Self]) -> Self:
        """Return data as a request; raises ValidationError."""
        return read_within_bounds(data, handler, cls)


def part_field(field: FieldInfo) -> Any:
    """Return the type of a field that may be left out; of its bounds it keeps how many entries it may have."""
    kind: Any = field.annotation
    wished: Any = Optional[kind]  # noqa: UP045 - a value
    most = [one for one in field.metadata if getattr(one, "max_length", None)] if get_origin(kind) is tuple else []
    return Annotated[(wished, *most)] if most else wished


def part_of(model: type[BaseModel], name: str) -> Any:
    """Return a model of which any fields may be given; what is wrong in them is said when the whole is read."""
    fields: dict[str, Any] = {name: (part_field(field), None) for name, field in model.model_fields.items()}
    return create_model(name, __base__=Incoming, **fields)


if TYPE_CHECKING:
    StepPart = StepContent
else:
    StepPart = part_of(StepContent, "StepPart")


class PartOut(BaseModel):
    """A stretch of an instruction's sentence; a name or a value is a `fact` of it."""

    text: str
    role: PartRole
    fact: str = ""


class InstructionOut(BaseModel):
    """An instruction, plain and brief; with its module’s purpose where the lesson first uses its type.

    `key` is what the educator's wording and order know it by; `facts` are its names and values, and `wording` is the
    educator's text, in which these stand by what they are as facts ({module}, {cutoff}), if there is one.
    """

    kind: InstructionKind
    module: str
    text: str
    parts: list[PartOut]
    brief: list[PartOut]
    purpose: str
    key: str
    facts: list[PartOut]
    wording: str | None


class StepOut(BaseModel):
    """A step as it is kept, with the version that a change must name; plates are `outdated` where it has moved on.

    `detours` says how each of them leaves the step. `unfitting` are wordings of what is done no longer, or otherwise;
    `order_holds` is false where the educator's order of the instructions can be followed no longer.
    """

    id: uuid.UUID
    version: int
    updated_at: datetime
    content: StepContent
    instructions: list[InstructionOut]
    outdated: list[str]
    detours: list[list[InstructionOut]]
    unfitting: list[Wording]
    order_holds: bool


class SeriesMark(BaseModel):
    """The series that a lesson belongs to, and its place in it, from 0."""

    id: uuid.UUID
    title: str
    place: int


class NextLesson(BaseModel):
    """The lesson that comes next in a series and can be practised."""

    id: uuid.UUID
    title: str


class LessonRow(BaseModel):
    """A lesson as the shelf shows it."""

    id: uuid.UUID
    version: int
    title: str
    summary: str
    updated_at: datetime
    step_count: int
    owner: str
    right: RightName
    edition: int | None
    series: SeriesMark | None


class StartOut(BaseModel):
    """The patch that a lesson starts from, and how the end of the lesson before differs from it now.

    `lesson` and `title` are missing where that lesson is not there any longer.
    """

    lesson: uuid.UUID | None
    title: str | None
    patch: Patch
    moved_on: list[InstructionOut]


class EditionMark(BaseModel):
    """Which edition of a lesson this is, and what there is beside it.

    `begun` if somebody practises it already; then `place` is where they are, and `reached` how far they have been.
    """

    number: int
    latest: int
    notes: str
    published_at: datetime
    short: bool
    has_short: bool
    begun: bool
    place: int
    reached: int


class LessonOut(BaseModel):
    """A lesson with its steps in order, as it stands at the desk or in an edition.

    `right` is missing for those who may only practise it. `undo` is what has been done last to it as a whole, if that
    can be undone.
    """

    id: uuid.UUID
    version: int
    title: str
    summary: str
    target_first: bool
    target_note: str
    updated_at: datetime
    owner: str
    right: RightName | None
    start: StartOut | None
    series: SeriesMark | None
    next: NextLesson | None
    edition: EditionMark | None
    undo: str | None
    steps: list[StepOut]


class NewLesson(Incoming):
    """A lesson to be begun from a template, or from where another lesson ends; in a series if that is named."""

    title: Title
    summary: Summary = ""
    template: str = "empty"
    starts_from: uuid.UUID | None = None
    series: uuid.UUID | None = None


class LessonChange(Incoming):
    """What a lesson that stands at `version` says of itself, and whether it opens with its target."""

    version: Whole
    title: Title
    summary: Summary
    target_first: bool
    target_note: Annotated[str, Field(max_length=5_000)]


class NewStep(Incoming):
    """A step to be added behind another, or at the end; `like` is one of another lesson that it is to be a copy of.

    With `finishing`, the step before is done, and gets a title if it has none.
    """

    after: uuid.UUID | None = None
    like: uuid.UUID | None = None
    finishing: bool = False


class StepChange(Incoming):
    """What is new in the content of a step since it stood at `version`; what is not given stays as it is.

    Where only `settings` of the patch are new, they stand for it. `base` is what some of the content was changed from,
    where that is not what stood there at `version`. `choices` decide clashes; `request` names the wish, and `own` those
    of the same page that may have been fulfilled since `version` without its knowing. While `capturing`, the order of
    the instructions is that of the work.
    """

    version: Whole
    content: StepPart
    settings: Annotated[list[SetValue], Field(max_length=MOST_SET, default_factory=list)]
    base: StepPart | None = None
    choices: Annotated[dict[str, Side], Field(max_length=MOST_CLASHES, default_factory=dict)]
    request: uuid.UUID | None = None
    own: Annotated[list[uuid.UUID], Field(max_length=8, default_factory=list)]
    capturing: bool = False

    def made_of(self, then: StepContent) -> tuple[StepContent, StepContent]:
        """Return what was changed and what has come of it, given what stood there.

        Raises DocumentError or EditError.
        """
        base = with_part(then, self.base) if self.base else then
        old = base.model_copy(update={"patch": made(base.patch, self.settings).patch}) if self.settings else base
        return base, checked(with_part(old, self.content))

    @property
    def wish(self) -> Wish:
        """It as a wish about what is kept."""
        own = frozenset(self.own)
        return Wish(self.version, self.made_of, self.choices, self.request, own, capturing=self.capturing)


def with_part(content: StepContent, part: StepContent) -> StepContent:
    """Return a content with the part that is given; raises DocumentError."""
    given = part.model_dump(mode="json", by_alias=True, exclude_unset=True)
    return read(StepContent, content.model_dump(mode="json", by_alias=True) | given) if given else content


class KeptStepOut(StepOut):
    """A step that has just been kept, with the one behind it, whose instructions follow from both.

    `later` if other steps may read or be told otherwise now, since this one has other types of module or other names.
    """

    following: StepOut | None
    later: bool


class StepAt(Incoming):
    """A step that stands at `version`."""

    version: Whole


class StepSplit(StepAt):
    """Where a step that stands at `version` is split: after so many instructions."""

    after: Annotated[int, Field(ge=1, le=10_000)]


class StepState(BaseModel):
    """A version that a step has come to."""

    id: uuid.UUID
    version: int


class StepOrder(Incoming):
    """Another order of the steps of a lesson that stands at `version`."""

    version: Whole
    steps: list[uuid.UUID]


class HistoryRow(BaseModel):
    """One state that a step has had."""

    version: int
    action: Literal["created", "changed", "deleted", "restored"]
    at: datetime
    content: StepContent


def parts_out(parts: Sequence[Part]) -> list[PartOut]:
    """Return the stretches of a sentence for the wire."""
    return [PartOut(text=part.text, role=part.role, fact=part.fact) for part in parts]


def instruction_out(one: Instruction, plain: Instruction | None = None) -> InstructionOut:
    """Return an instruction for the wire; `plain` is what it says in Inner Tone's own words, if it is worded."""
    own = plain or one
    return InstructionOut(
        kind=one.kind,
        module=one.module,
        text=one.text,
        parts=parts_out(one.parts),
        brief=parts_out(one.brief),
        purpose=one.purpose,
        key=key_of(own),
        facts=parts_out(facts_of(own)),
        wording=None,
    )


def instructions_out(telling: Telling, content: StepContent) -> list[InstructionOut]:
    """Return a step's instructions for the wire."""
    texts = {one.key: one.text for one in content.wording}
    found = []
    for spoken, plain in zip(telling.instructions, telling.plain, strict=True):
        out = instruction_out(spoken, plain)
        found.append(out if spoken == plain else out.model_copy(update={"wording": texts[out.key]}))
    return found


@dataclass(frozen=True)
class Head:
    """What there is to know of a step beside its content."""

    id: uuid.UUID
    version: int
    updated_at: datetime


def head_of(step: Step) -> Head:
    """Return what there is to know of a step as it is kept."""
    return Head(step.id, step.version, step.updated_at)


def step_out(head: Head, content: StepContent, telling: Telling) -> StepOut:
    """Return a step for the wire."""
    return StepOut(
        id=head.id,
        version=head.version,
        updated_at=head.updated_at,
        content=content,
        instructions=instructions_out(telling, content),
        outdated=[plate.id for plate in content.plates if is_outdated(plate, content.patch, content.phrase)],
        detours=[
            [instruction_out(one) for one in difference(content.patch, detour.patch)] for detour in content.detours
        ],
        unfitting=list(telling.unfitting),
        order_holds=telling.order_holds,
    )


def kept_step_out(step: Step) -> StepOut:
    """Return a step that has just been kept for the wire; what it tells to do follows with its lesson."""
    return step_out(head_of(step), content_of(step), Telling((), ()))


def right_name(right: Right) -> RightName:
    """Return a right for the wire."""
    names: dict[Right, RightName] = {Right.READ: "read", Right.WRITE: "write", Right.OWN: "own"}
    return names[right]


def series_mark(lesson: Lesson) -> SeriesMark | None:
    """Return the series of a lesson for the wire."""
    series = lesson.series
    if series is None or series.deleted_at is not None:
        return None
    return SeriesMark(id=series.id, title=series.title, place=lesson.series_place or 0)


def lesson_row(lesson: Lesson, step_count: int, may_write: bool | None, edition: int | None) -> LessonRow:
    """Return a lesson for the shelf of somebody who owns it, or with whom it is shared."""
    return LessonRow(
        id=lesson.id,
        version=lesson.version,
        title=lesson.title,
        summary=lesson.summary,
        updated_at=lesson.updated_at,
        step_count=step_count,
        owner=lesson.owner.name,
        right="own" if may_write is None else "write" if may_write else "read",
        edition=edition,
        series=series_mark(lesson),
    )
