"""Editions: what is published of a lesson, and what must be looked at before.

An edition is an immutable copy of a lesson. Its short form leaves out the extra steps; what the step behind an extra
one has to do is then told from the step before it, so that every sound stays the same.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from inner_tone.core.checkup import Finding
from inner_tone.core.errors import InnerToneError
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.plate import is_outdated
from inner_tone.core.lesson.step import StepContent, told
from inner_tone.core.lesson.wording import Telling
from inner_tone.core.patch.model import Patch
from inner_tone.core.phrase import Phrase

ConcernKind = Literal["no-steps", "title", "finding", "plate", "decision", "not-carried", "field", "wording", "short"]


class UnresolvedError(InnerToneError):
    """A lesson that is to be published although the checkup has something to say, and no reason is given."""


@dataclass(frozen=True)
class Concern:
    """Something to be looked at before a lesson is published; `place` is the step's, from 0, if it is one step's."""

    place: int | None
    kind: ConcernKind
    message: str
    remedy: str = ""


Check = Callable[[Patch, Phrase], Sequence[Finding]]
Unread = Callable[[StepContent], Sequence[str]]


def review(lesson: LessonDocument, check: Check, unread: Unread) -> list[Concern]:
    """Return what is to be looked at before a lesson is published.

    Parameters
    ----------
    lesson
        The lesson as it stands.
    check
        Returns what the checkup finds in a patch that plays a phrase.
    unread
        Returns the fields of a step's texts that mean nothing.
    """
    if not lesson.steps:
        return [Concern(None, "no-steps", "The lesson has no steps.", "Add the first one.")]
    tellings = told(lesson.steps, lesson.start)
    found = [
        one
        for place, (step, telling) in enumerate(zip(lesson.steps, tellings, strict=True))
        for one in concerns_of(place, step, telling, check, unread)
    ]
    if all(step.extra for step in lesson.steps):
        found.append(Concern(None, "short", "Every step is extra: nothing is left of the short edition."))
    return found


def concerns_of(place: int, step: StepContent, telling: Telling, check: Check, unread: Unread) -> Iterator[Concern]:
    """Yield what is to be looked at in one step."""
    if not step.title.strip():
        yield Concern(place, "title", "The step has no title.", "Say in a few words what it does.")
    for decision in step.decisions:
        yield Concern(place, "decision", f"To be decided: {decision.words}.", "Choose one of the two values.")
    if step.built_on is not None:
        yield Concern(place, "not-carried", "The later steps do not have what was changed here.", "Carry it forward.")
    for number, plate in enumerate(step.plates, 1):
        if is_outdated(plate, step.patch, step.phrase):
            yield Concern(place, "plate", f"Picture {number} is from before a change of the step.", "Refresh it.")
    for field in unread(step):
        yield Concern(place, "field", f"{{{field}}} means nothing here.", "Name what is in the patch, or take it out.")
    for _ in telling.unfitting:
        yield Concern(place, "wording", "A wording no longer fits what is done.", "Word it anew, or let it go.")
    if not telling.order_holds:
        yield Concern(place, "wording", "The instructions cannot be followed in your order.", "Order them anew.")
    for finding in check(step.patch, step.phrase):
        yield Concern(place, "finding", finding.message, finding.remedy.words)


def settle(concerns: Sequence[Concern], reason: str) -> None:
    """Raise UnresolvedError if there are concerns and nobody has given a reason to publish all the same."""
    if concerns and not reason.strip():
        things = "one thing" if len(concerns) == 1 else f"{len(concerns)} things"
        raise UnresolvedError(f"The checkup has {things} to say. Mend them, or say why the lesson is right as it is.")
    if any(one.kind == "no-steps" for one in concerns):
        raise UnresolvedError("A lesson without steps cannot be published.")


def short_of(lesson: LessonDocument, ids: Sequence[str]) -> tuple[LessonDocument, list[str]]:
    """Return the short form of a lesson whose steps are known by ids, and the ids that are left."""
    kept = [place for place, step in enumerate(lesson.steps) if not step.extra]
    steps = tuple(lesson.steps[place] for place in kept)
    return lesson.model_copy(update={"steps": steps}), [ids[place] for place in kept]
