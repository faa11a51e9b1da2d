"""What changed from one patch to another, as instructions in the order in which people work.

What goes away comes first, then new modules along the sound path, then connections, then what steers, then
settings. The moves that people name are recognised: a new module that takes the place of a connection is inserted,
one of another type in its place replaces it, a copy is a duplicate, and a connection that keeps one end is moved. Each
instruction carries the edits that make it, and is written on the patch as the ones before have left it: so all of
them, one after the other, make of the first patch the second.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from dataclasses import replace as copied
from functools import cached_property

from inner_tone.core.patch import instructions as say
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.instructions import Instruction
from inner_tone.core.patch.model import Connection, Module, Patch, split_port
from inner_tone.core.patch.moves import (
    AddModule,
    ChangeSection,
    Connect,
    Disconnect,
    DuplicateModules,
    Edit,
    Ends,
    GroupModules,
    MoveEnd,
    RemoveModules,
    RenameModule,
    ReplaceModule,
    SetValue,
    SetVoices,
    TakeApart,
)

Lines = dict[tuple[str, str], Connection]
ONLY_ONE = ("player", "output")


def difference(before: Patch, after: Patch) -> list[Instruction]:
    """Return the instructions that turn `before` into `after`; modules are the same if their ids are."""
    writing = Writing(before, after)
    writing.remove()
    writing.replace()
    writing.add()
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
    given = [Module(id=m.id, type=m.type, label=m.label) for m in patch.modules if m.type in ONLY_ONE]
    return Patch(modules=tuple(given))


@dataclass
class Writing:
    """A patch on its way to another: what has been said has been done to it."""

    patch: Patch
    after: Patch
    said: list[Instruction] = field(default_factory=list)
    waiting: set[str] = field(default_factory=set)

    @cached_property
    def order(self) -> dict[str, int]:
        """The place of each module along the sound path."""
        return {module.id: place for place, module in enumerate(path_order(self.after))}

    def do(self, instruction: Instruction, *edits: Edit) -> None:
        """Say something, and do it."""
        self.patch = made(self.patch, edits).patch
        self.said.append(copied(instruction, edits=edits))

    @property
    def both(self) -> Patch:
        """A patch in which the modules of both can be named."""
        return Patch(modules=tuple((self.patch.by_id | self.after.by_id).values()))

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
                self.do(say.replace(module, new), ReplaceModule(module=module.id, type=new.type))

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
        for source in [line.source for line in self.after.connections if split_port(line.target)[0] == module.id]:
            replaced = [
                line
                for line in self.patch.connections
                if line.source == source and line.ends not in wanted and line.target in self.reached(module.id)
            ]
            if replaced:
                before = self.after.by_id[split_port(source)[0]]
                behind = self.after.by_id[split_port(replaced[0].target)[0]]
                edits = [AddModule(module=bare(module)), *self.bridge(module, replaced)]
                self.do(say.insert(module, before, behind), *edits)
                return True
        return False

    def reached(self, module_id: str) -> set[str]:
        """Return the inputs that a module feeds in the end, directly or through modules that are yet to come."""
        found: set[str] = set()
        for line in self.after.connections:
            if split_port(line.source)[0] == module_id:
                target = split_port(line.target)[0]
                found |= self.reached_from_waiting(target) if target in self.waiting else {line.target}
        return found

    def reached_from_waiting(self, module_id: str) -> set[str]:
        """Return what a module that is yet to come will feed; it counts as placed meanwhile, so loops end."""
        self.waiting.discard(module_id)
        found = self.reached(module_id)
        self.waiting.add(module_id)
        return found

    def bridge(self, module: Module, replaced: Iterable[Connection]) -> Iterator[Edit]:
        """Yield the edits that let connections run through a new module."""
        direct = [line for line in self.after.connections if split_port(line.source)[0] == module.id]
        for line in replaced:
            yield Disconnect(line=ends(line))
            for into in self.after.connections:
                if into.source == line.source and split_port(into.target)[0] == module.id:
                    yield Connect(line=into)
            final = [one for one in direct if one.target == line.target]
            yield Connect(line=final[0] if final else line.model_copy(update={"source": direct[0].source}))

    def duplicated(self, module: Module) -> bool:
        """Say that a new module is the copy of another, if it is one in its settings and its connections."""
        wanted, there = lines_of(self.after), lines_of(self.patch)
        for old in self.patch.modules:
            if old.type != module.type or old.type in ONLY_ONE or old.all_settings != module.all_settings:
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
                edits: list[Edit] = [MoveEnd(line=ends(line), to=ends(moved))]
                if lines_of(made(self.patch, edits).patch)[moved.ends] != moved:
                    edits.append(Connect(line=moved))
                self.do(say.move_end(self.after, line, moved), *edits)
                there = lines_of(self.patch)

    def moved(self, line: Connection, there: Lines, wanted: Lines) -> Connection | None:
        """Return where a connection that goes has come to, if there is no doubt; given those that are and will be."""
        if line.ends in wanted or line.ends not in there:
            return None
        going = [one for one in there.values() if one.ends not in wanted]
        coming = [one for one in wanted.values() if one.ends not in there and follows(line, one)]
        if len(coming) != 1 or [one for one in going if follows(one, coming[0])] != [line]:
            return None
        outs = {module.id for module in self.after.modules if module.type == "output"}
        return None if split_port(line.target)[0] in outs or split_port(coming[0].target)[0] in outs else coming[0]

    def disconnect(self) -> None:
        """Say which connections go."""
        wanted = lines_of(self.after)
        going = [line for line in self.patch.connections if line.ends not in wanted]
        for group in sides_together(going):
            self.do(say.disconnect(self.both, group), *(Disconnect(line=ends(line)) for line in group))

    def connect(self) -> None:
        """Say what is connected or has another depth: the sound path first, then what steers it."""
        there, wanted = lines_of(self.patch), lines_of(self.after)
        coming = [line for one, line in wanted.items() if one not in there]
        coming.sort(key=lambda line: (steers(self.after, line), self.order[split_port(line.target)[0]]))
        for group in sides_together(coming):
            bare_lines = [line.model_copy(update={"off": None}) for line in group]
            self.do(say.connect(self.after, group), *(Connect(line=line) for line in bare_lines))
        there = lines_of(self.patch)
        for line in wanted.values():
            old = there[line.ends]
            if (old.depth, old.scaled_by) != (line.depth, line.scaled_by):
                changed = line.model_copy(update={"off": old.off})
                self.do(say.set_depth(self.after, line), Connect(line=changed))
            if line.off != old.off:
                self.do(say.switch(self.after, line), Connect(line=line))

    def set_values(self) -> None:
        """Say new names and new values, module by module along the path."""
        there = self.patch.by_id
        for module in sorted(self.after.modules, key=lambda one: self.order[one.id]):
            old = there[module.id]
            if old.title != module.title:
                self.do(say.rename(old, module), RenameModule(module=module.id, label=module.label))
            was = old.all_settings
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
    return new.type == module.type or not {new.type, module.type} & set(ONLY_ONE)


def bare(module: Module) -> Module:
    """Return a module as it is put in: its settings are said later."""
    return Module(id=module.id, type=module.type, label=module.label)


def ends(line: Connection) -> Ends:
    """Return the ends of a connection, as edits name them."""
    return Ends(source=line.source, target=line.target)


def follows(old: Connection, new: Connection) -> bool:
    """Tell whether a connection could be another one with one end moved."""
    same = (old.depth, old.scaled_by, old.off) == (new.depth, new.scaled_by, new.off)
    return same and (old.source == new.source) != (old.target == new.target)


def lines_of(patch: Patch) -> Lines:
    """Return a patch's connections by their ends."""
    return {line.ends: line for line in patch.connections}


