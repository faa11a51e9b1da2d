"""What is still to be done to a patch of one's own until it is the target, however it is called and built.

Both are compared in their plain form. If they differ, the goal is looked for: one's own patch, changed as little as it
needs to come down to the same as the target. The instructions to it are those of any difference, in one's own names.
"""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from scipy.optimize import linear_sum_assignment

from inner_tone.core.modules.declaration import Value
from inner_tone.core.patch.difference import difference
from inner_tone.core.patch.edit import fresh_id
from inner_tone.core.patch.graph import Graph, is_single
from inner_tone.core.patch.instructions import Instruction
from inner_tone.core.patch.model import Connection, Module, Patch, Setting
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
from inner_tone.core.patch.pairing import Names, Pairing, isomorphism, same, swapped
from inner_tone.core.patch.plain import Path, Plain, Way, alike, plain, rounded, shifted, written
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.sections import pruned

URGENCY = {"replace": 0, "insert": 0, "duplicate": 1, "add": 1, "remove": 2, "connect": 3, "move-end": 3}
LEAST_URGENT = 4
MOST_TOGETHER = 3

Lines = dict[tuple[Port, Port], Connection]


@dataclass(frozen=True)
class Match:
    """How one's own patch stands to a target.

    `names` says which of one's own modules is each of the target's; `goal` is one's own patch, changed as little as it
    needs to be the target; `remaining` are the instructions to it, and `same` is whether there are none.
    """

    same: bool
    names: Names
    goal: Patch
    remaining: tuple[Instruction, ...]

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
        return Match(True, names, mine, ())
    names = Pairing(own, goal).found()
    named = Named(mine, target, names)
    wanted = named.patch()
    built = tuple(difference(mine, wanted))
    steps = Match(False, named.names, wanted, tuple(built))
    if start is not None and all_of_step(built, difference(start, target), named.names):
        return steps
    nearest = Nearest(mine, wanted, as_built).goal()
    if nearest is None:
        return steps
    remaining = tuple(difference(mine, nearest))
    return Match(False, named.names, nearest, remaining) if len(remaining) < len(built) else steps


def heard(form: Plain, as_built: bool) -> Plain:
    """Return what counts of a plain form: what is heard, or all that is built."""
    return form if as_built else form.only(form.reaching())


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


