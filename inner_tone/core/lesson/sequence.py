"""The patches of a lesson's steps as a sequence of changes: one changed early, one cut in two, the order turned round.

Each step is a change of the patch before it. Where what comes before a step has become another, its change is made
there again, by a merge: what cannot be brought together is a conflict at that step.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from inner_tone.core.errors import DocumentError, InnerToneError
from inner_tone.core.lesson.arranging import arranged
from inner_tone.core.lesson.step import Decision, StartingPoint, StepContent, begins_with, playing
from inner_tone.core.lesson.titles import title_of
from inner_tone.core.lesson.wording import key_of, telling
from inner_tone.core.patch.difference import difference
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.merge import Conflict, decidable
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.validate import checked_patch

VALUES = ("set ", "depth ", "voices ", "rename ")  # what a later step may have done already, so that nothing is left


class SequenceError(InnerToneError):
    """A change of the order of steps, or within it, that cannot be made."""


@dataclass(frozen=True)
class Brought:
    """What a step's patch has become, and what is to be decided there; `place` is the step's, from 0."""

    place: int
    patch: Patch
    conflicts: tuple[Conflict, ...]


def carried(patches: Sequence[Patch], place: int, built_on: Sequence[Patch | None]) -> list[Brought]:
    """Return what the steps behind a place become when its change is carried forward.

    Parameters
    ----------
    patches
        The steps' patches as they stand, the changed one among them.
    place
        The step that was changed, from 0.
    built_on
        For each step, the patch that the steps behind it were built upon, where that is not the one that it has.
    """
    found: list[Brought] = []
    old, new = built_on[place] or patches[place], patches[place]
    for later in range(place + 1, len(patches)):
        brought = decidable(old, new, patches[later])
        found.append(Brought(later, brought.patch, brought.conflicts))
        old, new = built_on[later] or patches[later], brought.patch
    return found


def followed(old: Patch, new: Patch, patches: Sequence[Patch], built_on: Sequence[Patch | None]) -> list[Brought]:
    """Return what a lesson's steps become when the patch that it starts from is `new` instead of `old`."""
    found = carried([new, *patches], 0, [old, *built_on])
    return [replace(one, place=one.place - 1) for one in found]


def rearranged(patches: Sequence[Patch], order: Sequence[int], start: Patch | None = None) -> list[Brought]:
    """Return the steps' patches in another order; raises OrderError where one of them would mean nothing.

    `order` names the steps by their present places; what is brought back is in the new order. `start` is the patch that
    the lesson starts from, if it has one.
    """
    if not patches:
        return []
    found = arranged(patches, order, begins_with(start, patches[0]))
    return [Brought(place, patch, ()) for place, patch in zip(order, found, strict=True)]


def effects(patches: Sequence[Patch], order: Sequence[int], start: Patch | None = None) -> list[str]:
    """Return what another order would change, in words: what steps would no longer do, and what would end otherwise."""
    if not patches:
        return []
    first = begins_with(start, patches[0])
    found = arranged(patches, order, first)
    said: list[str] = []
    for now, place in enumerate(order):
        before = patches[place - 1] if place else first
        was = {key_of(one): one.text for one in difference(before, patches[place])}
        will = {key_of(one) for one in difference(found[now - 1] if now else first, found[now])}
        lost = [text for key, text in was.items() if key not in will and key.startswith(VALUES)]
        said += [f"Step {place + 1} would no longer do this: {text}" for text in lost]
    said += [f"The lesson would end otherwise: {one.text}" for one in difference(patches[-1], found[-1])]
    return said


def where_added(patches: Sequence[Patch], module: str) -> int | None:
    """Return the place of the step that adds a module, from 0."""
    return next((place for place, patch in enumerate(patches) if module in patch.by_id), None)


def decisions(brought: Brought, patches: Sequence[Patch]) -> tuple[Decision, ...]:
    """Return what is to be decided at a step, given all the patches in their order."""
    return tuple(decision(one, patches) for one in brought.conflicts)


def decision(conflict: Conflict, patches: Sequence[Patch]) -> Decision:
    """Return a conflict as a decision; of a module that is missing, it says in which step it comes in."""
    note = ""
    if conflict.place.startswith("module:"):
        place = where_added(patches, conflict.place.removeprefix("module:"))
        note = f"{conflict.words} is added only in step {place + 1}." if place else ""
    return Decision(
        words=conflict.words[:400],
        early=conflict.early[:1000],
        late=conflict.late[:1000],
        note=note,
        edits=conflict.edits,
    )


def cut(scene: StartingPoint, content: StepContent, count: int) -> tuple[StepContent, StepContent]:
    """Return a step as two, the first with its first `count` instructions; raises SequenceError.

    `scene` is what is before it. A phrase that is another there comes with the first of what is told of it.
    """
    patch, (before, phrase) = content.patch, scene
    told = [*difference(before, patch), *playing(content, scene)]
    said = telling(before, told, content.order, content.wording).plain
    if not 0 < count < len(said):
        raise SequenceError(
            f"This step has {len(said)} instructions: it can be split after 1 to {len(said) - 1} of them."
        )
    part = made(before, [edit for one in said[:count] for edit in one.edits]).patch
    try:
        middle = checked_patch(part.model_copy(update={"title": patch.title}))
    except DocumentError as error:
        raise SequenceError(f"It cannot be split there: {error}") from error
    keys = {key_of(one) for one in said[:count]}
    plays = any(one.kind == "play" for one in said[:count])
    first = StepContent(
        title=title_of(before, said[:count]),
        title_made=True,
        patch=middle,
        phrase=content.phrase if plays or phrase is None else phrase,
        lenses=content.lenses,
        extra=content.extra,
        wording=tuple(one for one in content.wording if one.key in keys),
        order=tuple(key for key in content.order if key in keys),
    )
    rest = {
        "wording": tuple(one for one in content.wording if one.key not in keys),
        "order": tuple(key for key in content.order if key not in keys),
    }
    return first, content.model_copy(update=rest)
