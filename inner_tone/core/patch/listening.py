"""Listening to a part of a patch: modules muted, bypassed or alone, without changing the lesson."""

from collections.abc import Collection

from inner_tone.core.documents import Document
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Connection, Name, Patch


class Listening(Document):
    """What is left out or heard alone, by the modules' ids."""

    muted: tuple[Name, ...] = ()
    solo: tuple[Name, ...] = ()
    bypassed: tuple[Name, ...] = ()


def heard(patch: Patch, listening: Listening) -> Patch:
    """Return the patch as it is listened to; names that it does not have count for nothing.

    What is muted gives nothing to anybody. What is bypassed lets through what goes in. What is alone is heard
    instead of all that leads to the output.
    """
    for name in listening.bypassed:
        if name in patch.by_id and patch.by_id[name].declaration.ways:
            patch = bypassed(patch, name)
    patch = without_sources(patch, listening.muted)
    return solo(patch, [name for name in listening.solo if name in patch.by_id])


def bypassed(patch: Patch, name: str) -> Patch:
    """Return the patch with what enters a module led past it."""
    kept = [line for line in patch.connections if line.source.module != name]
    known = {line.ends for line in kept}
    past = [line for line in Graph(patch).bridges(name) if line.ends not in known]
    return patch.model_copy(update={"connections": (*kept, *{line.ends: line for line in past}.values())})


def without_sources(patch: Patch, names: Collection[str]) -> Patch:
    """Return the patch with nothing coming from some modules."""
    kept = [line for line in patch.connections if not any(port.module in names for port in line.read)]
    return patch.model_copy(update={"connections": tuple(kept)})


def solo(patch: Patch, names: Collection[str]) -> Patch:
    """Return the patch with only those of some modules heard that give sound; as it is if none does."""
    graph = Graph(patch)
    alone = [name for name in names if graph.declared(name).sounds]
    if not alone or graph.output is None or graph.output.id in alone:
        return patch
    kept = [line for line in patch.connections if line.target.module != graph.output.id]
    direct = [Connection(source=graph.main(name, ear), target=ear) for name in alone for ear in graph.ears]
    return patch.model_copy(update={"connections": (*kept, *direct)})
