"""Which modules exist once per voice: those that depend on the notes of the player and follow nothing shared."""

from collections.abc import Iterable

from inner_tone.core.patch.model import Connection, Patch, split_port


def voiced_modules(patch: Patch) -> frozenset[str]:
    """Return the modules of a patch that exist once for each of its voices; none if it has but one."""
    if patch.voices == 1:
        return frozenset()
    shared = reached(patch, [module.id for module in patch.modules if module.declaration.shared])
    players = [module.id for module in patch.modules if module.type == "player"]
    return reached(patch, players, notes_only=True) - shared


def reached(patch: Patch, beginnings: Iterable[str], *, notes_only: bool = False) -> frozenset[str]:
    """Return some modules and all that they feed; with `notes_only`, by lines that differ from voice to voice."""
    found: set[str] = set()
    waiting = list(beginnings)
    while waiting:
        name = waiting.pop()
        if name not in found:
            found.add(name)
            waiting += [
                split_port(line.target)[0]
                for line in patch.connections
                for port in ports_of(line)
                if split_port(port)[0] == name and not (notes_only and is_for_all(patch, port))
            ]
    return frozenset(found)


def ports_of(line: Connection) -> Iterable[str]:
    """Return the outputs that a connection reads."""
    return (line.source, line.scaled_by) if line.scaled_by else (line.source,)


def is_for_all(patch: Patch, port: str) -> bool:
    """Return whether an output says the same in every voice."""
    module, name = split_port(port)
    return patch.by_id[module].declaration.output(name).for_all