class Named:
    """A target under one's own names: the ids and labels of one's own modules, and their order of channels."""

    def __init__(self, mine: Patch, target: Patch, names: Names) -> None:
        self.mine, self.target = mine, target
        self.working = plain(mine).reaching()
        self.goal = Graph(target.live)
        self.names = dict(names)
        self.pair_leftovers()
        taken = {*mine.by_id, *self.names.values(), *(section.id for section in mine.sections)}
        for module in target.modules:
            if module.id not in self.names:
                self.names[module.id] = fresh_id(taken, module.id)
                taken.add(self.names[module.id])

    def pair_leftovers(self) -> None:
        """Pair what is worked into lines with its like, then what has another type but the same place."""
        for like in (self.same_type, self.same_place):
            for t in self.target.modules:
                if t.id not in self.names and not is_single(t):
                    free = [m for m in self.mine.modules if m.id not in self.names.values() and not is_single(m)]
                    found = max(free, key=lambda m: like(t, m), default=None)
                    if found is not None and like(t, found) > 0.0:
                        self.names[t.id] = found.id

    def same_type(self, t: Module, m: Module) -> float:
        """Return how many neighbours two modules of one type have in common; 0 for others."""
        return self.in_common(t, m) + (0.1 if t.id == m.id else 0.0) if t.type == m.type else 0.0

    def same_place(self, t: Module, m: Module) -> float:
        """Return how much a module stands in the place of one of another type: both before and behind."""
        return self.in_common(t, m) if m.id in self.working and self.in_common(t, m) >= 1.5 else 0.0

    def in_common(self, t: Module, m: Module) -> float:
        """Return how many of the modules beside two have been paired, over how many there are at most, twice over."""
        total = 0.0
        for wanted, there in zip(beside(self.target, t.id), beside(self.mine, m.id), strict=True):
            named = {self.names.get(one) for one in wanted}
            if wanted and there:
                total += len(named & there) / max(len(named), len(there))
        return total

    def patch(self) -> Patch:
        """Return the target under one's own names; what has no effect of one's own stays beside it."""
        modules = [self.module(module) for module in self.target.modules]
        lines = [self.line(line) for line in self.target.live.connections]
        lines = [self.turned(line) for line in lines]
        built = Patch(
            title=self.mine.title, voices=self.target.voices, modules=tuple(modules), connections=tuple(lines)
        )
        built = self.with_channels(built)
        return self.with_idle(built)

    def module(self, module: Module) -> Module:
        """Return a module of the target under its own name here."""
        name = self.names[module.id]
        there = self.mine.by_id.get(name)
        if there is None or there.type != module.type:
            return module.model_copy(update={"id": name, "label": there.label if there else module.label})
        goal = written(module, self.goal.counting(module, module.all_settings))

        def comes_to_goal(values: dict[str, Value]) -> bool:
            return same_settings(written(module, self.goal.counting(module, values)), goal)

        return there.model_copy(update={"settings": least_changed(there, module.all_settings, comes_to_goal)})

    def line(self, line: Connection) -> Connection:
        """Return a line of the target between one's own modules."""

        def port(one: Port) -> Port:
            return one.on(self.names[one.module])

        scale = port(line.scaled_by) if line.scaled_by else None
        return line.model_copy(update={"source": port(line.source), "target": port(line.target), "scaled_by": scale})

    def turned(self, line: Connection) -> Connection:
        """Return a line with its factors as one's own has them, if it has the other one first."""
        if line.scaled_by is None:
            return line
        own = next((one for one in self.mine.live.connections if one.ends == (line.scaled_by, line.target)), None)
        if own is None or own.scaled_by != line.source:
            return line
        return line.model_copy(update={"source": line.scaled_by, "scaled_by": line.source})

    def with_channels(self, built: Patch) -> Patch:
        """Return a patch with the channels of each module in one's own order."""
        for module in built.modules:
            own = self.mine.by_id.get(module.id)
            if own is None or own.type != module.type or not swapped(module.type, module.all_settings):
                continue
            order = self.order_of_channels(built, module)
            built = with_order(built, module, order)
        return built

    def order_of_channels(self, built: Patch, module: Module) -> list[int]:
        """Return, for each channel of a module, the channel of one's own that it is most like."""
        mine = channels(self.mine, self.mine.by_id[module.id])
        wanted = channels(built, module)
        grid = np.array(
            [[likeness(one, other) + 0.01 * (i == j) for j, other in enumerate(mine)] for i, one in enumerate(wanted)]
        )
        return [int(column) for column in linear_sum_assignment(-grid)[1]]

    def with_idle(self, built: Patch) -> Patch:
        """Return a patch with what one's own has beside it and what nothing depends on; and its sections, if whole."""
        own = self.mine.live
        needed = plain(own, as_built=True).reaching()
        idle = [module for module in own.modules if module.id not in built.by_id and module.id not in needed]
        there = {*built.by_id, *(module.id for module in idle)}
        names = {module.id for module in idle}
        lines = [line for line in own.connections if line.target.module in names and there.issuperset(line.modules)]
        off = [line for line in self.mine.connections if line.off and there.issuperset(line.modules)]
        ends = {line.ends for line in built.connections}
        lines += [line for line in off if line.ends not in ends]
        return pruned(
            built.model_copy(
                update={
                    "modules": (*built.modules, *idle),
                    "connections": (*built.connections, *lines),
                    "sections": self.mine.sections,
                }
            )
        )


def beside(patch: Patch, name: str) -> tuple[set[str], set[str]]:
    """Return the modules that feed a module, and those that it feeds."""
    lines = patch.live.connections
    before = {port.module for line in lines if line.target.module == name for port in line.read}
    return before, {line.target.module for line in lines if name in {port.module for port in line.read}}


Channel = frozenset[tuple[object, ...]]


def channels(patch: Patch, module: Module) -> list[Channel]:
    """Return what each channel of a module is set to and what comes into it."""
    places = swapped(module.type, module.all_settings)
    found: list[set[tuple[object, ...]]] = [set() for _ in range(1 + max(channel for channel, _ in places.values()))]
    for name, (channel, part) in places.items():
        if name in module.all_settings:
            found[channel].add((part, module.all_settings[name]))
        for line in Graph(patch).coming(Port.of(module.id, name)):
            found[channel] |= {(part, line.source), (part, line.source, line.depth, line.scaled_by)}
    return [frozenset(one) for one in found]


def likeness(one: Channel, other: Channel) -> float:
    """Return how much two channels have in common; what comes in counts more than what is set."""
    return sum(3.0 if isinstance(fact[1], Port) else 1.0 for fact in one & other)


