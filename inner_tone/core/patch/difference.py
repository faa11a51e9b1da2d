"""What changed from one patch to another, as instructions in the order in which people work.

What goes away comes first, then new modules along the sound path, then connections, then what steers, then
settings. A new module that takes the place of a connection is recognised as an insertion.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from inner_tone.core.patch import instructions as say
from inner_tone.core.patch.instructions import Instruction
from inner_tone.core.patch.model import Connection, Module, Patch, split_port

Lines = dict[tuple[str, str], Connection]


def difference(before: Patch, after: Patch) -> list[Instruction]:
    """Return the instructions that turn `before` into `after`; modules are the same if their ids are."""
    order = {module.id: place for place, module in enumerate(path_order(after))}
    removed = [module for module in before.modules if not same_module(after, module)]
    gone = {module.id for module in removed}
    kept = {ends: line for ends, line in lines_of(before).items() if not gone & set(touched(line))}
    new = sorted((m for m in after.modules if not same_module(before, m)), key=lambda m: order[m.id])
    building = Building(after, kept, {module.id for module in new})
    additions = [building.add(module) for module in new]
    return [
        *(say.remove(module) for module in removed),
        *additions,
        *building.disconnections(before),
        *building.connections(order),
        *changed_settings(before, after, order),
        *changed_sections(before, after),
    ]


def opening(patch: Patch) -> Patch:
    """Return what a lesson's first patch is compared with: its player and its output, not yet connected."""
    given = [Module(id=m.id, type=m.type, label=m.label) for m in patch.modules if m.type in ("player", "output")]
    return Patch(modules=tuple(given))


@dataclass
class Building:
    """The connections as they stand while the additions are made one after the other."""

    after: Patch
    lines: Lines
    waiting: set[str]

    def add(self, module: Module) -> Instruction:
        """Put in a new module: between two others if it takes the place of their connection."""
        self.waiting.discard(module.id)
        for source in self.sources_of(module.id):
            replaced = [
                line for line in self.lines.values() if line.source == source and self.is_replaced(line, module)
            ]
            if replaced:
                self.bridge(module, replaced)
                before = self.after.by_id[split_port(source)[0]]
                behind = self.after.by_id[split_port(replaced[0].target)[0]]
                return say.insert(module, before, behind)
        return say.add(module)

    def sources_of(self, module_id: str) -> list[str]:
        """Return the outputs that feed a module in the end."""
        return [line.source for line in self.after.connections if split_port(line.target)[0] == module_id]

    def is_replaced(self, line: Connection, module: Module) -> bool:
        """Tell whether a connection gives way to a path through the new module."""
        return line.ends not in lines_of(self.after) and line.target in self.reached(module.id)

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

    def bridge(self, module: Module, replaced: Iterable[Connection]) -> None:
        """Let the connections that give way run through the new module."""
        for line in replaced:
            del self.lines[line.ends]
            for final in self.after.connections:
                if final.source == line.source and split_port(final.target)[0] == module.id:
                    self.lines[final.ends] = final
            direct = [c for c in self.after.connections if split_port(c.source)[0] == module.id]
            final_out = [c for c in direct if c.target == line.target]
            out = final_out[0] if final_out else line.model_copy(update={"source": direct[0].source})
            self.lines[out.ends] = out

    def disconnections(self, before: Patch) -> Iterator[Instruction]:
        """Yield what is to be taken away."""
        both = merged_patch(before, self.after)
        going = [line for ends, line in self.lines.items() if ends not in lines_of(self.after)]
        for group in sides_together(going):
            yield say.disconnect(both, group)

    def connections(self, order: dict[str, int]) -> Iterator[Instruction]:
        """Yield what is to be connected or given another depth: the sound path first, then what steers it."""
        final = lines_of(self.after)
        coming = [line for ends, line in final.items() if ends not in self.lines]
        coming.sort(key=lambda line: (steers(self.after, line), order[split_port(line.target)[0]]))
        for group in sides_together(coming):
            yield say.connect(self.after, group)
        for ends, line in final.items():
            old = self.lines.get(ends)
            if old and (old.depth, old.scaled_by) != (line.depth, line.scaled_by):
                yield say.set_depth(self.after, line)
            if line.off != (old.off if old else None):
                yield say.switch(self.after, line)


def same_module(patch: Patch, module: Module) -> bool:
    """Tell whether a patch has this module, in the same type."""
    return module.id in patch.by_id and patch.by_id[module.id].type == module.type


def lines_of(patch: Patch) -> Lines:
    """Return a patch's connections by their ends."""
    return {line.ends: line for line in patch.connections}


def touched(line: Connection) -> list[str]:
    """Return the modules that a connection needs."""
    return [split_port(port)[0] for port in (line.source, line.target, line.scaled_by) if port]


def merged_patch(before: Patch, after: Patch) -> Patch:
    """Return a patch in which the modules of both can be named."""
    return Patch(modules=tuple((before.by_id | after.by_id).values()))


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
    distance = {module.id: 0 for module in patch.modules if module.type == "output"}
    for _ in patch.modules:  # the longest path without a loop visits each module once
        for line in patch.connections:
            source, target = split_port(line.source)[0], split_port(line.target)[0]
            if target in distance and not steers(patch, line) and source != target:
                longer = distance[target] + 1
                if longer > distance.get(source, -1) and longer <= len(patch.modules):
                    distance[source] = longer
    return distance


def changed_settings(before: Patch, after: Patch, order: dict[str, int]) -> Iterator[Instruction]:
    """Yield new names and new values, module by module along the path."""
    for module in sorted(after.modules, key=lambda one: order[one.id]):
        old = before.by_id[module.id] if same_module(before, module) else None
        if old and old.title != module.title:
            yield say.rename(old, module)
        values = old.all_settings if old else module.declaration.defaults
        changed = {name: value for name, value in module.all_settings.items() if value != values[name]}
        if changed:
            yield say.set_values(module, changed)


def changed_sections(before: Patch, after: Patch) -> Iterator[Instruction]:
    """Yield what is grouped anew, named anew and taken apart. How a section is drawn is no part of it."""
    old = {section.id: section for section in before.sections}
    for section in before.sections:
        if section.id not in {one.id for one in after.sections}:
            yield say.take_apart(section)
    for section in after.sections:
        known = old.get(section.id)
        if known is None or set(known.modules) != set(section.modules):
            yield say.group(after, section)
        elif known.label != section.label:
            yield say.rename_section(known, section)
