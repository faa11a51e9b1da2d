"""Edits: what each move at the bench makes of a patch."""

import re
from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from inner_tone.core.errors import InnerToneError
from inner_tone.core.modules import CATALOGUE
from inner_tone.core.modules.declaration import Ear, ModuleType, SignalKind
from inner_tone.core.patch.depth import depth_from
from inner_tone.core.patch.graph import Graph, is_single
from inner_tone.core.patch.model import Connection, Module, Patch, Section
from inner_tone.core.patch.moves import (
    AddModule,
    ChangeLine,
    ChangeSection,
    Connect,
    Disconnect,
    DuplicateModules,
    Edit,
    Ends,
    GroupModules,
    InsertModule,
    MoveEnd,
    Paste,
    RemoveModules,
    RenameModule,
    ReplaceModule,
    SetValue,
    SetVoices,
    TakeApart,
)
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.sections import grouped, pruned, regrouped, taken_apart
from inner_tone.core.patch.validate import checked_patch


class EditError(InnerToneError):
    """A move that this patch does not allow."""


@dataclass(frozen=True)
class Edited:
    """A patch after some edits, and the modules that they were about."""

    patch: Patch
    touched: tuple[str, ...] = ()


def edited(patch: Patch, edits: Sequence[Edit]) -> Edited:
    """Return what a series of edits makes of a valid patch; raises EditError or DocumentError, and changes nothing.

    Where modules are new, it was about them; otherwise about all that was touched.
    """
    done = made(patch, edits)
    checked_patch(done.patch)
    present = [name for name in done.touched if name in done.patch.by_id]
    new = tuple(name for name in present if name not in patch.by_id)
    return Edited(done.patch, new or tuple(present))


def made(patch: Patch, edits: Sequence[Edit]) -> Edited:
    """Return what a series of edits makes of a patch, which need not be valid on the way; raises EditError."""
    touched: dict[str, None] = {}
    for edit in edits:
        work: Callable[[Patch, Any], Edited] = MOVES[type(edit)]
        step = work(patch, edit)
        patch = pruned(step.patch)
        touched |= dict.fromkeys(step.touched)
    return Edited(patch, tuple(touched))


def fresh_id(taken: Iterable[str], wanted: str) -> str:
    """Return an id like the wanted one that nothing has yet: filter, filter-2, filter-3 …"""
    known = set(taken)
    stem = re.sub(r"-\d+$", "", wanted)
    number = 1
    while (name := stem if number == 1 else f"{stem[:36]}-{number}") in known:
        number += 1
    return name


def fresh_title(taken: Iterable[str], wanted: str) -> str:
    """Return a name like the wanted one that nothing has yet: Reed, Reed 2, Reed 3 …"""
    known = set(taken)
    stem = re.sub(r" \d+$", "", wanted)
    number = 1
    while (title := stem if number == 1 else f"{stem[:56]} {number}") in known:
        number += 1
    return title


def module_in(patch: Patch, name: str) -> Module:
    """Return a module of the patch; raises EditError."""
    if name not in patch.by_id:
        raise EditError(f"There is no module “{name}” in this patch any longer.")
    return patch.by_id[name]


def line_in(patch: Patch, ends: Ends) -> Connection:
    """Return a connection of the patch; raises EditError."""
    for line in patch.connections:
        if line.ends == (ends.source, ends.target):
            return line
    raise EditError(f"There is no connection from {ends.source} to {ends.target} in this patch any longer.")


def section_in(patch: Patch, name: str) -> Section:
    """Return a section of the patch; raises EditError."""
    for section in patch.sections:
        if section.id == name:
            return section
    raise EditError("There is no such section in this patch any longer.")


def with_lines(patch: Patch, lines: Iterable[Connection]) -> Patch:
    """Return the patch with these connections instead of its own; of two with the same ends the first stays."""
    kept: dict[tuple[str, str], Connection] = {}
    for line in lines:
        kept.setdefault(line.ends, line)
    return patch.model_copy(update={"connections": tuple(kept.values())})


def with_module(patch: Patch, module: Module) -> Patch:
    """Return the patch with a module put in, or in the place of the one with its id."""
    if module.id in patch.by_id:
        modules = tuple(module if one.id == module.id else one for one in patch.modules)
    else:
        modules = (*patch.modules, module)
    return patch.model_copy(update={"modules": modules})


def refuse_unknown(modules: Iterable[Module]) -> None:
    """Raise EditError for a module of a type that there is not."""
    for module in modules:
        if module.type not in CATALOGUE:
            raise EditError(f"There is no type of module called “{module.type}”.")


