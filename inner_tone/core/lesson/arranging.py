"""The steps of a lesson in another order: what each of their patches is then, and what cannot be turned round.

A step is a change of the patch before it. What stands wired after some of the steps is what the first of the present
patches that has them all says, without what the others have done to it: a module that is not there yet is bridged, so
“insert C between B and D” means the same whether B has come in already or not, and in the end all is wired as before. A
value is that which the last of these steps has set.

Where a step would change what is not there yet, or no longer, it means nothing, and the order is refused.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from inner_tone.core.errors import DocumentError, InnerToneError
from inner_tone.core.modules.declaration import spoken
from inner_tone.core.patch.edit import made, with_lines
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Connection, Module, Patch
from inner_tone.core.patch.moves import RemoveModules
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.sections import pruned
from inner_tone.core.patch.validate import checked_patch

Ends = tuple[Port, Port]
GONE = object()


class OrderError(InnerToneError):
    """An order of steps in which one of them would mean nothing."""


@dataclass(frozen=True)
class Change:
    """What a step makes of the patch before it."""

    before: Patch
    after: Patch

    @cached_property
    def added(self) -> tuple[str, ...]:
        """The modules that come in."""
        return tuple(name for name in self.after.by_id if name not in self.before.by_id)

    @cached_property
    def removed(self) -> tuple[str, ...]:
        """The modules that go."""
        return tuple(name for name in self.before.by_id if name not in self.after.by_id)

    @cached_property
    def drawn(self) -> tuple[Connection, ...]:
        """The connections that come in."""
        there = {line.ends for line in self.before.connections}
        return tuple(line for line in self.after.connections if line.ends not in there)

    @cached_property
    def cut(self) -> tuple[Connection, ...]:
        """The connections that go, but for those that now run through what has come in."""
        there = {line.ends for line in self.after.connections}
        past = {line.ends for line in bridged(self.after, self.added).connections}
        return tuple(line for line in self.before.connections if line.ends not in there | past)

    @cached_property
    def turned(self) -> tuple[Connection, ...]:
        """The connections that stay and are another: by depth, by scale, or switched."""
        there = {line.ends: line for line in self.before.connections}
        return tuple(line for line in self.after.connections if there.get(line.ends, line) != line)

    @cached_property
    def set_values(self) -> tuple[tuple[str, str, Any], ...]:
        """The modules that stay, what is set in them, and to what; a setting that is its default again is GONE."""
        return tuple(
            (name, key, value)
            for name, new in self.after.by_id.items()
            if name in self.before.by_id
            for key, value in told_apart(self.before.by_id[name], new)
        )


def told_apart(old: Module, new: Module) -> Iterator[tuple[str, Any]]:
    """Yield what differs between a module and what has become of it."""
    for key in ("type", "label"):
        if getattr(old, key) != getattr(new, key):
            yield key, getattr(new, key)
    for key in dict.fromkeys([*old.settings, *new.settings]):
        if old.settings.get(key, GONE) != new.settings.get(key, GONE):
            yield f"settings.{key}", new.settings.get(key, GONE)


def bridged(patch: Patch, names: Sequence[str]) -> Patch:
    """Return a patch without some modules; what went through them goes on without them."""
    present = tuple(name for name in names if name in patch.by_id)
    return made(patch, [RemoveModules(modules=present)]).patch if present else patch


def arranged(patches: Sequence[Patch], order: Sequence[int], opening: Patch) -> list[Patch]:
    """Return the steps' patches in another order.

    Parameters
    ----------
    patches
        The patches as they stand.
    order
        The present places, from 0, in the order that is wished.
    opening
        The patch before the first step.

    Raises
    ------
    OrderError
        If a step would mean nothing there; it says which one and why.
    """
    changes = [Change(before, after) for before, after in zip([opening, *patches], patches, strict=False)]
    found: list[Patch] = []
    here = opening
    for count, place in enumerate(order, 1):
        if list(order[:count]) == list(range(count)):
            here = patches[place]
        else:
            refuse_what_means_nothing(changes, place, here, order[: count - 1])
            here = standing(changes, order[:count], opening)
            refuse_what_is_lost(changes, place, here, order[: count - 1])
        found.append(here)
    return found


def standing(changes: Sequence[Change], order: Sequence[int], opening: Patch) -> Patch:
    """Return what stands when some steps have been made in an order."""
    last = max(order)
    wired = changes[last].after
    for place in reversed(range(last)):
        if place not in order:
            wired = without(changes[place], wired)
    patch = pruned(valued(wired, [changes[place] for place in order], opening))
    title = changes[order[-1]].after.title
    try:
        return checked_patch(patch.model_copy(update={"title": title}))
    except DocumentError as error:
        raise OrderError(f"In this order, step {order[-1] + 1} cannot be made: {error}") from error


def without(change: Change, patch: Patch) -> Patch:
    """Return the wiring of a patch without what one of its steps has done."""
    patch = bridged(patch, change.added)
    drawn = {line.ends for line in change.drawn}
    kept = [line for line in patch.connections if line.ends not in drawn]
    back = [change.before.by_id[name] for name in change.removed if name not in patch.by_id]
    present = {*patch.by_id, *(one.id for one in back)}
    kept += [line for line in change.cut if set(line.modules) <= present]
    known, new = {one.id for one in change.before.sections}, {one.id for one in change.after.sections}
    sections = [one for one in patch.sections if one.id in known or one.id not in new]
    sections += [one for one in change.before.sections if one.id not in new]
    changes = {"modules": (*patch.modules, *back), "sections": tuple(sections)}
    return with_lines(patch.model_copy(update=changes), kept)


def valued(wired: Patch, changes: Sequence[Change], opening: Patch) -> Patch:
    """Return a patch with the values that some changes, one after the other, have set."""
    modules: dict[str, Module] = dict(opening.by_id)
    lines: dict[Ends, Connection] = {line.ends: line for line in opening.connections}
    voices = opening.voices
    for change in changes:
        modules |= {name: change.after.by_id[name] for name in change.added}
        for name, key, value in change.set_values:
            if name in modules:
                modules[name] = with_value(modules[name], key, value)
        lines |= {line.ends: line for line in (*change.drawn, *change.turned)}
        voices = change.after.voices if change.after.voices != change.before.voices else voices
    return wired.model_copy(
        update={
            "voices": voices,
            "modules": tuple(modules.get(one.id, one) for one in wired.modules),
            "connections": tuple(lines.get(line.ends, line) for line in wired.connections),
        }
    )


def with_value(module: Module, key: str, value: Any) -> Module:
    """Return a module in which something is set."""
    if not key.startswith("settings."):
        return module.model_copy(update={key: value})
    name = key.removeprefix("settings.")
    settings = {one: old for one, old in module.settings.items() if one != name}
    return module.model_copy(update={"settings": settings if value is GONE else settings | {name: value}})


def refuse_what_means_nothing(changes: Sequence[Change], place: int, here: Patch, done: Sequence[int]) -> None:
    """Raise OrderError if a step changes what is not there."""
    change = changes[place]
    for name, key, _ in change.set_values:
        if name not in here.by_id:
            what = spoken(key.removeprefix("settings."))
            raise OrderError(missing(changes, place, name, f"sets the {what} of", done))
    for name in change.removed:
        if name not in here.by_id:
            raise OrderError(missing(changes, place, name, "takes out", done))
    for line in (*change.turned, *change.cut):
        for name in line.modules:
            if name not in here.by_id and name not in change.removed:
                raise OrderError(missing(changes, place, name, "changes a connection of", done))


def refuse_what_is_lost(changes: Sequence[Change], place: int, here: Patch, done: Sequence[int]) -> None:
    """Raise OrderError if a connection that a step draws, to steer something, has an end that is not there."""
    graph = Graph(changes[place].after)
    for line in changes[place].drawn:
        for name in line.modules:
            if name not in here.by_id and not (graph.input(line.target).goes_through and passes(graph, name)):
                raise OrderError(missing(changes, place, name, "draws a connection of", done))


def passes(graph: Graph, name: str) -> bool:
    """Tell whether something goes through a module, so that a connection can lead past it."""
    return bool(graph.ways(name)) or bool(graph.modules[name].declaration.sounds)


def missing(changes: Sequence[Change], place: int, name: str, what: str, done: Sequence[int]) -> str:
    """Return why a step means nothing there, in words, where some others are done before it."""
    title = (changes[place].before.by_id | changes[place].after.by_id)[name].title
    comes = next((n for n, one in enumerate(changes) if name in one.added and n not in done), None)
    goes = next((n for n, one in enumerate(changes) if name in one.removed and n in done), None)
    said = f"Step {place + 1} {what} {title}, which "
    if goes is not None:
        return said + f"would be gone by then, with what is step {goes + 1} now."
    return said + (
        f"would come in only later, with what is step {comes + 1} now." if comes is not None else "is not there."
    )
