"""Reads and changes lessons and steps. Every function works within the caller's transaction."""

import uuid
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from sqlalchemy import and_, cast, func, or_, select
from sqlalchemy.dialects.postgresql import JSONB, JSONPATH
from sqlalchemy.orm import Session, joinedload

from inner_tone.core.lesson import step as rules
from inner_tone.core.lesson.lesson import LessonDocument, Start
from inner_tone.core.lesson.renaming import relabelled, shared, with_names
from inner_tone.core.lesson.sequence import Brought, carried, cut, decisions, effects, followed, rearranged
from inner_tone.core.lesson.step import StepContent
from inner_tone.core.lesson.together import Choices, mine_beside, together
from inner_tone.core.patch.model import Patch
from inner_tone.store import operations
from inner_tone.store.errors import ClashError, ConflictError, GoneError, NotFoundError
from inner_tone.store.models import Account, Lesson, Share, Step, StepHistory, now
from inner_tone.store.operations import operation
from inner_tone.store.written import content_at, content_of, count, number, record, steps_of, touch, write


def lessons_for(session: Session, account: Account) -> list[tuple[Lesson, int, bool | None]]:
    """Return an educator's lessons and those shared with them, the one changed last first.

    Each comes with its number of steps, and whether it is shared for writing, or nothing where it is their own.
    """
    steps = (
        select(func.count())
        .where(Step.lesson_id == Lesson.id, Step.deleted_at.is_(None))
        .correlate(Lesson)
        .scalar_subquery()
    )
    query = (
        select(Lesson, steps, Share.may_write)
        .outerjoin(Share, and_(Share.lesson_id == Lesson.id, Share.account_id == account.id))
        .where(Lesson.deleted_at.is_(None), or_(Lesson.owner_id == account.id, Share.account_id == account.id))
        .options(joinedload(Lesson.owner), joinedload(Lesson.series))
        .order_by(Lesson.updated_at.desc(), Lesson.id)
    )
    return [(lesson, many, may_write) for lesson, many, may_write in session.execute(query)]


def lesson(session: Session, lesson_id: uuid.UUID, *, lock: bool = False, deleted: bool = False) -> Lesson:
    """Return a lesson, locked against other changes if asked; raises NotFoundError."""
    found = session.get(Lesson, lesson_id, with_for_update=lock or None)
    if found is None or (found.deleted_at is not None) != deleted:
        raise NotFoundError("There is no such lesson. It may have been deleted.")
    return found


def create_lesson(
    session: Session, owner_id: uuid.UUID, document: LessonDocument, start: Start | None = None
) -> Lesson:
    """Add a lesson with its steps, owned by somebody; `start` says which lesson it starts from."""
    created = Lesson(owner_id=owner_id, start=start.to_json() if start else None)
    describe(created, document)
    session.add(created)
    session.flush()
    for place, content in enumerate(document.steps):
        insert_step(session, created, place, content, "created")
    return created


def describe(described: Lesson, document: LessonDocument) -> None:
    """Write what a lesson says of itself, beside its steps."""
    described.title, described.summary = document.title, document.summary
    described.target_first, described.target_note = document.target_first, document.target_note


def describe_lesson(session: Session, lesson_id: uuid.UUID, version: int, document: LessonDocument) -> Lesson:
    """Let a lesson say something else of itself; its steps stay. Raises NotFoundError or ConflictError."""
    found = lesson_at(session, lesson_id, version)
    describe(found, document)
    touch(found)
    return found


def start_of(started: Lesson) -> Start | None:
    """Return what a lesson starts from, if that is another one."""
    return Start.model_validate(started.start) if started.start else None


def document_of(session: Session, found: Lesson) -> tuple[LessonDocument, list[Step]]:
    """Return a lesson as a whole, and its steps as they are kept."""
    steps = steps_of(session, found.id)
    start = start_of(found)
    document = LessonDocument(
        title=found.title,
        summary=found.summary,
        target_first=found.target_first,
        target_note=found.target_note,
        start=start.patch if start else None,
        steps=tuple(content_of(step) for step in steps),
    )
    return document, steps


def last_content(session: Session, lesson_id: uuid.UUID) -> StepContent | None:
    """Return the content of a lesson's last step; nothing if it has none, or is not there (any longer)."""
    found = session.get(Lesson, lesson_id)
    steps = steps_of(session, lesson_id) if found is not None and found.deleted_at is None else []
    return content_of(steps[-1]) if steps else None