def with_order(built: Patch, module: Module, order: Sequence[int]) -> Patch:
    """Return a patch with the channels of a module at other places."""
    places = swapped(module.type, module.all_settings)
    at = {place: name for name, place in places.items()}
    moved = {name: at[order[channel], part] for name, (channel, part) in places.items()}
    settings = {moved.get(name, name): value for name, value in module.settings.items()}

    def rewired(line: Connection) -> Connection:
        if line.target.module != module.id or line.target.name not in moved:
            return line
        return line.model_copy(update={"target": Port.of(module.id, moved[line.target.name])})

    return built.model_copy(
        update={
            "modules": tuple(
                one.model_copy(update={"settings": settings}) if one.id == module.id else one for one in built.modules
            ),
            "connections": tuple(rewired(line) for line in built.connections),
        }
    )


class Nearest:
    """One's own patch on its way to come down to the same as a target with its names, as little changed as it needs."""

    def __init__(self, mine: Patch, wanted: Patch, as_built: bool) -> None:
        self.mine = mine
        self.as_built = as_built
        self.own, self.wanted_form = plain(mine, as_built=as_built), plain(wanted, as_built=as_built)
        self.wanted = wanted
        self.kept = self.own.dissolved - set(wanted.by_id) | (self.own.dissolved & self.wanted_form.dissolved)

    def goal(self) -> Patch | None:
        """Return the nearest patch that comes down to the same as the target; None if none was found this way."""
        try:
            built = self.built()
        except LostError:
            return None
        form = plain(built, as_built=self.as_built)
        return built if equal(heard(form, self.as_built), heard(self.wanted_form, self.as_built)) else None

    def built(self) -> Patch:
        """Return one's own patch with what differs changed. Raises LostError."""
        own, form = self.own, self.wanted_form
        modules: list[Module] = []
        for module in self.mine.modules:
            if module.id in form.types:
                modules.append(self.settled(module))
            elif module.id in own.dissolved:
                modules.append(module)
        modules += [
            module for module in self.wanted.modules if module.id in form.types and module.id not in self.mine.by_id
        ]
        lines = {line.ends: line for line in self.mine.connections}
        going = [way for way in own.lines if way not in form.lines]
        coming = [way for way in form.lines if way not in own.lines]
        for at in (-1, 0):
            self.regraft(lines, going, coming, at)
        for way in going:
            for path in own.paths[way]:
                lines.pop(self.exclusive(path, way).ends, None)
        for way, wanted in form.lines.items():
            there = own.lines.get(way)
            if way in coming:
                source, *scale = way.factors
                line = next((one for one in self.wanted.connections if way_matches(one, way)), None)
                new = line or Connection(source=source, target=way.target, scaled_by=scale[0] if scale else None)
                lines[new.ends] = new.model_copy(update={"depth": wanted})
            elif there is not None and not alike(there, wanted):
                self.deepen(lines, way, there, wanted)
        fed = {line.target.module for line in lines.values()}
        modules = [module for module in modules if module.id in fed or module.id not in own.dissolved]
        present = {module.id for module in modules}
        kept = [line for line in lines.values() if present.issuperset({*line.modules, *(p.module for p in line.read)})]
        return pruned(
            self.mine.model_copy(
                update={"voices": self.wanted.voices, "modules": tuple(modules), "connections": tuple(kept)}
            )
        )

    def regraft(self, lines: Lines, going: list[Way], coming: list[Way], at: int) -> None:
        """Let a connection at an end of paths lead elsewhere, or come from elsewhere, where that is all that they need.

        So what stands behind a mixer of one's own, or before it, comes in or goes at once for all that it adds up. The
        ways that are settled thereby are taken out of those that go and come.
        """
        own, form = self.own, self.wanted_form
        through: dict[tuple[Port, Port], list[Way]] = {}
        for way in own.lines:
            for path in own.paths[way]:
                if len(path) > 1:
                    through.setdefault(path[at].ends, []).append(way)
        for ends, users in through.items():
            line = lines.get(ends)
            if line is None or not set(users) <= set(going) or any(len(own.paths[way]) > 1 for way in users):
                continue
            for way in coming:
                moved = [one._replace(target=way.target) if at else one._replace(factors=way.factors) for one in users]
                ratios = {
                    rounded(form.lines[new] / own.lines[old])
                    for new, old in zip(moved, users, strict=True)
                    if new in coming
                }
                if (
                    set(moved) <= set(coming)
                    and len(set(moved)) == len(users)
                    and len(ratios) == 1
                    and (at or len(way.factors) == 1)
                ):
                    depth = line.depth * float(ratios.pop())  # type: ignore[arg-type]
                    change = {"target": way.target} if at else {"source": way.factors[0], "scaled_by": None}
                    new = line.model_copy(update={**change, "depth": depth})
                    if new.ends in lines:
                        continue
                    del lines[ends]
                    lines[new.ends] = new
                    going[:] = [one for one in going if one not in users]
                    coming[:] = [one for one in coming if one not in moved]
                    break

    def exclusive(self, path: Path, way: Way) -> Connection:
        """Return a connection of a path that nothing else goes through; raises LostError."""
        for line in path:
            users = [
                one for one, paths in self.own.paths.items() if one in self.own.lines and any(line in p for p in paths)
            ]
            if all(one == way or one not in self.wanted_form.lines for one in users):
                return line
        raise LostError

    def deepen(self, lines: Lines, way: Way, there: float, wanted: float) -> None:
        """Give a line of the plain form another depth, by one of the connections of its path. Raises LostError."""
        paths = self.own.paths[way]
        direct = next((path[0] for path in paths if len(path) == 1), None)
        if direct is not None:
            lines[direct.ends] = direct.model_copy(update={"depth": direct.depth + wanted - there})
            return
        if len(paths) != 1:
            raise LostError
        line = self.exclusive(paths[0], way)
        lines[line.ends] = line.model_copy(update={"depth": line.depth * wanted / there})

    def settled(self, module: Module) -> Module:
        """Return a module of one's own with no more settings changed than it needs."""
        new = self.wanted.by_id[module.id]
        if new.type != module.type:
            return new.model_copy(update={"id": module.id, "label": module.label})
        goal = self.wanted_form.settings[module.id]
        if module.id in self.own.settings and same_settings(self.own.settings[module.id], goal):
            return module
        values = dict(new.all_settings)
        for name, value in values.items():
            amount = self.own.shifts.get(Port.of(module.id, name), 0.0)
            wanted = self.wanted_form.shifts.get(Port.of(module.id, name), 0.0)
            if (amount or wanted) and isinstance(value, int | float):
                law = module.declaration.inputs_by_name[name].law
                values[name] = shifted(law, shifted(law, float(value), wanted), -amount)
        settings = least_changed(module, values, lambda tried: self.comes_to(module, tried, goal))
        return module.model_copy(update={"settings": settings})

    def comes_to(self, module: Module, values: dict[str, Value], goal: dict[str, Value]) -> bool:
        """Tell whether settings of one's own module come down to those wanted."""
        moved = dict(values)
        for name, value in values.items():
            amount = self.own.shifts.get(Port.of(module.id, name), 0.0)
            if amount and isinstance(value, int | float):
                moved[name] = shifted(module.declaration.inputs_by_name[name].law, float(value), amount)
        counting = Graph(self.wanted.live).counting(self.wanted.by_id[module.id], moved)
        return same_settings(written(module, counting), goal)


