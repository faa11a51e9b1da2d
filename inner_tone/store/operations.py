"""Operations on a lesson as a whole: each is one act in a history of its own, and can be undone as one."""

import json
import uuid
from collections.abc import Collection, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from hashlib import sha256

from sqlalchemy import select
from sqlalchemy.orm import Session, aliased

from inner_tone.core.lesson.step import LessonError
from inner_tone.store.models import Json, Lesson, Operation, Step, now
from inner_tone.store.written import content_at, count, steps_of, touch, write

UNDER_WAY = "operation under way"


@dataclass(frozen=True)
class Standing:
    """How a lesson stands: what it starts from, its steps in order, and of each the version and a digest."""

    start: Json | None
    steps: tuple[tuple[str, int, str], ...]

    @property
    def order(self) -> tuple[str, ...]:
        """The steps in their order."""
        return tuple(step for step, _, _ in self.steps)

    @property
    def digests(self) -> dict[str, str]:
        """What each step holds."""
        return {step: digest for step, _, digest in self.steps}

    @property
    def versions(self) -> dict[str, int]:
        """The version of each step."""
        return {step: version for step, version, _ in self.steps}

    def is_like(self, other: "Standing") -> bool:
        """Tell whether two lessons read alike, whatever their steps' versions are."""
        return (self.start, self.order, self.digests) == (other.start, other.order, other.digests)

    def to_json(self) -> Json:
        """Return it as JSON data."""
        return {"start": self.start, "steps": [list(one) for one in self.steps]}

    @classmethod
    def read(cls, data: Json) -> "Standing":
        """Return what `to_json` has written."""
        return cls(
            data["start"], tuple((str(step), int(version), str(digest)) for step, version, digest in data["steps"])
        )


def digest_of(content: Json) -> str:
    """Return a digest of what stands in a step."""
    return sha256(json.dumps(content, sort_keys=True, separators=(",", ":")).encode()).hexdigest()[:24]


def standing(session: Session, owner: Lesson) -> Standing:
    """Return how a lesson stands in this transaction."""
    session.flush()
    steps = steps_of(session, owner.id)
    return Standing(owner.start, tuple((str(step.id), step.version, digest_of(step.content)) for step in steps))


@contextmanager
def operation(session: Session, owner: Lesson, words: str) -> Iterator[None]:
    """Note what is done meanwhile to a lesson as one act; what is done within another act belongs to that."""
    if session.info.get(UNDER_WAY):
        yield
        return
    session.info[UNDER_WAY] = True
    try:
        before = standing(session, owner)
        yield
        after = standing(session, owner)
    finally:
        session.info[UNDER_WAY] = False
    if not before.is_like(after):
        note(session, owner, words, before, after)


def note(
    session: Session, owner: Lesson, words: str, before: Standing, after: Standing, undoes: int | None = None
) -> None:
    """Write an act into the history of a lesson."""
    session.add(
        Operation(lesson_id=owner.id, words=words, before=before.to_json(), after=after.to_json(), undoes=undoes)
    )
    session.flush()


def operations_of(session: Session, lesson_id: uuid.UUID) -> Iterator[Operation]:
    """Yield what has been done to a lesson, the latest first."""
    query = select(Operation).where(Operation.lesson_id == lesson_id).order_by(Operation.id.desc())
    yield from session.scalars(query.execution_options(yield_per=8))


def latest(session: Session, lesson_id: uuid.UUID) -> Operation | None:
    """Return the act that would be undone next: the latest that has not been."""
    again = aliased(Operation)
    undone = select(again.id).where(again.undoes == Operation.id).exists()
    query = select(Operation).where(Operation.lesson_id == lesson_id, Operation.undoes.is_(None), ~undone)
    return session.scalars(query.order_by(Operation.id.desc()).limit(1)).one_or_none()


def undo(session: Session, owner: Lesson) -> Operation:
    """Undo the latest act on a lesson that has not been undone; raises LessonError where something is in its way."""
    found = latest(session, owner.id)
    if found is None:
        raise LessonError("Nothing has been done to the order of the steps that could be undone.")
    before, after, here = Standing.read(found.before), Standing.read(found.after), standing(session, owner)
    if here.order != after.order:
        raise LessonError(f"Steps have come or gone since: “{found.words}” cannot be undone any longer.")
    moved = [step for step in after.order if before.digests.get(step) != after.digests[step]]
    for place, step in enumerate(after.order, 1):
        if step in moved and here.digests[step] != after.digests[step]:
            raise LessonError(
                f"Step {place} has been changed since: undo that first, or “{found.words}” would take it away."
            )
    bring_back(session, owner, before, kept=set(here.order) - set(moved))
    note(session, owner, f"Undone: {found.words}", here, standing(session, owner), found.id)
    return found


def known_order(session: Session, owner: Lesson, wanted: Sequence[str]) -> Standing | None:
    """Return how a lesson stood in an order, if only operations have led from there to here."""
    here = standing(session, owner)
    for one in operations_of(session, owner.id):
        if not here.is_like(Standing.read(one.after)):
            return None
        here = Standing.read(one.before)
        if list(here.order) == list(wanted):
            return here
    return None


def bring_back(session: Session, owner: Lesson, wanted: Standing, kept: Collection[str] = ()) -> None:
    """Let a lesson stand again as it did; steps that are `kept` hold what they hold now."""
    owner.start = wanted.start
    here = {str(step.id): step for step in steps_of(session, owner.id)}
    for name, step in here.items():
        if name not in wanted.order:
            step.deleted_at = now()
            count(session, step, "deleted")
    for place, name in enumerate(wanted.order):
        step = here.get(name) or session.get_one(Step, uuid.UUID(name))
        step.position = place
        if step.deleted_at is not None:
            step.deleted_at = None
            count(session, step, "restored")
        if name not in kept and digest_of(step.content) != wanted.digests[name]:
            write(step, content_at(session, step.id, wanted.versions[name]))
            count(session, step, "changed")
    touch(owner)
    session.flush()