def lesson_at(session: Session, lesson_id: uuid.UUID, version: int) -> Lesson:
    """Return a lesson, locked, if it still stands at a version."""
    found = lesson(session, lesson_id, lock=True)
    if found.version != version:
        raise ConflictError("lesson", found.version)
    return found


def delete_lesson(session: Session, lesson_id: uuid.UUID) -> None:
    """Put a lesson away; it can be restored."""
    lesson(session, lesson_id, lock=True).deleted_at = now()


def restore_lesson(session: Session, lesson_id: uuid.UUID) -> Lesson:
    """Bring a deleted lesson back."""
    found = lesson(session, lesson_id, lock=True, deleted=True)
    found.deleted_at = None
    return found


def step_with(session: Session, step_id: uuid.UUID) -> Step:
    """Return a step to be read; raises NotFoundError."""
    found = session.get(Step, step_id)
    if found is None or found.deleted_at is not None:
        raise NotFoundError("There is no such step. It may have been deleted.")
    return found


def step_for_change(session: Session, step_id: uuid.UUID, *, deleted: bool = False) -> tuple[Lesson, Step]:
    """Return a step and its lesson, both locked, the lesson first so that nobody waits in a circle."""
    found = session.get(Step, step_id)
    if found is None:
        raise NotFoundError("There is no such step.")
    owner = lesson(session, found.lesson_id, lock=True)
    session.refresh(found, with_for_update=True)
    if (found.deleted_at is not None) != deleted:
        raise NotFoundError(
            "The step is not deleted." if deleted else "There is no such step. It may have been deleted."
        )
    return owner, found


def insert_step(session: Session, owner: Lesson, place: int, content: StepContent, action: str) -> Step:
    """Add a step at a place among the steps of a lesson."""
    present = steps_of(session, owner.id)
    rules.room_for_another(len(present))
    created = Step(lesson_id=owner.id, position=place)
    write(created, content)
    session.add(created)
    number([*present[:place], created, *present[place:]])
    session.flush()
    record(session, created, action)
    return created


def add_step(session: Session, lesson_id: uuid.UUID, after: uuid.UUID | None, *, finishing: bool = False) -> Step:
    """Add a step behind another, or at the end, that begins with the patch of the one before it.

    With `finishing` the step before is done: if nobody has given it a title, it gets one from what it tells to do.
    """
    owner = lesson(session, lesson_id, lock=True)
    present = steps_of(session, lesson_id)
    places = {step.id: place for place, step in enumerate(present)}
    if after is not None and after not in places:
        raise NotFoundError("There is no such step to add one behind. It may have been deleted.")
    place = places[after] + 1 if after is not None else len(present)
    with operation(session, owner, f"Step {place + 1} added"):
        if finishing and place:
            finish(session, owner, present, place - 1)
        content = rules.following_step(content_of(present[place - 1])) if place else rules.first_step()
        touch(owner)
        return insert_step(session, owner, place, content, "created")


def finish(session: Session, owner: Lesson, present: Sequence[Step], place: int) -> None:
    """Give a step a title of its own, if it has none."""
    content = rules.titled([content_of(step) for step in present], place, started(owner))
    if content != content_of(present[place]):
        rewrite(session, owner, present[place], content)


def beside(session: Session, step: Step) -> tuple[Step | None, Step | None]:
    """Return the steps before and behind one, where there are any."""
    present = select(Step).where(Step.lesson_id == step.lesson_id, Step.deleted_at.is_(None))
    before = present.where(Step.position < step.position).order_by(Step.position.desc()).limit(1)
    behind = present.where(Step.position > step.position).order_by(Step.position).limit(1)
    return session.scalar(before), session.scalar(behind)


def types_before(session: Session, step: Step) -> set[str]:
    """Return the types of module that the steps before one have."""
    found = func.jsonb_path_query(Step.content, cast("$.patch.modules[*].type", JSONPATH), type_=JSONB).label("type")
    query = select(found).where(
        Step.lesson_id == step.lesson_id, Step.deleted_at.is_(None), Step.position < step.position
    )
    return set(session.scalars(select(query.subquery().c.type).distinct()))


def take_step(session: Session, lesson_id: uuid.UUID, after: uuid.UUID | None, taken: StepContent) -> Step:
    """Add a step as it stands in another lesson behind one, or at the end."""
    owner = lesson(session, lesson_id, lock=True)
    with operation(session, owner, f"“{named(taken)}” taken from elsewhere"):
        added = add_step(session, lesson_id, after)
        rewrite(session, owner, added, rules.taken(taken))
    return added