def sides_together(lines: Iterable[Connection]) -> Iterator[list[Connection]]:
    """Yield connections, those from one output to both sides of the patch's output as one."""
    waiting = list(lines)
    while waiting:
        first = waiting.pop(0)
        module, side = split_port(first.target)
        twins = [
            other
            for other in waiting
            if side in ("left", "right")
            and (other.source, other.depth, other.scaled_by) == (first.source, first.depth, first.scaled_by)
            and other.target in (f"{module}.left", f"{module}.right")
        ]
        for twin in twins:
            waiting.remove(twin)
        yield [first, *twins]


def steers(patch: Patch, line: Connection) -> bool:
    """Tell whether a connection steers something, rather than carrying sound."""
    module, port = split_port(line.target)
    return patch.by_id[module].declaration.input(port).kind != "audio"


def path_order(patch: Patch) -> list[Module]:
    """Return the modules along the sound path, from its sources to the output, then what steers them."""
    distance = sound_distance(patch)
    return sorted(patch.modules, key=lambda module: -distance.get(module.id, -1))


def sound_distance(patch: Patch) -> dict[str, int]:
    """Return how many modules of the sound path lie between a module and the output, for those on the path."""
    types = {module.id: module.declaration for module in patch.modules}
    ways = [
        (source, target)
        for line in patch.connections
        for source, (target, port) in [(split_port(line.source)[0], split_port(line.target))]
        if source != target and types[target].input(port).kind == "audio"
    ]
    distance = {module.id: 0 for module in patch.modules if module.type == "output"}
    for _ in patch.modules:  # the longest path without a loop visits each module once
        farther = False
        for source, target in ways:
            longer = distance.get(target, -2) + 1
            if longer > max(0, distance.get(source, -1)) and longer <= len(patch.modules):
                distance[source] = longer
                farther = True
        if not farther:
            break
    return distance
