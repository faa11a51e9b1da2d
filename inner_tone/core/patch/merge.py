"""Merges: what was changed in an early patch, brought into a later one that was built upon it.

A patch is taken as a set of facts: which modules it has and of which type, their names and settings, the connections
with their depths, the sections. Of each fact the side that has changed it wins; where both have, each in its own way,
it is a conflict, and the later patch's value stands until somebody chooses.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal

from inner_tone.core.errors import DocumentError
from inner_tone.core.modules import CATALOGUE
from inner_tone.core.modules.declaration import spoken
from inner_tone.core.patch.difference import difference
from inner_tone.core.patch.edit import fits, fresh_id, renamed
from inner_tone.core.patch.instructions import value_text
from inner_tone.core.patch.model import Connection, Module, Patch, Section
from inner_tone.core.patch.moves import Edit
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.sections import pruned
from inner_tone.core.patch.validate import checked_patch
from inner_tone.core.units import trimmed

Side = Literal["early", "late"]
Choices = Mapping[str, Side]

ABSENT = object()


@dataclass(frozen=True)
class Conflict:
    """A place that both sides have changed: how it is chosen and called, and what each side would have there.

    `edits` make of the merged patch the one that the early side would have, where that can be.
    """

    place: str
    words: str
    early: str
    late: str
    edits: tuple[Edit, ...] = ()


@dataclass(frozen=True)
class Merged:
    """A later patch with the early change in it, and what is to be decided."""

    patch: Patch
    conflicts: tuple[Conflict, ...]


class Merger:
    """One merge: decides facts one by one, and notes what both sides have changed."""

    def __init__(self, base: Patch, early: Patch, late: Patch, choices: Choices) -> None:
        self.base, self.early, self.late = base, early, late
        self.choices = choices
        self.conflicts: list[Conflict] = []

    def decided(self, place: str, base: Any, early: Any, late: Any, words: str, text: Any) -> Any:
        """Return a fact: that of the side that has changed it; `text` says a value in words."""
        if early in (base, late):
            return late
        if late == base:
            return early
        self.conflicts.append(Conflict(place, words, text(early), text(late)))
        return early if self.choices.get(place) == "early" else late

    def modules(self) -> list[Module]:
        """Return the modules: those of the later patch in its order, then what came in early."""
        names = [*self.late.by_id, *(name for name in self.early.by_id if name not in self.late.by_id)]
        found = [self.module(name) for name in names]
        return [module for module in found if module is not None]

    def module(self, name: str) -> Module | None:
        """Return a module, or nothing where it has gone."""
        base, early, late = (patch.by_id.get(name) for patch in (self.base, self.early, self.late))
        if late is None:
            return None if base is not None else early
        if early is None:
            return late if base is None else self.removed(name, base, late)
        return self.both(name, base, early, late)

    def removed(self, name: str, base: Module, late: Module) -> Module | None:
        """Return a module that was taken out early: gone, unless the later patch has changed it or uses it anew."""
        old = {line.ends for line in self.base.connections}
        new = [line for line in self.late.connections if name in line.modules and line.ends not in old]
        if late == base and not new:
            return None
        use = f"connected to {', '.join(sorted(others(self.late, new, name)))}" if new else "changed here"
        self.conflicts.append(Conflict(f"module:{name}", late.title, "not there", use))
        return None if self.choices.get(f"module:{name}") == "early" else late

    def both(self, name: str, base: Module | None, early: Module, late: Module) -> Module:
        """Return a module that both sides have: its type, its name and each of its settings."""
        kind = self.decided(
            f"type:{name}",
            base.type if base else ABSENT,
            early.type,
            late.type,
            late.title,
            lambda one: CATALOGUE[one].noun,
        )
        of_kind = late if late.type == kind else early
        label = self.decided(
            f"label:{name}",
            base.label if base else ABSENT,
            early.label,
            late.label,
            f"the name of {late.title}",
            quoted,
        )
        settings = {
            setting: value
            for setting in dict.fromkeys([*late.settings, *early.settings])
            if fits_in(kind, setting, value := self.setting(name, setting, base, early, late))
        }
        return of_kind.model_copy(update={"label": label, "settings": settings})

    def setting(self, name: str, setting: str, base: Module | None, early: Module, late: Module) -> Any:

        def of(module: Module | None) -> Any:
            return module.all_settings.get(setting, ABSENT) if module else ABSENT

        def text(value: Any) -> str:
            return value_text(late if setting in late.all_settings else early, setting, value)

        words = f"the {spoken(setting)} of {late.title}"
        if of(late) is ABSENT:
            return of(early)
        if of(early) is ABSENT:
            return of(late)
        return self.decided(f"setting:{name}.{setting}", of(base), of(early), of(late), words, text)

    def lines(self, present: set[str]) -> list[Connection]:
        """Return the connections between modules that are there."""
        base, early, late = (
            {line.ends: line for line in one.connections} for one in (self.base, self.early, self.late)
        )
        found = [self.line(base.get(ends), early.get(ends), late.get(ends)) for ends in dict.fromkeys([*late, *early])]
        kept = [line for line in found if line and set(line.modules) <= present]
        return [unscaled_without(line, present) for line in kept]

    def line(self, base: Connection | None, early: Connection | None, late: Connection | None) -> Connection | None:
        """Return a connection, or nothing where it has gone."""
        some = late or early
        assert some is not None
        words = f"the connection from {self.port(some.source)} to {self.port(some.target)}"
        return self.decided(f"line:{some.source}>{some.target}", base, early, late, words, line_text)  # type: ignore[no-any-return]

    def port(self, port: Port) -> str:
        """Return a port in words."""
        module = self.late.by_id.get(port.module) or self.early.by_id.get(port.module)
        title = module.title if module else port.module
        declared = module.declaration if module else None
        one = declared and (declared.inputs_by_name | declared.outputs_by_name).get(port.name)
        return title if one and one.unnamed else f"the {spoken(port.name)} of {title}"

    def sections(self) -> list[Section]:
        """Return the sections."""
        base, early, late = ({one.id: one for one in patch.sections} for patch in (self.base, self.early, self.late))
        found = [
            self.decided(
                f"section:{name}", base.get(name), early.get(name), late.get(name), f"the section {name}", section_text
            )
            for name in dict.fromkeys([*late, *early])
        ]
        return [one for one in found if one is not None]


def decidable(base: Patch, early: Patch, late: Patch) -> Merged:
    """Return a merge in which each conflict has the edits by which the early side wins after all."""
    found = merged(base, early, late)
    told = []
    for conflict in found.conflicts:
        other = merged(base, early, late, {conflict.place: "early"}).patch
        edits = tuple(edit for one in difference(found.patch, other) for edit in one.edits)
        told.append(replace(conflict, edits=edits))
    return Merged(found.patch, tuple(told))


def merged(base: Patch, early: Patch, late: Patch, choices: Choices | None = None) -> Merged:
    """Return a later patch with what was changed between `base` and `early` in it.

    Parameters
    ----------
    base
        What the later patch was built upon.
    early
        What that has become.
    late
        The later patch.
    choices
        For places of conflicts, which side wins; without a choice the later one.
    """
    early = apart(base, early, late)
    work = Merger(base, early, late, choices or {})
    modules = work.modules()
    patch = Patch(
        title=late.title,
        voices=work.decided("voices", base.voices, early.voices, late.voices, "the number of voices", trimmed),
        modules=tuple(modules),
        connections=tuple(work.lines({module.id for module in modules})),
        sections=tuple(work.sections()),
    )
    patch = pruned(patch)
    try:
        checked_patch(patch)
    except DocumentError as error:
        conflict = Conflict("patch", "the patch as a whole", str(error), "as it is here")
        return Merged(late, (*work.conflicts, conflict))
    return Merged(patch, tuple(work.conflicts))


def apart(base: Patch, early: Patch, late: Patch) -> Patch:
    """Return the early patch with new ids for modules that have one which the later patch gave to another type."""
    same = [
        module.id
        for module in early.modules
        if module.id not in base.by_id and module.id in late.by_id and late.by_id[module.id].type != module.type
    ]
    taken = {*early.by_id, *late.by_id}
    names: dict[str, str] = {}
    for name in same:
        names[name] = fresh_id(taken, name)
        taken.add(names[name])
    if not names:
        return early
    modules = tuple(one.model_copy(update={"id": names.get(one.id, one.id)}) for one in early.modules)
    return early.model_copy(
        update={"modules": modules, "connections": tuple(renamed(line, names) for line in early.connections)}
    )


def others(patch: Patch, lines: Iterable[Connection], name: str) -> set[str]:
    """Return the names of the modules to which connections lead from one."""
    return {patch.by_id[one].title for line in lines for one in line.modules if one != name}


def unscaled_without(line: Connection, present: set[str]) -> Connection:
    """Return a connection without its scale, if what scaled it has gone."""
    if line.scaled_by and line.scaled_by.module not in present:
        return line.model_copy(update={"scaled_by": None})
    return line


def fits_in(kind: str, setting: str, value: Any) -> bool:
    """Tell whether a setting can stand in a module of a type."""
    return value is not ABSENT and (setting in CATALOGUE[kind].rows or fits(kind, setting, value))


def quoted(label: str) -> str:
    """Return a name in words."""
    return f"“{label}”" if label else "no name of its own"


def line_text(line: Connection | None) -> str:
    """Return a connection in words."""
    if line is None:
        return "not there"
    scaled = f", scaled by {line.scaled_by}" if line.scaled_by else ""
    return f"depth {trimmed(line.depth)}{scaled}{', off' if line.off else ''}"


def section_text(section: Section | None) -> str:
    """Return a section in words."""
    return "not there" if section is None else f"“{section.label}” of {', '.join(section.modules)}"