def add(patch: Patch, edit: AddModule) -> Edited:
    """Put a module in."""
    if edit.module.id in patch.by_id:
        raise EditError(f"Another module is called “{edit.module.id}” already.")
    refuse_unknown([edit.module])
    return Edited(with_module(patch, edit.module), (edit.module.id,))


def insert(patch: Patch, edit: InsertModule) -> Edited:
    """Put a module into connections: their sources feed it, one input each, and it feeds their targets.

    The depth stays with the second half, since it is in the unit of the input that it moves.
    """
    patch = add(patch, AddModule(module=edit.module)).patch
    graph = Graph(patch)
    module = graph.modules[edit.module.id]
    cut = [line_in(patch, ends) for ends in edit.lines]
    ways = graph.ways(module.id) or waiting_for(module, graph.output_at(cut[0].source).kind)
    if not ways:
        raise EditError(f"Nothing can run through {module.declaration.noun}: it has no way in.")
    sources = list(dict.fromkeys(line.source for line in cut))
    halves = [
        Connection(source=source, target=ways[min(number, len(ways) - 1)]) for number, source in enumerate(sources)
    ]
    halves += [line.model_copy(update={"source": graph.main(module.id, line.target)}) for line in cut]
    kept = [line for line in patch.connections if line not in cut]
    return Edited(with_lines(patch, [*kept, *halves]), (module.id,))


def waiting_for(module: Module, kind: SignalKind) -> list[Port]:
    """Return the input of a module, if it has one, that waits for a kind of signal: what is struck stands in a gate."""
    named = [port.name for port in module.declaration.inputs if port.kind == kind]
    return [Port.of(module.id, name) for name in named[:1]] if module.declaration.main else []


def remove(patch: Patch, edit: RemoveModules) -> Edited:
    """Take modules out, one after the other."""
    for name in edit.modules:
        module_in(patch, name)
        past = list(Graph(patch).bridges(name)) if edit.bridge else []
        kept = [unscaled(line, name) for line in patch.connections if name not in line.modules]
        rest = tuple(module for module in patch.modules if module.id != name)
        patch = with_lines(patch.model_copy(update={"modules": rest}), [*kept, *(unscaled(one, name) for one in past)])
    return Edited(patch)


def unscaled(line: Connection, name: str) -> Connection:
    """Return a connection that a module no longer scales."""
    scaled = line.scaled_by is not None and line.scaled_by.module == name
    return line.model_copy(update={"scaled_by": None}) if scaled else line


def replace(patch: Patch, edit: ReplaceModule) -> Edited:
    """Change a module's type. Its connections go to ports of the same name, else to the way in and the way out."""
    old = module_in(patch, edit.module)
    if edit.type not in CATALOGUE:
        raise EditError(f"There is no module type “{edit.type}”.")
    settings = {name: value for name, value in old.settings.items() if fits(edit.type, name, value)}
    new = Module(id=old.id, type=edit.type, label=old.label, settings=settings)
    moved = [line_at(line, old, CATALOGUE[edit.type], Graph(patch)) for line in patch.connections]
    return Edited(with_lines(with_module(patch, new), [line for line in moved if line]), (new.id,))


def line_at(line: Connection, old: Module, new: ModuleType, graph: Graph) -> Connection | None:
    """Return a connection as it is when a module gives way to another type; nothing where that has no place for it."""
    there = graph.modules.get(line.target.module)
    if there is None or line.target.name not in there.declaration.inputs_by_name:
        return None
    target: Port | None = line.target
    if target and target.module == old.id and target.name not in new.inputs_by_name:
        through = graph.input(target).goes_through and new.ways
        target = Port.of(old.id, new.ways[0].name) if through else None
    source = out_of(line.source, old, new, graph.input(line.target).ear)
    scale = out_of(line.scaled_by, old, new) if line.scaled_by else None
    if not (source and target):
        return None
    return line.model_copy(update={"source": source, "target": target, "scaled_by": scale})


def out_of(port: Port, old: Module, new: ModuleType, ear: Ear = "") -> Port | None:
    """Return an output as it is when a module gives way to another type: of the same name, else the main one."""
    if port.module != old.id or port.name in new.outputs_by_name:
        return port
    main = new.towards(ear)
    return Port.of(old.id, main.name) if main else None


def fits(kind: str, name: str, value: Any) -> bool:
    """Tell whether a setting can stand in a module of a type."""
    declared = CATALOGUE[kind]
    if name in declared.choices:
        return declared.choices[name].allows(value)
    ruler = declared.rulers.get(name)
    return ruler is not None and isinstance(value, int | float) and ruler.low <= value <= ruler.high