def named(content: StepContent) -> str:
    """Return what a step is called, short enough for a sentence."""
    return content.title[:60] or "a step"


def duplicate_step(session: Session, step_id: uuid.UUID) -> Step:
    """Add a copy of a step behind it."""
    owner, original = step_for_change(session, step_id)
    with operation(session, owner, f"Step {original.position + 1} doubled"):
        touch(owner)
        return insert_step(session, owner, original.position + 1, rules.duplicate(content_of(original)), "created")


@dataclass(frozen=True)
class Wish:
    """What is to become of a step: of what was known of it at `version`, `made` makes what it was changed from and to.

    `choices` decide clashes with what others have changed; `request` is what the page calls its wish, and `own` those
    of its wishes that may have been fulfilled since. While `capturing`, instructions stand in the order of the work.
    """

    version: int
    made: Callable[[StepContent], tuple[StepContent, StepContent]]
    choices: Choices = field(default_factory=dict)
    request: uuid.UUID | None = None
    own: frozenset[uuid.UUID] = frozenset()
    capturing: bool = False


def change_step(session: Session, step_id: uuid.UUID, wish: Wish) -> tuple[StepContent, Step]:
    """Bring a change into a step, whatever others have changed in it meanwhile; returns what stood there before, too.

    Raises ClashError where both have changed the same, and GoneError if the step has been deleted.
    """
    owner, step = step_for_meeting(session, step_id)
    theirs = content_of(step)
    if wish.request is not None and has_come(session, step, wish.request):  # the answer to an earlier try was lost
        return theirs, step
    version = version_known(session, step, wish)
    base, mine = wish.made(theirs if step.version == version else content_at(session, step.id, version))
    met = together(base, theirs, mine, wish.choices)
    if met.clashes:
        raise ClashError(step.version, met.clashes)
    content = with_names(theirs.patch, met.content if met.content == mine else rules.checked(met.content))
    if content != theirs:
        keep(session, owner, step, content, wish)
    return theirs, step


def keep(session: Session, owner: Lesson, step: Step, content: StepContent, wish: Wish) -> None:
    """Write what has become of a step. What is called otherwise there is so in all steps that share it."""
    old = content_of(step)
    labels = relabelled(old.patch, content.patch)
    if labels:
        for other in steps_of(session, owner.id):
            told = content_of(other)
            if other.id != step.id and (here := shared(told, labels)) != told:
                rewrite(session, owner, other, here)
        old = shared(old, labels)
    before, behind = beside(session, step)
    changed = rules.changed(old, content, is_last=behind is None)
    scene = scene_before(owner, changed, before)
    if changed.title_made:
        changed = rules.titled_after(scene[0], changed)
    if wish.capturing:
        changed = rules.as_worked(scene, old, changed)
    rewrite(session, owner, step, changed, wish.request)
    if labels:
        retitle(session, owner)


def retitle(session: Session, owner: Lesson) -> None:
    """Let the titles that the program has made follow what the steps do."""
    present = steps_of(session, owner.id)
    contents = [content_of(one) for one in present]
    for place, one in enumerate(present):
        titled = rules.titled(contents, place, started(owner)) if contents[place].title_made else contents[place]
        if titled != contents[place]:
            rewrite(session, owner, one, titled)


def step_for_meeting(session: Session, step_id: uuid.UUID) -> tuple[Lesson, Step]:
    """Return a step and its lesson, both locked; raises GoneError if the step has been deleted."""
    found = session.get(Step, step_id)
    if found is not None and found.deleted_at is not None:
        raise GoneError("This step has been deleted meanwhile. What you have changed is still here.")
    return step_for_change(session, step_id)


def has_come(session: Session, step: Step, request: uuid.UUID) -> bool:
    """Tell whether a wish has been fulfilled already."""
    query = select(StepHistory.id).where(StepHistory.step_id == step.id, StepHistory.request == request)
    return session.scalar(query.limit(1)) is not None


def version_known(session: Session, step: Step, wish: Wish) -> int:
    """Return the version from which a wish goes out: a later one where only its own page has changed the step since."""
    query = select(StepHistory).where(StepHistory.step_id == step.id, StepHistory.version > wish.version)
    version = wish.version
    for row in session.scalars(query.order_by(StepHistory.id)) if wish.own else ():
        if row.request not in wish.own:
            break
        version = row.version
    return version


