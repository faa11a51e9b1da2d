"""A mark: a number or a short purpose set on a module, a line, a place in a lens or a moment of the phrase.

A step's text refers to the number, {mark 1}; the purpose says what the place is for, or what is to be seen there.
"""

import re
from collections.abc import Iterable, Sequence
from typing import Annotated, Literal

from pydantic import Field, model_validator

from inner_tone.core.documents import Document
from inner_tone.core.errors import DocumentError, Problem
from inner_tone.core.lens_kinds import LensKind
from inner_tone.core.patch.model import Name, Patch
from inner_tone.core.patch.port import Port
from inner_tone.core.phrase import Phrase

MOST_MARKS = 200
MOST_NUMBER = 99
MOST_PURPOSE = 80

REFERENCE = re.compile(r"\{\s*mark (\d{1,4})\s*\}")


class ModulePlace(Document):
    """A module, or a section."""

    kind: Literal["module"] = "module"
    module: Name


class LinePlace(Document):
    """A connection, by its ends."""

    kind: Literal["line"] = "line"
    source: Port = Field(alias="from")
    target: Port = Field(alias="to")


class LensPlace(Document):
    """A place in the picture of a lens that listens to a tap, in the units of its axes; without `y`, all above `x`."""

    kind: Literal["lens"] = "lens"
    lens: LensKind
    tap: Port
    x: float
    y: float | None = None


class MomentPlace(Document):
    """A moment of the phrase, in beats from its beginning."""

    kind: Literal["moment"] = "moment"
    beat: Annotated[float, Field(ge=0)]


MarkPlace = Annotated[ModulePlace | LinePlace | LensPlace | MomentPlace, Field(discriminator="kind")]


class StepMark(Document):
    """A mark of a step; each has a number, a purpose, or both."""

    at: MarkPlace
    number: Annotated[int, Field(ge=1, le=MOST_NUMBER)] | None = None
    purpose: Annotated[str, Field(max_length=MOST_PURPOSE)] = ""

    @model_validator(mode="after")
    def says_something(self) -> "StepMark":
        """Refuse a mark that nobody would see."""
        if self.number is None and not self.purpose.strip():
            raise ValueError("A mark has a number, a purpose, or both.")
        return self


Marks = tuple[StepMark, ...]


def key_of(mark: StepMark) -> str:
    """Return what a mark is known by: its place."""
    return mark.at.model_dump_json(by_alias=True)


def checked_marks(marks: Sequence[StepMark]) -> None:
    """Raise DocumentError unless each place has one mark and each number stands once."""
    problems: list[Problem] = []
    keys: set[str] = set()
    numbers: set[int] = set()
    for place, mark in enumerate(marks):
        if key_of(mark) in keys:
            problems.append(Problem(f"marks[{place}].at", "This place has a mark already.", "Join the two."))
        if mark.number in numbers:
            remedy = f"The next that is free is {free_number(marks)}."
            problems.append(Problem(f"marks[{place}].number", f"The number {mark.number} stands twice.", remedy))
        keys.add(key_of(mark))
        if mark.number is not None:
            numbers.add(mark.number)
    if problems:
        raise DocumentError(problems)


def free_number(marks: Iterable[StepMark], but: Iterable[int] = ()) -> int:
    """Return the lowest number that no mark has."""
    used = {one.number for one in marks} | set(but)
    return next(number for number in range(1, MOST_MARKS + MOST_NUMBER) if number not in used)


def is_there(mark: StepMark, patch: Patch, phrase: Phrase) -> bool:
    """Tell whether the place of a mark is in a patch and its phrase."""
    place = mark.at
    if isinstance(place, ModulePlace):
        return place.module in patch.by_id or any(one.id == place.module for one in patch.sections)
    if isinstance(place, LinePlace):
        return any(line.ends == (place.source, place.target) for line in patch.connections)
    if isinstance(place, LensPlace):
        return place.tap.module in patch.by_id
    return place.beat <= phrase.beats


def going_on(marks: Iterable[StepMark], patch: Patch, phrase: Phrase) -> Marks:
    """Return what the next step goes on with: what things are for, without the numbers, which the old text names."""
    lasting = (one for one in marks if one.purpose and one.at.kind in ("module", "line"))
    return tuple(one.model_copy(update={"number": None}) for one in lasting if is_there(one, patch, phrase))


def side_by_side(first: Sequence[StepMark], second: Sequence[StepMark]) -> tuple[Marks, dict[int, int]]:
    """Return the marks of two steps as those of one, and what numbers of the second have become."""
    found = {key_of(one): one for one in first}
    new: dict[int, int] = {}
    for mark in second:
        same = found.get(key_of(mark))
        others = [one for one in found.values() if one is not same]
        number = same.number if same and same.number else mark.number
        if number is not None and number in {one.number for one in others}:
            number = free_number([*found.values(), *second])
        if mark.number is not None and number is not None and number != mark.number:
            new[mark.number] = number
        purpose = mark.purpose or (same.purpose if same else "")
        found[key_of(mark)] = mark.model_copy(update={"number": number, "purpose": purpose})
    return tuple(found.values()), new


def numbers_apart(base: Sequence[StepMark], theirs: Sequence[StepMark], mine: Sequence[StepMark]) -> dict[int, int]:
    """Return new numbers for those that I have given where they have given the same to another place, by the old."""
    old = {(one.number, key_of(one)) for one in base}
    there = {one.number: key_of(one) for one in theirs if one.number is not None}
    new: dict[int, int] = {}
    for one in mine:
        number, key = one.number, key_of(one)
        if number is not None and (number, key) not in old and there.get(number, key) != key:
            new[number] = free_number([*theirs, *mine], new.values())
    return new


def with_numbers(marks: Iterable[StepMark], new: dict[int, int]) -> Marks:
    """Return marks of which some have other numbers."""
    return tuple(one.model_copy(update={"number": new.get(one.number or 0, one.number)}) for one in marks)


def text_with_numbers(text: str, new: dict[int, int]) -> str:
    """Return a text that refers to marks by their new numbers."""
    return REFERENCE.sub(lambda found: f"{{mark {new.get(int(found[1]), int(found[1]))}}}", text)


def each_once(marks: Iterable[StepMark]) -> Marks:
    """Return marks of which those that come later have another number where one stands already."""
    found: list[StepMark] = []
    rest = list(marks)
    for one in rest:
        taken = one.number is not None and one.number in {other.number for other in found}
        found.append(one.model_copy(update={"number": free_number([*found, *rest])}) if taken else one)
    return tuple(found)