class LostError(Exception):
    """No way was found to keep what one's own patch does otherwise."""


def same_settings(one: Mapping[str, Value], other: Mapping[str, Value]) -> bool:
    """Tell whether settings, written one way, are the same."""
    return all(same(value, other[name]) for name, value in one.items())


def least_changed(
    module: Module, values: Mapping[str, Value], comes_to_goal: Callable[[dict[str, Value]], bool]
) -> dict[str, Setting]:
    """Return a module's settings with no more of them changed to other values than it needs to come to a goal."""
    found = dict(values)
    other = {name: value for name, value in module.all_settings.items() if value != found[name]}
    together = [names for count in range(1, MOST_TOGETHER + 1) for names in combinations(other, count)]
    for names in (tuple(other), *together):  # some only mean the same together: an octave less, twelve semitones more
        kept = {name: other[name] for name in names}
        if comes_to_goal(found | kept):
            found |= kept
    defaults = module.declaration.defaults
    return {name: value for name, value in found.items() if value != defaults[name] or name in module.settings}


def way_matches(line: Connection, way: Way) -> bool:
    """Tell whether a connection is a line of the plain form."""
    return line.target == way.target and tuple(sorted(line.read)) == way.factors


def equal(one: Plain, other: Plain) -> bool:
    """Tell whether two plain forms with the same names are the same."""
    if (one.voices, one.types) != (other.voices, other.types) or one.lines.keys() != other.lines.keys():
        return False
    if not all(alike(depth, other.lines[way]) for way, depth in one.lines.items()):
        return False
    return all(same_settings(values, other.settings[name]) for name, values in one.settings.items())
