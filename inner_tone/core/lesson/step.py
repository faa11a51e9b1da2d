"""A step: what it says, the patch that it leaves, and the phrase that exercises it."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Annotated, TypeVar

from pydantic import Field

from inner_tone.core.documents import Document
from inner_tone.core.errors import InnerToneError
from inner_tone.core.lens.moment import Moment
from inner_tone.core.lesson.aim import Aim
from inner_tone.core.lesson.lenses import StepLenses
from inner_tone.core.lesson.mark import MOST_MARKS, Marks, checked_marks, going_on, side_by_side, text_with_numbers
from inner_tone.core.lesson.plate import MOST_PLATES, Plate
from inner_tone.core.lesson.playing import played_differently
from inner_tone.core.lesson.titles import title_of
from inner_tone.core.lesson.wording import Key, Telling, Wording, can_be_done, in_order, key_of, telling
from inner_tone.core.message import say
from inner_tone.core.modules import OUTPUT, PLAYER
from inner_tone.core.patch.difference import difference, opening
from inner_tone.core.patch.instructions import Instruction
from inner_tone.core.patch.model import Module, Name, Patch
from inner_tone.core.patch.moves import Edit
from inner_tone.core.patch.placements import HEADROOM_DB
from inner_tone.core.patch.validate import checked_patch
from inner_tone.core.phrase import Note, Phrase, checked_phrase

MOST_STEPS = 200
MOST_DETOURS = 12

Identity = TypeVar("Identity")
StartingPoint = tuple[Patch, Phrase | None]  # what a step goes out from; the first of a lesson has no phrase before it


class LessonError(InnerToneError):
    """A wish about a lesson that cannot be fulfilled."""


class Decision(Document):
    """A place that an earlier step and this one have both changed: what each would have there.

    This step's side stands; `edits` let the earlier one win. `note` says what else there is to know.
    """

    words: Annotated[str, Field(max_length=400)]
    early: Annotated[str, Field(max_length=1_000)]
    late: Annotated[str, Field(max_length=1_000)]
    note: Annotated[str, Field(max_length=400)] = ""
    edits: Annotated[tuple[Edit, ...], Field(max_length=1_000)] = ()


class Detour(Document):
    """A variation shown inside a step: an extreme, a mistake, a with and without. No later step is built upon it.

    It plays the phrase of its step, unless it has one of its own.
    """

    id: Name
    name: Annotated[str, Field(min_length=1, max_length=60)]
    note: Annotated[str, Field(max_length=5_000)] = ""
    patch: Patch
    phrase: Phrase | None = None


class StepContent(Document):
    """What the educator writes and builds in a step; `why` and `listen` are Markdown.

    A title that the program has made follows what the step does, until somebody writes one (`title_made`).
    `wording` and `order` are the educator's own for the instructions; an order that the program has made, that of the
    work, follows it (`order_made`). An `extra` step is left out of the short edition.
    `decisions` are open since an earlier change was brought here. `built_on` is the patch that the steps behind this
    one were built upon, as long as they do not have this one's change. `lenses` are those that the step opens with, if
    it has its own. `moment` is what all of them look at; without one it is the note that says most. `aim` is what
    counts as done for those who do the step themselves, where that is otherwise than usual. `marks` are what its texts
    refer to by numbers, and what modules and lines are for.
    """

    title: Annotated[str, Field(max_length=200)] = ""
    title_made: bool = False
    why: Annotated[str, Field(max_length=20_000)] = ""
    listen: Annotated[str, Field(max_length=5_000)] = ""
    patch: Patch = Patch()
    phrase: Phrase = Phrase()
    lenses: StepLenses | None = None
    moment: Moment | None = None
    extra: bool = False
    aim: Aim | None = None
    wording: Annotated[tuple[Wording, ...], Field(max_length=200)] = ()
    order: Annotated[tuple[Key, ...], Field(max_length=1_000)] = ()
    order_made: bool = False
    marks: Annotated[Marks, Field(max_length=MOST_MARKS)] = ()
    plates: Annotated[tuple[Plate, ...], Field(max_length=MOST_PLATES)] = ()
    detours: Annotated[tuple[Detour, ...], Field(max_length=MOST_DETOURS)] = ()
    decisions: Annotated[tuple[Decision, ...], Field(max_length=200)] = ()
    built_on: Patch | None = None


def checked(content: StepContent) -> StepContent:
    """Return a step's content if its patch and its phrase are right; raises DocumentError."""
    checked_patch(content.patch)
    checked_phrase(content.phrase)
    checked_marks(content.marks)
    for detour in content.detours:
        checked_patch(detour.patch)
        checked_phrase(detour.phrase or content.phrase)
    for plate in content.plates:
        checked_patch(plate.recipe.patch)
        checked_phrase(plate.recipe.phrase)
    return content