def keep_beside(session: Session, step_id: uuid.UUID, wish: Wish) -> Step:
    """Put a change that clashes with what others have changed in a step into a step of its own behind it."""
    owner, step = step_for_meeting(session, step_id)
    theirs = content_of(step)
    base, mine = wish.made(content_at(session, step.id, wish.version))
    content = rules.checked(mine_beside(base, theirs, mine))
    own = {"title": f"{content.title[:180]} (my version)", "title_made": False, "decisions": (), "built_on": None}
    with operation(session, owner, f"A version of step {step.position + 1} put behind it"):
        touch(owner)
        return insert_step(session, owner, step.position + 1, content.model_copy(update=own), "created")


def rewrite(
    session: Session, owner: Lesson, step: Step, content: StepContent, request: uuid.UUID | None = None
) -> None:
    """Write a step's content and its history."""
    write(step, content)
    count(session, step, "changed", request)
    owner.updated_at = now()


def split_step(session: Session, step_id: uuid.UUID, version: int, count: int) -> Step:
    """Put a step with the first `count` instructions of another before it; returns it. Raises SequenceError."""
    owner, step = step_for_change(session, step_id)
    if step.version != version:
        raise ConflictError("step", step.version)
    present = steps_of(session, owner.id)
    content = content_of(step)
    first, rest = cut(
        scene_before(owner, content, present[step.position - 1] if step.position else None), content, count
    )
    with operation(session, owner, f"Step {step.position + 1} cut in two"):
        if rest != content:
            rewrite(session, owner, step, rest)
        touch(owner)
        return insert_step(session, owner, step.position, first, "created")


def scene_before(owner: Lesson, content: StepContent, before: Step | None) -> rules.StartingPoint:
    """Return what a step goes out from: the one before it, or the beginning of the lesson."""
    if before is None:
        return opening_of(owner, content), None
    earlier = content_of(before)
    return earlier.patch, earlier.phrase


def opening_of(owner: Lesson, first: StepContent) -> Patch:
    """Return the patch that the first step of a lesson begins with."""
    return rules.begins_with(started(owner), first.patch)


def join_step(session: Session, step_id: uuid.UUID, version: int) -> Step:
    """Make one step of a step and the one before it, which can be restored; raises LessonError for the first."""
    owner, step = step_for_change(session, step_id)
    if step.version != version:
        raise ConflictError("step", step.version)
    if step.position == 0:
        raise rules.LessonError("The first step has none before it that it could be joined with.")
    before = steps_of(session, owner.id)[step.position - 1]
    with operation(session, owner, f"Steps {step.position} and {step.position + 1} joined"):
        rewrite(session, owner, step, rules.joined(content_of(before), content_of(step)))
        delete_step(session, before.id)
    return step


def carry(session: Session, step_id: uuid.UUID) -> list[Step]:
    """Bring a step's change into all steps behind it; returns those whose content is another now, itself among them."""
    owner, step = step_for_change(session, step_id)
    present = steps_of(session, owner.id)
    contents = [content_of(one) for one in present]
    found = carried([one.patch for one in contents], step.position, [one.built_on for one in contents])
    patches = [*(one.patch for one in contents[: step.position + 1]), *(one.patch for one in found)]
    with operation(session, owner, f"The change of step {step.position + 1} brought into the later steps"):
        rewrite(session, owner, step, contents[step.position].model_copy(update={"built_on": None}))
        touch(owner)
        return [step, *bring(session, owner, present, found, patches, carried_on=True)]


def bring(
    session: Session,
    owner: Lesson,
    present: Sequence[Step],
    found: Sequence[Brought],
    patches: Sequence[Patch],
    *,
    carried_on: bool,
) -> list[Step]:
    """Write what steps have become into them; returns those whose content is another now. `patches` are all in order.

    With `carried_on` the steps behind each have its changes now.
    """
    rewritten = []
    for brought in found:
        old = content_of(present[brought.place])
        open_decisions = (*old.decisions, *decisions(brought, patches))
        # what waits to be carried on is known only where the step stands as it stood, and others come behind it
        waits = not carried_on and brought.patch == old.patch and brought is not found[-1]
        built_on = old.built_on if waits else None
        moved = old.model_copy(update={"patch": brought.patch, "decisions": open_decisions, "built_on": built_on})
        new = with_names(old.patch, moved)
        if new != old:
            rewrite(session, owner, present[brought.place], new)
            rewritten.append(present[brought.place])
    return rewritten