def duplicate(patch: Patch, edit: DuplicateModules) -> Edited:
    """Copy modules with the connections among them, and, if asked, those with the rest of the patch."""
    for name in edit.modules:
        if is_single(module_in(patch, name)):
            raise EditError(f"A patch has only one {patch.by_id[name].type}.")
    names = new_names(patch, edit.modules)
    copies = copies_of(patch, [patch.by_id[name] for name in names], names)
    lines = [
        renamed(line, names)
        for line in patch.connections
        if (edit.connected and names.keys() & set(line.modules)) or set(line.modules) <= names.keys()
    ]
    doubled = patch.model_copy(update={"modules": (*patch.modules, *copies)})
    for line in lines:
        doubled = with_lines(doubled, [*doubled.connections, into_own_channel(doubled, line, names.values())])
    return Edited(doubled, tuple(names.values()))


def into_own_channel(patch: Patch, line: Connection, copies: Collection[str]) -> Connection:
    """Return the connection of a copy, into a mixer's next free channel where the original has one of its own."""
    if line.target.module in copies:
        return line
    return line.model_copy(update={"target": Graph(patch).beside(line.target)})


def new_names(patch: Patch, names: Iterable[str]) -> dict[str, str]:
    """Return an id for a copy of each module."""
    taken = set(patch.by_id)
    found = {}
    for name in dict.fromkeys(names):
        found[name] = fresh_id(taken, name)
        taken.add(found[name])
    return found


def copies_of(patch: Patch, modules: Iterable[Module], names: dict[str, str]) -> tuple[Module, ...]:
    """Return copies of modules under new ids, and under new names where theirs are taken."""
    titles = [module.title for module in patch.modules]
    copies = []
    for module in modules:
        title = fresh_title(titles, module.title)
        titles.append(title)
        label = module.label if title == module.title else title
        copies.append(module.model_copy(update={"id": names[module.id], "label": label}))
    return tuple(copies)


def renamed(line: Connection, names: dict[str, str]) -> Connection:
    """Return a connection whose ends are those of the copies, where there are copies."""

    changed = {"source": renamed_port(line.source, names), "target": renamed_port(line.target, names)}
    scale = renamed_port(line.scaled_by, names) if line.scaled_by else None
    return line.model_copy(update=changed | {"scaled_by": scale})


def renamed_port(port: Port, names: dict[str, str]) -> Port:
    """Return a port on the copy of its module, if that has one."""
    return port.on(names.get(port.module, port.module))


def rename(patch: Patch, edit: RenameModule) -> Edited:
    """Give a module another name."""
    module = module_in(patch, edit.module)
    return Edited(with_module(patch, module.model_copy(update={"label": edit.label.strip()})), (module.id,))


def set_value(patch: Patch, edit: SetValue) -> Edited:
    """Set one setting, and what begins with it."""
    module = module_in(patch, edit.module)
    begins = module.declaration.begins
    also = begins(module.all_settings, edit.setting, edit.value) if begins else {}
    settings = module.settings | also | {edit.setting: edit.value}
    return Edited(with_module(patch, module.model_copy(update={"settings": settings})), (module.id,))


def connect(patch: Patch, edit: Connect) -> Edited:
    """Draw a connection."""
    rest = [line for line in patch.connections if line.ends != edit.line.ends]
    return Edited(with_lines(patch, [*rest, edit.line]), (edit.line.target.module,))


def disconnect(patch: Patch, edit: Disconnect) -> Edited:
    """Take a connection away."""
    gone = line_in(patch, edit.line)
    rest = [line for line in patch.connections if line != gone]
    return Edited(with_lines(patch, rest), (gone.target.module,))


def move_end(patch: Patch, edit: MoveEnd) -> Edited:
    """Move an end; where the input has another unit, the depth is one that can be heard there."""
    old = line_in(patch, edit.line)
    moved = Connection(
        source=edit.to.source, target=edit.to.target, depth=old.depth, scaled_by=old.scaled_by, off=old.off
    )
    if moved.ends != old.ends and any(line.ends == moved.ends for line in patch.connections):
        raise EditError(f"{moved.source} is connected to {moved.target} already.")
    checked_patch(with_lines(patch, [moved]))
    graph = Graph(patch)
    before, after = graph.input(old.target), graph.input(moved.target)
    if (before.law, before.depth_unit) != (after.law, after.depth_unit):
        depth = depth_from(graph.module(moved.source), graph.output_at(moved.source), after)
        moved = moved.model_copy(update={"depth": depth})
    lines = [moved if line == old else line for line in patch.connections]
    return Edited(with_lines(patch, lines), (moved.target.module,))


