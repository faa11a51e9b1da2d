"""A lesson as a whole: as it travels, as it is published, and as it is copied."""

from typing import Annotated, Any, Literal

from pydantic import Field

from inner_tone.core.documents import Document
from inner_tone.core.errors import DocumentError, Problem
from inner_tone.core.lesson.step import MOST_STEPS, StepContent, checked
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.validate import checked_patch


class LessonDocument(Document):
    """A lesson. `start` is the patch that its first step begins with, where that is the last one of another lesson.

    With `target_first` it opens with the sound that it is heading for, made from the last step; `target_note`
    (Markdown) says what that is.
    """

    format: Literal["inner-tone/lesson"] = "inner-tone/lesson"
    version: Literal[1] = 1
    title: Annotated[str, Field(min_length=1, max_length=200)]
    summary: Annotated[str, Field(max_length=2_000)] = ""
    target_first: bool = False
    target_note: Annotated[str, Field(max_length=5_000)] = ""
    start: Patch | None = None
    steps: Annotated[tuple[StepContent, ...], Field(max_length=MOST_STEPS)] = ()


class Start(Document):
    """What a lesson starts from: the last patch of another as it was when it was taken."""

    lesson: str
    patch: Patch

    def to_json(self) -> dict[str, Any]:
        """Return it as JSON data."""
        return self.model_dump(mode="json", by_alias=True)


def checked_lesson(lesson: LessonDocument) -> LessonDocument:
    """Return a lesson if all its patches and phrases are right; raises DocumentError that names the step."""
    if lesson.start is not None:
        checked_patch(lesson.start)
    for number, step in enumerate(lesson.steps):
        try:
            checked(step)
        except DocumentError as error:
            problems = [Problem(f"steps[{number}].{one.path}", one.message, one.remedy) for one in error.problems]
            raise DocumentError(problems) from error
    return lesson