def follow_start(session: Session, lesson_id: uuid.UUID) -> list[Step]:
    """Let a lesson start from what the one before it ends with now; returns the steps whose content is another now."""
    owner = lesson(session, lesson_id, lock=True)
    start = start_of(owner)
    last = last_content(session, uuid.UUID(start.lesson)) if start else None
    if start is None or last is None:
        raise NotFoundError("There is no lesson that this one starts from. It may have been deleted.")
    present = steps_of(session, lesson_id)
    contents = [content_of(one) for one in present]
    found = followed(start.patch, last.patch, [one.patch for one in contents], [one.built_on for one in contents])
    with operation(session, owner, "The start brought up to the lesson before"):
        owner.start = Start(lesson=start.lesson, patch=last.patch).to_json()
        touch(owner)
        return bring(session, owner, present, found, [one.patch for one in found], carried_on=True)


def undo(session: Session, lesson_id: uuid.UUID) -> Lesson:
    """Undo what has been done last to a lesson as a whole; raises LessonError where something stands in its way."""
    owner = lesson(session, lesson_id, lock=True)
    operations.undo(session, owner)
    return owner


def delete_step(session: Session, step_id: uuid.UUID) -> Step:
    """Take a step out of its lesson; it can be restored."""
    owner, step = step_for_change(session, step_id)
    with operation(session, owner, f"Step {step.position + 1}, “{named(content_of(step))}”, deleted"):
        step.deleted_at = now()
        count(session, step, "deleted")
        touch(owner)
        session.flush()
        number(steps_of(session, owner.id))
    return step


def restore_step(session: Session, step_id: uuid.UUID) -> Step:
    """Bring a deleted step back to where it stood."""
    owner, step = step_for_change(session, step_id, deleted=True)
    present = steps_of(session, owner.id)
    rules.room_for_another(len(present))
    place = min(step.position, len(present))
    with operation(session, owner, f"Step {place + 1} brought back"):
        step.deleted_at = None
        number([*present[:place], step, *present[place:]])
        count(session, step, "restored")
        touch(owner)
    return step


def order_steps(session: Session, lesson_id: uuid.UUID, version: int, wanted: Sequence[uuid.UUID]) -> Lesson:
    """Put the steps of a lesson into another order, each step's change made again on what then comes before it.

    An order that it has had, with nothing changed since, is brought back to the bit. Raises ConflictError, LessonError,
    or OrderError where a step would mean nothing.
    """
    owner = lesson_at(session, lesson_id, version)
    contents, order = ordered(session, owner, wanted)
    present = steps_of(session, lesson_id)
    with operation(session, owner, moved_words(order)):
        known = operations.known_order(session, owner, [str(one) for one in wanted])
        if known is not None:
            operations.bring_back(session, owner, known)
            return owner
        found = rearranged([one.patch for one in contents], order, started(owner))
        bring(session, owner, present, found, [one.patch for one in found], carried_on=False)
        number([present[place] for place in order])
        touch(owner)
    return owner


def effects_of_order(session: Session, lesson_id: uuid.UUID, wanted: Sequence[uuid.UUID]) -> list[str]:
    """Return what another order of a lesson's steps would change, in words; raises as `order_steps` does."""
    owner = lesson(session, lesson_id)
    contents, order = ordered(session, owner, wanted)
    if operations.known_order(session, owner, [str(one) for one in wanted]) is not None:
        return []
    return effects([one.patch for one in contents], order, started(owner))


def ordered(session: Session, owner: Lesson, wanted: Sequence[uuid.UUID]) -> tuple[list[StepContent], list[int]]:
    """Return the contents of a lesson's steps, and their present places in the order that is wished."""
    present = steps_of(session, owner.id)
    places = {step.id: place for place, step in enumerate(present)}
    order = [places[step_id] for step_id in rules.reordered(list(places), wanted)]
    return [content_of(step) for step in present], order


def started(owner: Lesson) -> Patch | None:
    """Return the patch that a lesson starts from, if it has one."""
    start = start_of(owner)
    return start.patch if start else None


def moved_words(order: Sequence[int]) -> str:
    """Return in words what another order is: which step has gone where, or which two have changed places."""
    away = [place for here, place in enumerate(order) if here != place]
    if len(away) == 2:
        first, second = sorted(away)
        return f"Steps {first + 1} and {second + 1} changed places"
    for here, place in enumerate(order):
        rest = [one for one in order if one != place]
        if rest == sorted(rest) and here != place:
            return f"Step {place + 1} moved to place {here + 1}"
    return "The steps put into another order"
