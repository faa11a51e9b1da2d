"""What changed from one patch to another, as instructions in the order in which people work.

What goes away comes first, then new names, new modules along the sound path, then connections, then what steers, then
settings. The moves that people name are recognised: a new module that takes the place of a connection is inserted,
one of another type in its place replaces it, a copy is a duplicate, and a connection that keeps one end is moved. Each
instruction carries the edits that make it, and is written on the patch as the ones before have left it: so all of
them, one after the other, make of the first patch the second.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from dataclasses import replace as copied
from functools import cached_property

from inner_tone.core.modules import CATALOGUE, OUTPUT
from inner_tone.core.patch import instructions as say
from inner_tone.core.patch.edit import EditError, made
from inner_tone.core.patch.graph import Graph, is_single
from inner_tone.core.patch.instructions import Instruction
from inner_tone.core.patch.model import Connection, Module, Patch
from inner_tone.core.patch.moves import (
    AddModule,
    ChangeSection,
    Connect,
    Disconnect,
    DuplicateModules,
    Edit,
    Ends,
    GroupModules,
    InsertModule,
    MoveEnd,
    RemoveModules,
    RenameModule,
    ReplaceModule,
    SetValue,
    SetVoices,
    TakeApart,
)
from inner_tone.core.patch.port import Port

Lines = dict[tuple[Port, Port], Connection]
EARS = {way.name for way in CATALOGUE[OUTPUT].ways}


def difference(before: Patch, after: Patch) -> list[Instruction]:
    """Return the instructions that turn `before` into `after`; modules are the same if their ids are."""
    writing = Writing(before, after)
    writing.remove()
    writing.rename()
    writing.replace()
    writing.add()
    writing.rename()
    writing.move_ends()
    writing.disconnect()
    writing.connect()
    writing.set_values()
    writing.group()
    if after.voices != before.voices:
        writing.do(say.set_voices(after), SetVoices(voices=after.voices))
    return writing.said


def opening(patch: Patch) -> Patch:
    """Return what a lesson's first patch is compared with: its player and its output, not yet connected."""
    given = [Module(id=m.id, type=m.type, label=m.label) for m in patch.modules if is_single(m)]
    return Patch(modules=tuple(given))


