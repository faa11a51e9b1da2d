"""What is still to be done to a patch of one's own until it is the target, however it is called and built.

Both are compared in their plain form. If they differ, the goal is looked for: one's own patch, changed as little as it
needs to come down to the same as the target. The instructions to it are those of any difference, in one's own names.
"""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from inner_tone.core.patch.difference import difference
from inner_tone.core.patch.instructions import Instruction
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import (
    AddModule,
    ChangeLine,
    Connect,
    Disconnect,
    DuplicateModules,
    Edit,
    InsertModule,
    MoveEnd,
    RemoveModules,
    ReplaceModule,
    SetValue,
    SetVoices,
)
from inner_tone.core.patch.named import Named
from inner_tone.core.patch.nearest import Nearest
from inner_tone.core.patch.pairing import Names, Pairing, isomorphism
from inner_tone.core.patch.plain import Plain, heard, plain
from inner_tone.core.patch.port import Port

URGENCY = {"replace": 0, "insert": 0, "duplicate": 1, "add": 1, "remove": 2, "connect": 3, "move-end": 3}
LEAST_URGENT = 4


@dataclass(frozen=True)
class Match:
    """How one's own patch stands to a target.

    `names` says which of one's own modules is each of the target's; `goal` is one's own patch, changed as little as it
    needs to be the target, and `remaining` are the instructions to it.
    """

    names: Names
    goal: Patch
    remaining: tuple[Instruction, ...]

    @property
    def same(self) -> bool:
        """Whether one's own patch is the target."""
        return not self.remaining

    @property
    def by_importance(self) -> list[Instruction]:
        """What remains, the most important first: what is not there, what is not joined, then what is set otherwise."""
        return sorted(self.remaining, key=lambda one: URGENCY.get(one.kind, LEAST_URGENT))

    def shown(self, instructions: Sequence[Instruction]) -> list[bool]:
        """Tell of instructions that lead to the target whether one's own patch shows each."""
        left = {place for one in self.remaining for place in places_of(one.edits, {})}
        return [not left.intersection(places_of(one.edits, self.names)) for one in instructions]


def match(mine: Patch, target: Patch, start: Patch | None = None) -> Match:
    """Return how one's own patch stands to a target.

    Parameters
    ----------
    mine, target
        Valid patches.
    start
        What one's own began as. Where the target comes down to the same, its step is about how it is built, and
        nothing is taken as the same but what it is called and how its settings are written.
    """
    as_built = start is not None and comes_to_same(plain(start), plain(target))
    own, goal = plain(mine, as_built=as_built), plain(target, as_built=as_built)
    names = isomorphism(heard(own, as_built), heard(goal, as_built))
    if names is not None:
        return Match(names, mine, ())
    names = Pairing(own, goal).found()
    named = Named(mine, target, names, as_built)
    wanted = named.patch()
    built = tuple(difference(mine, wanted))
    steps = Match(named.names, wanted, tuple(built))
    if start is not None and all_of_step(built, difference(start, target), named.names):
        return steps
    nearest = Nearest(mine, wanted, as_built).goal()
    if nearest is None:
        return steps
    remaining = tuple(difference(mine, nearest))
    return Match(named.names, nearest, remaining) if len(remaining) < len(built) else steps


def comes_to_same(one: Plain, other: Plain) -> bool:
    """Tell whether two plain forms are the same in what is heard."""
    return isomorphism(heard(one, as_built=False), heard(other, as_built=False)) is not None


def all_of_step(built: Iterable[Instruction], said: Iterable[Instruction], names: Names) -> bool:
    """Tell whether what is to be built is nothing but what a step says to do."""
    places = {place for one in said for place in places_of(one.edits, names)}
    return all(places.issuperset(places_of(one.edits, {})) for one in built)


def places_of(edits: Iterable[Edit], names: Names) -> Iterator[tuple[str, ...]]:
    """Yield the places of a patch that edits are about, with other ids for modules; what they are called is none."""

    def port(one: Port) -> Port:
        return one.on(names.get(one.module, one.module))

    for edit in edits:
        match edit:
            case AddModule(module=module) | InsertModule(module=module):
                yield "module", names.get(module.id, module.id)
            case RemoveModules(modules=ids) | DuplicateModules(modules=ids):
                yield from (("module", names.get(one, one)) for one in ids)
            case ReplaceModule(module=identity):
                yield "module", names.get(identity, identity)
            case SetValue(module=identity, setting=setting):
                yield "setting", names.get(identity, identity), setting
            case Connect(line=line):
                yield "line", port(line.source), port(line.target)
            case Disconnect(line=ends) | ChangeLine(line=ends):
                yield "line", port(ends.source), port(ends.target)
            case MoveEnd(line=ends, to=to):
                yield "line", port(ends.source), port(ends.target)
                yield "line", port(to.source), port(to.target)
            case SetVoices():
                yield ("voices",)