def changed(old: StepContent, new: StepContent, *, is_last: bool) -> StepContent:
    """Return a step's new content, with what the steps behind it were built upon, if that is another patch now."""
    base = old.built_on or old.patch
    return new.model_copy(update={"built_on": None if is_last or new.patch == base else base})


def joined(before: StepContent, after: StepContent) -> StepContent:
    """Return two steps as one: the texts of both, and the patch that both together lead to."""

    def together(*texts: str) -> str:
        return "\n\n".join(text for text in texts if text.strip())

    plates = tuple(
        plate.model_copy(update={"id": f"plate-{number}"})
        for number, plate in enumerate((*before.plates, *after.plates)[:MOST_PLATES], 1)
    )
    marks, new = side_by_side(before.marks, after.marks)
    return after.model_copy(
        update={
            "title": before.title or after.title,
            "marks": marks[:MOST_MARKS],
            "why": together(before.why, text_with_numbers(after.why, new))[:20_000],
            "listen": together(before.listen, text_with_numbers(after.listen, new))[:5_000],
            "plates": plates,
            "detours": (*before.detours, *after.detours)[:MOST_DETOURS],
            "decisions": (*before.decisions, *after.decisions),
            "wording": (*before.wording, *after.wording),
            "order": (),
        }
    )


FIRST, NEW = str(say("title.first")), str(say("title.new"))
UNTITLED = frozenset({"", FIRST, NEW})  # what a step is called before anybody has given it a title


def titled(steps: Sequence[StepContent], place: int, start: Patch | None) -> StepContent:
    """Return a step with a title from what it tells to do, if nobody has given it one and it tells something."""
    before = steps[place - 1].patch if place else begins_with(start, steps[0].patch)
    return titled_after(before, steps[place])


def titled_after(before: Patch, step: StepContent) -> StepContent:
    """Return a step with a title from what it does to a patch, unless somebody has given it one of their own."""
    said = difference(before, step.patch)
    if not said or (step.title not in UNTITLED and not step.title_made):
        return step
    return step.model_copy(update={"title": title_of(before, said), "title_made": True})


def first_step() -> StepContent:
    """Return the step that a new lesson begins with: a player and an output, and one note to play."""
    modules = (Module(id="player", type=PLAYER), Module(id="out", type=OUTPUT, settings={"level": HEADROOM_DB}))
    phrase = Phrase(title="One note", beats=4, notes=(Note(start=0, length=2, pitch=57),))
    return StepContent(title=FIRST, patch=Patch(modules=modules), phrase=phrase)


def following_step(previous: StepContent) -> StepContent:
    """Return the step that comes after another: the same patch, phrase and lenses, nothing said yet."""
    patch, phrase = previous.patch, previous.phrase
    marks = going_on(previous.marks, patch, phrase)
    return StepContent(title=NEW, patch=patch, phrase=phrase, lenses=previous.lenses, marks=marks)


def taken(content: StepContent) -> StepContent:
    """Return a step as it comes into another lesson: nothing in it waits for the lesson that it was taken from."""
    return content.model_copy(update={"decisions": (), "built_on": None})


