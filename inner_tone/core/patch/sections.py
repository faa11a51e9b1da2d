"""Sections: named groups of modules with named inputs and outputs of their own.

A section is a way of seeing a patch: what sounds is the same with and without it. Its ports are those through
which it is connected to the rest, and others that the educator has named. A section may stand within another one, whose
modules it then shares: of two sections either one has all modules of the other, or they have none in common.
"""

from collections.abc import Iterable, Sequence

from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch, Section, SectionPort
from inner_tone.core.patch.port import Port


def grouped(patch: Patch, section_id: str, label: str, modules: Sequence[str]) -> Patch:
    """Return the patch with a section of some modules: within those that have them all, around those that it has.

    The modules leave a section that would only share some of them.
    """
    rest = [one if nests(one.modules, modules) else without(one, modules) for one in patch.sections]
    made = Section(id=section_id, label=label, modules=tuple(dict.fromkeys(modules)))
    return pruned(patch.model_copy(update={"sections": (*rest, made)}))


def taken_apart(patch: Patch, section_id: str) -> Patch:
    """Return the patch without a section; its modules stay."""
    return patch.model_copy(update={"sections": tuple(one for one in patch.sections if one.id != section_id)})


def regrouped(
    patch: Patch, section_id: str, label: str | None, open_: bool | None, port: Port | None, name: str
) -> Patch:
    """Return the patch with a section relabelled, opened or closed, or with a port named (hidden by no name)."""

    graph = Graph(patch)

    def changed(section: Section) -> Section:
        changes: dict[str, object] = {}
        if label is not None:
            changes["label"] = label.strip() or section.label
        if open_ is not None:
            changes["open"] = open_
        if port is not None:
            leaves = port.name in graph.declared(port.module).outputs_by_name and not graph.coming(port)
            key = "outputs" if leaves else "inputs"
            changes[key] = named(getattr(section, key), port, name)
        return section.model_copy(update=changes)

    sections = tuple(changed(one) if one.id == section_id else one for one in patch.sections)
    return pruned(patch.model_copy(update={"sections": sections}))


def named(ports: Sequence[SectionPort], port: Port, name: str) -> tuple[SectionPort, ...]:
    """Return a section's ports with one of them named anew, added, or, without a name, left out."""
    if not name:
        return tuple(one for one in ports if one.port != port)
    new = SectionPort(name=name, port=port)
    if port in [one.port for one in ports]:
        return tuple(new if one.port == port else one for one in ports)
    return (*ports, new)


def without(section: Section, modules: Iterable[str]) -> Section:
    """Return a section that some modules have left."""
    gone = set(modules)
    return section.model_copy(update={"modules": tuple(one for one in section.modules if one not in gone)})


def nests(one: Iterable[str], other: Iterable[str]) -> bool:
    """Tell whether one of two groups of modules has all of the other, and more."""
    first, second = set(one), set(other)
    return first < second or second < first


def overlaps(one: Section, other: Section) -> bool:
    """Tell whether two sections share modules, and neither stands within the other."""
    return not set(one.modules).isdisjoint(other.modules) and not nests(one.modules, other.modules)


def around(patch: Patch, module: str) -> list[Section]:
    """Return the sections that a module is in, the innermost first."""
    return sorted((one for one in patch.sections if module in one.modules), key=lambda one: len(one.modules))


def pruned(patch: Patch) -> Patch:
    """Return the patch with sections that fit it: no lost modules or ports, none empty, every way in or out named.

    Those that would share only some of their modules are taken apart there: what stands first keeps them.
    """
    if not patch.sections:
        return patch
    graph = Graph(patch)
    kept: tuple[Section, ...] = ()
    for section in patch.sections:
        found = fitted(graph, section)
        while other := next((one for one in kept if overlaps(one, found)), None):
            found = fitted(graph, without(found, other.modules))
        kept = (*kept, found) if found.modules else kept
    return patch if kept == patch.sections else patch.model_copy(update={"sections": kept})


def fitted(graph: Graph, section: Section) -> Section:
    """Return a section as it fits a patch."""
    modules = tuple(one for one in section.modules if one in graph.modules)
    inside = set(modules)
    lines = graph.patch.connections
    inputs = [line.target for line in lines if line.target.module in inside and line.source.module not in inside]
    read = [port for line in lines if line.target.module not in inside for port in line.read]
    outputs = [port for port in read if port.module in inside]
    return section.model_copy(
        update={
            "modules": modules,
            "inputs": fitted_ports(graph, section.inputs, inputs, inside),
            "outputs": fitted_ports(graph, section.outputs, outputs, inside),
        }
    )


def fitted_ports(
    graph: Graph, ports: Sequence[SectionPort], needed: Sequence[Port], inside: set[str]
) -> tuple[SectionPort, ...]:
    """Return ports without those that are gone, and with those that connections need."""
    kept = [one for one in ports if one.port.module in inside and graph.has(one.port)]
    for port in dict.fromkeys(needed):
        if port not in [one.port for one in kept]:
            kept.append(SectionPort(name=free_name(graph, port, [one.name for one in kept]), port=port))
    return tuple(kept)


def free_name(graph: Graph, port: Port, taken: Sequence[str]) -> str:
    """Return a name for a port that no other has yet: its own, or with its module's name before it."""
    if port.name not in taken:
        return port.name
    wanted = f"{graph.module(port).title} {port.name}"[:60]
    number = 2
    found = wanted
    while found in taken:
        found = f"{wanted[:56]} {number}"
        number += 1
    return found
