"""Editions: what is published of a lesson, and what must be looked at before.

An edition is an immutable copy of a lesson. Its short form leaves out the extra steps; what the step behind an extra
one has to do is then told from the step before it, so that every sound stays the same.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from hashlib import sha256
from typing import Literal

from inner_tone.core.checkup import Finding
from inner_tone.core.errors import InnerToneError
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.plate import is_outdated
from inner_tone.core.lesson.step import UNTITLED, StepContent, told
from inner_tone.core.lesson.wording import Telling
from inner_tone.core.patch.model import Patch
from inner_tone.core.phrase import Phrase

ConcernKind = Literal[
    "no-steps", "title", "text", "finding", "plate", "decision", "not-carried", "field", "wording", "short"
]


class UnresolvedError(InnerToneError):
    """A lesson that is to be published although the checkup has something to say, and no reason is given."""


@dataclass(frozen=True)
class Concern:
    """Something to be looked at before a lesson is published; `place` is the step's, from 0, if it is one step's."""

    place: int | None
    kind: ConcernKind
    message: str
    remedy: str = ""

    def key(self, ids: Sequence[str]) -> str:
        """Return what it is known by from one edition to the next, given the ids of the lesson's steps."""
        step = "" if self.place is None else ids[self.place]
        return sha256("\0".join((step, self.kind, self.message)).encode()).hexdigest()[:24]


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
    elif step.title in UNTITLED:
        yield Concern(place, "title", f"The step is still called “{step.title}”.", "Say in a few words what it does.")
    elif step.title_made:
        yield Concern(place, "title", f"Nobody has written a title: “{step.title}” says only what is done.")
    silent = [name for name, text in (("why", step.why), ("what to listen for", step.listen)) if not text.strip()]
    if silent:
        said = "says neither why nor what to listen for" if len(silent) == 2 else f"does not say {silent[0]}"
        yield Concern(place, "text", f"The step {said}.", "Write a sentence.")
    for decision in step.decisions:
        yield Concern(place, "decision", f"To be decided: {decision.words}.", "Choose one of the two values.")
    if step.built_on is not None:
        yield Concern(place, "not-carried", "The later steps do not have what was changed here.", "Carry it forward.")
    for number, plate in enumerate(step.plates, 1):
        if is_outdated(plate, step.patch, step.phrase):
            yield Concern(place, "plate", f"Picture {number} is from before a change of the step.", "Refresh it.")
    for field in unread(step):
        yield Concern(place, "field", f"“{field}” means nothing here.", "Name what is in the patch, or take it out.")
    for _ in telling.unfitting:
        yield Concern(place, "wording", "A wording no longer fits what is done.", "Word it anew, or let it go.")
    if not telling.order_holds:
        yield Concern(place, "wording", "The instructions cannot be followed in your order.", "Order them anew.")
    for finding in check(step.patch, step.phrase):
        yield Concern(place, "finding", str(finding.message), str(finding.remedy.words))


def settle(open_concerns: Sequence[Concern]) -> None:
    """Raise UnresolvedError if there are concerns that nobody has overruled, or one that cannot be."""
    if any(one.kind == "no-steps" for one in open_concerns):
        raise UnresolvedError("A lesson without steps cannot be published.")
    if open_concerns:
        things = "one thing is" if len(open_concerns) == 1 else f"{len(open_concerns)} things are"
        raise UnresolvedError(f"{things} to be looked at: mend each, or say that it is right as it is.".capitalize())


def short_of(lesson: LessonDocument, ids: Sequence[str]) -> tuple[LessonDocument, list[str]]:
    """Return the short form of a lesson whose steps are known by ids, and the ids that are left."""
    kept = [place for place, step in enumerate(lesson.steps) if not step.extra]
    steps = tuple(lesson.steps[place] for place in kept)
    return lesson.model_copy(update={"steps": steps}), [ids[place] for place in kept]
