"""Listening to a part of a patch: modules muted, bypassed or alone, without changing the lesson."""

from inner_tone.core.documents import Document
from inner_tone.core.patch.model import Connection, Name, Patch, split_port
from inner_tone.core.patch.ports import bridges, main_output, of_type, sounds, through_inputs


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
        if name in patch.by_id and through_inputs(patch.by_id[name].declaration):
            patch = bypassed(patch, name)
    patch = without_sources(patch, {name for name in listening.muted if name in patch.by_id})
    alone = [name for name in listening.solo if name in patch.by_id and sounds(patch.by_id[name].declaration)]
    output = of_type(patch, "output")
    return solo(patch, alone, output.id) if alone and output else patch


def bypassed(patch: Patch, name: str) -> Patch:
    """Return the patch with what enters a module led past it."""
    kept = [line for line in patch.connections if split_port(line.source)[0] != name]
    known = {line.ends for line in kept}
    past = [line for line in bridges(patch, name) if line.ends not in known]
    return patch.model_copy(update={"connections": (*kept, *{line.ends: line for line in past}.values())})


def without_sources(patch: Patch, names: set[str]) -> Patch:
    """Return the patch with nothing coming from some modules."""

    def comes_from(line: Connection) -> bool:
        return any(port and split_port(port)[0] in names for port in (line.source, line.scaled_by))

    return patch.model_copy(update={"connections": tuple(line for line in patch.connections if not comes_from(line))})


def solo(patch: Patch, names: list[str], output: str) -> Patch:
    """Return the patch with only some modules heard."""
    if output in names:
        return patch
    kept = [line for line in patch.connections if split_port(line.target)[0] != output]
    direct = [
        Connection(source=f"{name}.{main_output(patch.by_id[name].declaration, target)}", target=target)
        for name in names
        for target in (f"{output}.left", f"{output}.right")
    ]
    return patch.model_copy(update={"connections": (*kept, *direct)})
