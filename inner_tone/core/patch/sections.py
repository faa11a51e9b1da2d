"""Sections: named groups of modules with named inputs and outputs of their own.

A section is a way of seeing a patch: what sounds is the same with and without it. Its ports are those through
which it is connected to the rest, and others that the educator has named.
"""

from collections.abc import Iterable, Iterator, Sequence

from inner_tone.core.patch.model import Connection, Patch, Section, SectionPort, split_port


def grouped(patch: Patch, section_id: str, label: str, modules: Sequence[str]) -> Patch:
    """Return the patch with a section of some modules, which leave the sections that they were in."""
    rest = [without(one, modules) for one in patch.sections]
    made = Section(id=section_id, label=label, modules=tuple(dict.fromkeys(modules)))
    return pruned(patch.model_copy(update={"sections": (*rest, made)}))


def taken_apart(patch: Patch, section_id: str) -> Patch:
    """Return the patch without a section; its modules stay."""
    return patch.model_copy(update={"sections": tuple(one for one in patch.sections if one.id != section_id)})


def regrouped(
    patch: Patch, section_id: str, label: str | None, open_: bool | None, port: str | None, name: str
) -> Patch:
    """Return the patch with a section relabelled, opened or closed, or with a port named (hidden by no name)."""

    def changed(section: Section) -> Section:
        changes: dict[str, object] = {}
        if label is not None:
            changes["label"] = label.strip() or section.label
        if open_ is not None:
            changes["open"] = open_
        if port is not None:
            outputs = [one.name for one in patch.by_id[split_port(port)[0]].declaration.outputs]
            key = "outputs" if split_port(port)[1] in outputs and not enters(patch, port) else "inputs"
            changes[key] = named(getattr(section, key), port, name)
        return section.model_copy(update=changes)

    sections = tuple(changed(one) if one.id == section_id else one for one in patch.sections)
    return pruned(patch.model_copy(update={"sections": sections}))


def enters(patch: Patch, port: str) -> bool:
    """Tell whether a port is an input that something is connected to."""
    return any(line.target == port for line in patch.connections)


def named(ports: Sequence[SectionPort], port: str, name: str) -> tuple[SectionPort, ...]:
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


def pruned(patch: Patch) -> Patch:
    """Return the patch with sections that fit it: no lost modules or ports, none empty, every way in or out named."""
    sections = [fitted(patch, section) for section in patch.sections]
    kept = tuple(section for section in sections if section.modules)
    return patch if kept == patch.sections else patch.model_copy(update={"sections": kept})


def fitted(patch: Patch, section: Section) -> Section:
    """Return a section as it fits the patch."""
    modules = tuple(one for one in section.modules if one in patch.by_id)
    inside = set(modules)
    inputs = [line.target for line in patch.connections if crosses(line, inside) == "in"]
    outputs = [port for line in patch.connections for port in leaving(line, inside)]
    return section.model_copy(
        update={
            "modules": modules,
            "inputs": fitted_ports(patch, section.inputs, inputs, inside),
            "outputs": fitted_ports(patch, section.outputs, outputs, inside),
        }
    )


def crosses(line: Connection, inside: set[str]) -> str:
    """Return whether a connection goes into a set of modules, out of it, or neither."""
    source, target = split_port(line.source)[0] in inside, split_port(line.target)[0] in inside
    return "in" if target and not source else "out" if source and not target else ""


def leaving(line: Connection, inside: set[str]) -> Iterator[str]:
    """Yield the outputs of a set of modules that a connection outside of it reads."""
    if split_port(line.target)[0] not in inside:
        for port in (line.source, line.scaled_by):
            if port is not None and split_port(port)[0] in inside:
                yield port


def fitted_ports(
    patch: Patch, ports: Sequence[SectionPort], needed: Sequence[str], inside: set[str]
) -> tuple[SectionPort, ...]:
    """Return ports without those that are gone, and with those that connections need."""
    kept = [one for one in ports if split_port(one.port)[0] in inside and has_port(patch, one.port)]
    for port in dict.fromkeys(needed):
        if port not in [one.port for one in kept]:
            kept.append(SectionPort(name=free_name(patch, port, [one.name for one in kept]), port=port))
    return tuple(kept)


def has_port(patch: Patch, port: str) -> bool:
    """Tell whether a module of the patch has a port."""
    module, name = split_port(port)
    declared = patch.by_id[module].declaration
    return name in {*(one.name for one in declared.inputs), *(one.name for one in declared.outputs)}


def free_name(patch: Patch, port: str, taken: Sequence[str]) -> str:
    """Return a name for a port that no other has yet: its own, or with its module's name before it."""
    module, name = split_port(port)
    if name not in taken:
        return name
    wanted = f"{patch.by_id[module].title} {name}"[:60]
    number = 2
    found = wanted
    while found in taken:
        found = f"{wanted[:56]} {number}"
        number += 1
    return found