@dataclass
class Writing:
    """A patch on its way to another: what has been said has been done to it."""

    patch: Patch
    after: Patch
    said: list[Instruction] = field(default_factory=list)
    waiting: set[str] = field(default_factory=set)

    @cached_property
    def goal(self) -> Graph:
        """What the patch is to become."""
        return Graph(self.after)

    @cached_property
    def order(self) -> dict[str, int]:
        """The place of each module along the sound path, from its sources to the output, then of what steers them."""
        distance = self.goal.distances
        along = sorted(self.after.modules, key=lambda module: -distance.get(module.id, -1))
        return {module.id: place for place, module in enumerate(along)}

    def do(self, instruction: Instruction, *edits: Edit) -> None:
        """Say something, and do it."""
        self.patch = made(self.patch, edits).patch
        self.said.append(copied(instruction, edits=edits))

    @property
    def both(self) -> Graph:
        """A graph in which the modules of both patches can be named."""
        return Graph(Patch(modules=tuple((self.patch.by_id | self.after.by_id).values())))

    def remove(self) -> None:
        """Say which modules go; one that only one can be of and that has changed its type goes too."""
        for module in self.patch.modules:
            if not may_become(module, self.after.by_id.get(module.id)):
                self.do(say.remove(module), RemoveModules(modules=(module.id,), bridge=False))

    def replace(self) -> None:
        """Say which modules give way to one of another type."""
        for module in self.patch.modules:
            new = self.after.by_id[module.id]
            if new.type != module.type:
                named = [RenameModule(module=module.id, label=new.label)] if new.label != module.label else []
                self.do(say.replace(module, new), ReplaceModule(module=module.id, type=new.type), *named)

    def rename(self) -> None:
        """Say new names, before anything else is said by them."""
        for module in sorted(self.after.modules, key=lambda one: self.order[one.id]):
            old = self.patch.by_id.get(module.id)
            if old and old.type == module.type and old.title != module.title:
                self.do(say.rename(old, module), RenameModule(module=module.id, label=module.label))

    def add(self) -> None:
        """Say which modules are new, along the sound path."""
        there = self.patch.by_id
        new = sorted((m for m in self.after.modules if m.id not in there), key=lambda m: self.order[m.id])
        self.waiting = {module.id for module in new}
        for module in new:
            self.waiting.discard(module.id)
            if not self.inserted(module) and not self.duplicated(module):
                self.do(say.add(module), AddModule(module=bare(module)))

    def inserted(self, module: Module) -> bool:
        """Say that a new module comes between two others, if it takes the place of their connection."""
        wanted = lines_of(self.after)
        for source in [line.source for line in self.goal.into(module.id)]:
            replaced = [
                line
                for line in self.patch.connections
                if line.source == source and line.ends not in wanted and line.target in self.reached(module.id)
            ]
            edit = InsertModule(module=bare(module), lines=tuple(map(Ends.of, replaced))) if replaced else None
            if edit and self.fits(edit, module):
                self.do(say.insert(module, Graph(self.patch), replaced), edit)
                return True
        return False

    def fits(self, edit: InsertModule, module: Module) -> bool:
        """Tell whether a module that is put in where its words say comes to be connected as it is to be."""
        wanted = lines_of(self.after)
        leaving = {line.source for line in self.goal.leaving(module.id)}
        try:
            new = Graph(made(self.patch, [edit]).patch)
        except EditError:
            return False
        return all(line.ends in wanted for line in new.into(module.id)) and all(
            line.ends in wanted or line.source in leaving for line in new.leaving(module.id)
        )

    def reached(self, module_id: str) -> set[str]:
        """Return the inputs that a module feeds in the end, directly or through modules that are yet to come."""
        found: set[str] = set()
        for line in self.goal.leaving(module_id):
            target = line.target.module
            found |= self.reached_from_waiting(target) if target in self.waiting else {line.target}
        return found

    def reached_from_waiting(self, module_id: str) -> set[str]:
        """Return what a module that is yet to come will feed; it counts as placed meanwhile, so loops end."""
        self.waiting.discard(module_id)
        found = self.reached(module_id)
        self.waiting.add(module_id)
        return found

    def duplicated(self, module: Module) -> bool:
        """Say that a new module is the copy of another, if it is one in its settings and its connections."""
        wanted, there = lines_of(self.after), lines_of(self.patch)
        for old in self.patch.modules:
            if old.type != module.type or is_single(old) or old.all_settings != module.all_settings:
                continue
            for connected in (True, False):
                edit = DuplicateModules(modules=(old.id,), connected=connected)
                copy = made(self.patch, [edit]).patch
                lines = [line for line in copy.connections if line.ends not in there]
                telling = lines if connected else old.settings
                fitting = all(wanted.get(line.ends) == line for line in lines)
                if telling and fitting and module.id in copy.by_id:
                    self.do(say.duplicate(old, copy.by_id[module.id], connected), edit)
                    return True
        return False

    def move_ends(self) -> None:
        """Say which connections keep one end, their depth and their scale, and have the other elsewhere."""
        there, wanted = lines_of(self.patch), lines_of(self.after)
        for line in self.patch.connections:
            moved = self.moved(line, there, wanted)
            if moved is not None:
                edits: list[Edit] = [MoveEnd(line=Ends.of(line), to=Ends.of(moved))]
                if lines_of(made(self.patch, edits).patch)[moved.ends] != moved:
                    edits.append(Connect(line=moved))
                self.do(say.move_end(self.goal, line, moved), *edits)
                there = lines_of(self.patch)

    def moved(self, line: Connection, there: Lines, wanted: Lines) -> Connection | None:
        """Return where a connection that goes has come to, if there is no doubt; given those that are and will be."""
        if line.ends in wanted or line.ends not in there:
            return None
        going = [one for one in there.values() if one.ends not in wanted]
        coming = [one for one in wanted.values() if one.ends not in there and self.follows(line, one)]
        if len(coming) != 1 or [one for one in going if self.follows(one, coming[0])] != [line]:
            return None
        ears = self.goal.ears
        return None if line.target in ears or coming[0].target in ears else coming[0]

    def follows(self, old: Connection, new: Connection) -> bool:
        """Tell whether a connection could be another one with one end moved: with its depth, where that means the same.

        An end that goes to another kind of input gets a depth in the unit of that.
        """
        if (old.scaled_by, old.off) != (new.scaled_by, new.off) or old.ends == new.ends:
            return False
        if old.target == new.target:
            return old.depth == new.depth
        if old.source != new.source:
            return False
        was, now = (self.goal.input(one.target) for one in (old, new))
        return old.depth == new.depth or (was.kind, was.depth_unit) != (now.kind, now.depth_unit)

    def disconnect(self) -> None:
        """Say which connections go."""
        wanted = lines_of(self.after)
        going = [line for line in self.patch.connections if line.ends not in wanted]
        both = self.both
        for group in sides_together(going):
            self.do(say.disconnect(both, group), *(Disconnect(line=Ends.of(line)) for line in group))

    def connect(self) -> None:
        """Say what is connected or has another depth: the sound path first, then what steers it."""
        there, wanted = lines_of(self.patch), lines_of(self.after)
        coming = [line for one, line in wanted.items() if one not in there]
        coming.sort(key=lambda line: (not self.goal.carries_sound(line), self.order[line.target.module]))
        for group in sides_together(coming):
            bare_lines = [line.model_copy(update={"off": None}) for line in group]
            self.do(say.connect(self.goal, group), *(Connect(line=line) for line in bare_lines))
        there = lines_of(self.patch)
        for line in wanted.values():
            old = there[line.ends]
            if (old.depth, old.scaled_by) != (line.depth, line.scaled_by):
                changed = line.model_copy(update={"off": old.off})
                self.do(say.set_depth(self.goal, line), Connect(line=changed))
            if line.off != old.off:
                self.do(say.switch(self.goal, line), Connect(line=line))

    def set_values(self) -> None:
        """Say new values, module by module along the path."""
        there = self.patch.by_id
        for module in sorted(self.after.modules, key=lambda one: self.order[one.id]):
            was = there[module.id].all_settings
            changed = {name: value for name, value in module.all_settings.items() if value != was[name]}
            if changed:
                edits = (SetValue(module=module.id, setting=name, value=value) for name, value in changed.items())
                self.do(say.set_values(module, changed, was), *edits)

    def group(self) -> None:
        """Say what is grouped anew, named anew and taken apart. How a section is drawn is no part of it."""
        wanted = {section.id: section for section in self.after.sections}
        for section in self.patch.sections:
            if section.id not in wanted:
                self.do(say.take_apart(section), TakeApart(section=section.id))
        for section in self.after.sections:
            known = {one.id: one for one in self.patch.sections}.get(section.id)
            again = [TakeApart(section=section.id)] if known else []
            if known is None or set(known.modules) != set(section.modules):
                made_anew = GroupModules(modules=section.modules, label=section.label, section=section.id)
                self.do(say.group(self.after, section), *again, made_anew)
            elif known.label != section.label:
                named = ChangeSection(section=section.id, label=section.label)
                self.do(say.rename_section(known, section), named)


def may_become(module: Module, new: Module | None) -> bool:
    """Tell whether a module can stay, as it is or by giving way to another type."""
    if new is None:
        return False
    return new.type == module.type or not (is_single(new) or is_single(module))


def bare(module: Module) -> Module:
    """Return a module as it is put in: its settings are said later."""
    return Module(id=module.id, type=module.type, label=module.label)


def lines_of(patch: Patch) -> Lines:
    """Return a patch's connections by their ends."""
    return {line.ends: line for line in patch.connections}


def sides_together(lines: Iterable[Connection]) -> Iterator[list[Connection]]:
    """Yield connections, those from one output to both sides of the patch's output as one."""
    waiting = list(lines)
    while waiting:
        first = waiting.pop(0)
        twins = [other for other in waiting if are_twins(first, other)]
        for twin in twins:
            waiting.remove(twin)
        yield [first, *twins]


def are_twins(one: Connection, other: Connection) -> bool:
    """Tell whether two connections bring the same to both ears."""
    same = (one.source, one.depth, one.scaled_by) == (other.source, other.depth, other.scaled_by)
    return same and one.target.module == other.target.module and {one.target.name, other.target.name} == EARS