def duplicate(content: StepContent) -> StepContent:
    """Return a copy that can be told from the original."""
    return content.model_copy(update={"title": f"{content.title} (copy)"[:200]})


def begins_with(start: Patch | None, first: Patch) -> Patch:
    """Return the patch that a lesson begins with: that of its start, or what every first patch has."""
    return opening(first) if start is None else start


def told(
    steps: Sequence[StepContent],
    start: Patch | None = None,
    differing: Callable[[int, Patch, Patch], Sequence[Instruction]] = lambda place, before, after: difference(
        before, after
    ),
) -> list[Telling]:
    """Return, for each step of a lesson, what to do to come there from the step before.

    Parameters
    ----------
    steps
        The steps in their order.
    start
        The patch that the lesson starts from, if it is another lesson's last.
    differing
        Returns the difference between two patches, of which the second is that of the step at a place; for those who
        remember it.

    Where a type of module first comes in, its instruction has the type's purpose.
    """
    if not steps:
        return []
    befores: list[StartingPoint] = [
        (begins_with(start, steps[0].patch), None),
        *((one.patch, one.phrase) for one in steps),
    ]
    known = {module.type for module in befores[0][0].modules}
    pairs = enumerate(zip(befores, steps, strict=False))
    return [told_once(step, before, differing(place, before[0], step.patch), known) for place, (before, step) in pairs]


def told_once(step: StepContent, before: StartingPoint, said: Sequence[Instruction], known: set[str]) -> Telling:
    """Return what to do to come to a step from what is before it, given how the patches differ and the types known.

    The types that it brings in are known from then on.
    """
    done = [with_purpose(one, step.patch, known) for one in said]
    return telling(before[0], [*done, *playing(step, before)], step.order, step.wording)


def playing(step: StepContent, before: StartingPoint) -> list[Instruction]:
    """Return what a step plays otherwise than what is before it."""
    _, phrase = before
    return [] if phrase is None else played_differently(phrase, step.phrase, step.patch)


def as_worked(before: StartingPoint, old: StepContent, new: StepContent) -> StepContent:
    """Return a step whose instructions stand in the order in which they were done, given how it stood before the last.

    An order that somebody has made stays; one that could not be followed is not kept.
    """
    if new.order and not new.order_made:
        return new
    patch, _ = before
    was, said = ([*difference(patch, one.patch), *playing(one, before)] for one in (old, new))
    known = [key_of(one) for one in in_order(was, old.order)]
    order = {key: place for place, key in enumerate(known)}
    wanted = sorted(said, key=lambda one: order.get(key_of(one), len(order)))
    keys = () if wanted == said or not can_be_done(patch, said, wanted) else tuple(map(key_of, wanted))
    return new.model_copy(update={"order": keys, "order_made": bool(keys)})


def types_in(patch: Patch) -> set[str]:
    """Return the types of module that a patch has."""
    return {module.type for module in patch.modules}


def with_purpose(instruction: Instruction, patch: Patch, known: set[str]) -> Instruction:
    """Return an instruction with what its module is for, if it brings in a type that is not known yet."""
    module = patch.by_id.get(instruction.module)
    if instruction.kind not in ("add", "insert", "replace") or module is None or module.type in known:
        return instruction
    known.add(module.type)
    return replace(instruction, purpose=f"{module.declaration.title}: {module.declaration.summary}")


def reordered(present: Sequence[Identity], wanted: Sequence[Identity]) -> list[Identity]:
    """Return the wanted order of a lesson's steps; raises LessonError unless it has every step exactly once."""
    if sorted(map(str, present)) != sorted(map(str, wanted)):
        raise LessonError("The order does not name every step of the lesson exactly once. Load the lesson anew.")
    return list(wanted)


def room_for_another(count: int) -> None:
    """Raise LessonError if a lesson with `count` steps can have no further one."""
    if count >= MOST_STEPS:
        raise LessonError(f"A lesson has at most {MOST_STEPS} steps. Begin another lesson.")