def change_line(patch: Patch, edit: ChangeLine) -> Edited:
    """Change a connection between its ends."""
    old = line_in(patch, edit.line)
    changes: dict[str, Any] = {}
    if edit.depth is not None:
        changes["depth"] = edit.depth
    if edit.scaled_by is not None:
        changes["scaled_by"] = None if edit.scaled_by == "nothing" else edit.scaled_by
    if edit.off is not None:
        changes["off"] = True if edit.off else None
    new = Connection.model_validate(old.model_dump() | changes)
    lines = [new if line == old else line for line in patch.connections]
    return Edited(with_lines(patch, lines), (new.target.module,))


def group(patch: Patch, edit: GroupModules) -> Edited:
    """Make a section."""
    modules = [module_in(patch, name) for name in edit.modules]
    for module in modules:
        if is_single(module):
            raise EditError(f"The {module.type} stands outside of all sections.")
    names = [module.id for module in modules]
    taken = {*patch.by_id, *(one.id for one in patch.sections)}
    section = edit.section if edit.section and edit.section not in taken else fresh_id(taken, "section")
    return Edited(grouped(patch, section, edit.label.strip() or "Section", names), tuple(names))


def take_apart(patch: Patch, edit: TakeApart) -> Edited:
    """Dissolve a section."""
    section = section_in(patch, edit.section)
    return Edited(taken_apart(patch, section.id), section.modules)


def change_section(patch: Patch, edit: ChangeSection) -> Edited:
    section = section_in(patch, edit.section)
    if edit.port is not None and (edit.port.module not in section.modules or not Graph(patch).has(edit.port)):
        raise EditError(f"There is no input and no output {edit.port} in this section.")
    return Edited(regrouped(patch, edit.section, edit.label, edit.open, edit.port, edit.name.strip()))


def set_voices(patch: Patch, edit: SetVoices) -> Edited:
    """Set how many notes can sound at once."""
    return Edited(patch.model_copy(update={"voices": edit.voices}))


def paste(patch: Patch, edit: Paste) -> Edited:
    """Put in copied modules under free ids; a player or an output that is there already stands for the copied one."""
    checked_patch(edit.fragment)
    present = {module.type: module.id for module in patch.modules if is_single(module)}
    stands_for = {one.id: present[one.type] for one in edit.fragment.modules if one.type in present}
    coming = [module for module in edit.fragment.modules if module.id not in stands_for]
    names = new_names(patch, [module.id for module in coming]) | stands_for
    copies = copies_of(patch, coming, names)
    lines = [renamed(line, names) for line in edit.fragment.connections]
    pasted = with_lines(patch.model_copy(update={"modules": (*patch.modules, *copies)}), [*patch.connections, *lines])
    for section in edit.fragment.sections:
        pasted = copied_section(pasted, section.label, [names[one] for one in section.modules], section, names)
    return Edited(pasted, tuple(module.id for module in copies))


def copied_section(patch: Patch, label: str, modules: list[str], section: Section, names: dict[str, str]) -> Patch:
    """Return the patch with the copy of a section, its ports named as they were."""
    new = fresh_id({*patch.by_id, *(one.id for one in patch.sections)}, "section")
    patch = grouped(patch, new, label, modules)
    for port in (*section.inputs, *section.outputs):
        patch = regrouped(patch, new, None, section.open, renamed_port(port.port, names), port.name)
    return patch


def fragment(patch: Patch, names: Sequence[str]) -> Patch:
    """Return some modules with the connections among them, as they can be pasted elsewhere."""
    chosen = set(names)
    inner = [unscaled_outside(line, chosen) for line in patch.connections if set(line.modules) <= chosen]
    return pruned(
        Patch(
            title=patch.title,
            modules=tuple(module for module in patch.modules if module.id in chosen),
            connections=tuple(inner),
            sections=tuple(one for one in patch.sections if set(one.modules) <= chosen),
        )
    )


def unscaled_outside(line: Connection, chosen: set[str]) -> Connection:
    """Return a connection that nothing outside of the chosen modules scales."""
    outside = line.scaled_by is not None and line.scaled_by.module not in chosen
    return line.model_copy(update={"scaled_by": None}) if outside else line


MOVES: dict[type, Callable[[Patch, Any], Edited]] = {
    AddModule: add,
    InsertModule: insert,
    RemoveModules: remove,
    ReplaceModule: replace,
    DuplicateModules: duplicate,
    RenameModule: rename,
    SetValue: set_value,
    Connect: connect,
    Disconnect: disconnect,
    MoveEnd: move_end,
    ChangeLine: change_line,
    GroupModules: group,
    TakeApart: take_apart,
    ChangeSection: change_section,
    SetVoices: set_voices,
    Paste: paste,
}
