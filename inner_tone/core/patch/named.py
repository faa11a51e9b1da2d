"""A target under one's own names: with one's own modules where they are the same, and one's own order of channels."""

from collections.abc import Callable, Mapping, Sequence
from itertools import combinations

import numpy as np
import scipy

from inner_tone.core.modules.declaration import Value
from inner_tone.core.patch.edit import fresh_id
from inner_tone.core.patch.graph import Graph, is_single
from inner_tone.core.patch.model import Connection, Module, Patch, Setting
from inner_tone.core.patch.pairing import Names, same, swapped
from inner_tone.core.patch.plain import plain, written
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.sections import pruned

MOST_TOGETHER = 3


class Named:
    """A target under one's own names: the ids and labels of one's own modules, and their order of channels.

    What has no effect of one's own stays beside it, but not where all that is built counts (`as_built`).
    """

    def __init__(self, mine: Patch, target: Patch, names: Names, as_built: bool) -> None:
        self.mine, self.target, self.as_built = mine, target, as_built
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
        """Return the target under one's own names."""
        modules = [self.module(module) for module in self.target.modules]
        lines = self.turned([self.line(line) for line in self.target.live.connections])
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

    def turned(self, lines: Sequence[Connection]) -> list[Connection]:
        """Return lines with their factors as one's own has them, but where two would come to have the same ends."""
        found = list(lines)
        waiting = {place: new for place, line in enumerate(lines) if (new := self.as_own(line)) is not None}
        ends = {line.ends for line in lines}
        while free := [place for place, new in waiting.items() if new.ends not in ends]:
            ends -= {found[free[0]].ends}
            found[free[0]] = waiting.pop(free[0])
            ends |= {found[free[0]].ends}
        return found

    def as_own(self, line: Connection) -> Connection | None:
        """Return a line with its factors the other way round, if that is how one's own has them."""
        if line.scaled_by is None:
            return None
        own = next((one for one in self.mine.live.connections if one.ends == (line.scaled_by, line.target)), None)
        if own is None or own.scaled_by != line.source:
            return None
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
        return [int(column) for column in scipy.optimize.linear_sum_assignment(-grid)[1]]

    def with_idle(self, built: Patch) -> Patch:
        """Return a patch with what one's own has beside it and what nothing depends on; and its sections, if whole."""
        own = self.mine.live
        working = {*own.by_id} if self.as_built else plain(own, as_built=True).reaching()
        idle = [module for module in own.modules if module.id not in built.by_id and module.id not in working]
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
