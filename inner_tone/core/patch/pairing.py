"""Which module of one patch is which of another, by what they are and how they are joined.

Two plain forms that are the same are found to be by colour refinement and, where that leaves a choice, by the VF2
algorithm [1]_. Else each module is paired with the one of its type that is most like it, counting its settings and its
neighbours, and their neighbours in turn [2]_; the assignment of all is the best one (Hungarian method), bettered by
swaps for as long as less remains different.

.. [1] L. P. Cordella et al., "A (sub)graph isomorphism algorithm for matching large graphs", IEEE PAMI 26(10), 2004.
.. [2] S. Melnik, H. Garcia-Molina, E. Rahm, "Similarity flooding", ICDE 2002.
"""

from collections import Counter, defaultdict
from collections.abc import Hashable, Iterable, Mapping
from dataclasses import dataclass, field
from itertools import combinations
from typing import Any

import networkx as nx
import numpy as np
import scipy
from networkx.algorithms.isomorphism import DiGraphMatcher

from inner_tone.core.modules import CATALOGUE
from inner_tone.core.modules.declaration import Value
from inner_tone.core.patch.plain import Plain, Way, alike, rounded

Names = dict[str, str]
ROUNDS = 6
SWEEPS = 8
NEIGHBOURS = 0.6  # how much what is beside a module counts against what it is
MODULE, LOOSE, CHOICE, NUMBER, LINE, DEPTH = 3.0, 0.3, 1.5, 1.0, 1.0, 0.7  # what one difference of a kind costs


def swapped(kind: str, settings: Mapping[str, Value]) -> dict[str, tuple[int, int]]:
    """Return, for each name of an input or a setting that can change places, its channel and its part in that."""
    found = CATALOGUE[kind].swaps
    groups = found(settings) if found else ()
    return {name: (channel, part) for channel, names in enumerate(groups) for part, name in enumerate(names)}


@dataclass
class Form:
    """A plain form prepared to be compared: which names of each module are those of channels."""

    plain: Plain
    swaps: dict[str, dict[str, tuple[int, int]]] = field(default_factory=dict)
    lines: dict[tuple[Hashable, ...], list[float]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        """Find the channels."""
        self.swaps = {name: swapped(kind, self.plain.settings[name]) for name, kind in self.plain.types.items()}

    def port(self, module: str, name: str) -> str:
        """Return what an input is called whatever its channel."""
        channel = self.swaps[module].get(name)
        return name if channel is None else f"channel {channel[1]}"

    def own(self, module: str) -> dict[str, Value]:
        """Return the settings of a module that belong to none of its channels."""
        return {name: value for name, value in self.plain.settings[module].items() if name not in self.swaps[module]}

    def in_channels(self, module: str) -> tuple[tuple[Value, ...], ...]:
        """Return the settings of its channels, in one order."""
        found: dict[int, list[Value]] = defaultdict(list)
        for name, (channel, _) in self.swaps[module].items():
            if name in self.plain.settings[module]:
                found[channel].append(self.plain.settings[module][name])
        return tuple(sorted(map(tuple, found.values()), key=str))


def as_graph(form: Form) -> nx.DiGraph:
    """Return modules, their channels and their lines as the nodes of a graph, labelled with all that counts."""
    graph = nx.DiGraph()
    plain = form.plain
    for name, kind in plain.types.items():
        own = tuple(sorted(form.own(name).items()))
        graph.add_node(("module", name), label=(kind, own))
        for setting, (channel, part) in form.swaps[name].items():
            node: tuple[Any, ...] = ("channel", name, channel)
            graph.add_node(node, label=("channel", part))
            value = plain.settings[name].get(setting)
            graph.nodes[node].setdefault("values", []).append((part, value))
            graph.add_edge(node, ("module", name), label=("of",))
    for _, data in graph.nodes(data=True):
        if "values" in data:
            data["label"] = ("channel", tuple(sorted(data.pop("values"), key=str)))
    for place, (way, depth) in enumerate(plain.lines.items()):
        line = ("line", place)
        graph.add_node(line, label=("line", rounded(depth)))
        for source in dict.fromkeys(port.module for port in way.factors):
            names = sorted(port.name for port in way.factors if port.module == source)
            graph.add_edge(("module", source), line, label=tuple(names))
        module, name = way.target.module, way.target.name
        at = form.swaps[module].get(name)
        node = ("module", module) if at is None else ("channel", module, at[0])
        graph.add_edge(line, node, label=("into", form.port(module, name)))
    return graph


def refine(graphs: Iterable[nx.DiGraph]) -> bool:
    """Colour the nodes of graphs so that those of one colour have neighbours of the same colours.

    Returns whether all have as many nodes of each colour: if not, they are not the same.
    """
    found = list(graphs)
    colours: dict[Hashable, int] = {}

    def number(key: Hashable) -> int:
        return colours.setdefault(key, len(colours))

    for graph in found:
        for _, data in graph.nodes(data=True):
            data["colour"] = number(("label", str(data["label"])))
    classes = 0
    while True:
        for graph in found:
            new = {
                node: number(
                    (
                        graph.nodes[node]["colour"],
                        tuple(
                            sorted(
                                (graph.nodes[one]["colour"], d["label"])
                                for one, _, d in graph.in_edges(node, data=True)
                            )
                        ),
                        tuple(
                            sorted(
                                (graph.nodes[one]["colour"], d["label"])
                                for _, one, d in graph.out_edges(node, data=True)
                            )
                        ),
                    )
                )
                for node in graph
            }
            nx.set_node_attributes(graph, new, "colour")
        counts = [Counter(data["colour"] for _, data in graph.nodes(data=True)) for graph in found]
        if any(one != counts[0] for one in counts[1:]):
            return False
        if len(counts[0]) == classes:
            return True
        classes = len(counts[0])


def isomorphism(mine: Plain, target: Plain) -> Names | None:
    """Return which module of `mine` each of the target's is, if both are the same in all that counts."""
    if mine.voices != target.voices or Counter(mine.types.values()) != Counter(target.types.values()):
        return None
    graphs = [as_graph(Form(one)) for one in (target, mine)]
    if len(graphs[0]) != len(graphs[1]) or not refine(graphs):
        return None
    matcher = DiGraphMatcher(
        graphs[0],
        graphs[1],
        node_match=lambda one, other: one["colour"] == other["colour"],
        edge_match=lambda one, other: one["label"] == other["label"],
    )
    if not matcher.is_isomorphic():
        return None
    return {one[1]: other[1] for one, other in matcher.mapping.items() if one[0] == "module"}


class Pairing:
    """Two plain forms that are not the same, and which module of the one is likely which of the other.

    Parameters
    ----------
    mine, target
        What is compared.
    """

    def __init__(self, mine: Plain, target: Plain) -> None:
        self.mine, self.target = Form(mine), Form(target)
        self.needed = mine.reaching(), target.reaching()
        self._apart: dict[tuple[str, str], float] = {}
        self.pairs = [(t, m) for t, kind in target.types.items() for m, other in mine.types.items() if kind == other]

    def likeness(self) -> dict[tuple[str, str], float]:
        """Return how like each pair of modules of one type is, by what they are and by their neighbours."""
        first = {pair: self.alone(*pair) for pair in self.pairs}
        beside = [neighbours(form) for form in (self.target, self.mine)]
        found = dict(first)
        for _ in range(ROUNDS):
            found = {
                (t, m): first[t, m] + NEIGHBOURS * shared(beside[0].get(t, {}), beside[1].get(m, {}), found)
                for t, m in self.pairs
            }
        return found

    def alone(self, t: str, m: str) -> float:
        """Return how like two modules of one type are by themselves, 1 at most but for an id that is the same."""
        one, other = self.target.own(t), self.mine.own(m)
        same = sum(nearness(one[name], other[name]) for name in one) / len(one) if one else 1.0
        both = (t in self.needed[1]) == (m in self.needed[0])
        return same + 0.2 * both + (0.05 if t == m else 0.0)

    def found(self) -> Names:
        """Return which module of mine each of the target's is; those without a counterpart are left out."""
        likeness = self.likeness()
        names: Names = {}
        for kind in dict.fromkeys(self.target.plain.types.values()):
            ts = [t for t, one in self.target.plain.types.items() if one == kind]
            ms = [m for m, one in self.mine.plain.types.items() if one == kind]
            if ms:
                rows, columns = scipy.optimize.linear_sum_assignment([[-likeness[t, m] for m in ms] for t in ts])
                names |= {ts[r]: ms[c] for r, c in zip(rows, columns, strict=True)}
        return self.bettered(names)

    def bettered(self, names: Names) -> Names:
        """Return an assignment with less that remains different, as long as a swap makes it less."""
        best = self.cost(names)
        for _ in range(SWEEPS):
            before = best
            for other in self.neighbours(names):
                if best <= 0.0:
                    return names
                cost = self.cost(other)
                if cost < best - 1e-9:
                    names, best = other, cost
            if best >= before:
                return names
        return names

    def neighbours(self, names: Names) -> Iterable[Names]:
        """Yield assignments that differ in one module or in two that change places."""
        kinds = self.target.plain.types
        free = defaultdict(list)
        for m, kind in self.mine.plain.types.items():
            if m not in names.values():
                free[kind].append(m)
        by_kind = defaultdict(list)
        for t in names:
            by_kind[kinds[t]].append(t)
        for ts in by_kind.values():
            for one, other in combinations(ts, 2):
                yield names | {one: names[other], other: names[one]}
        for t in list(names):
            for m in free[kinds[t]]:
                yield names | {t: m}

    def cost(self, names: Names) -> float:
        """Return how much remains different under an assignment."""
        mine, target = self.mine.plain, self.target.plain
        back = {m: t for t, m in names.items()}
        total = 0.0
        for needed, all_of, paired in (
            (self.needed[1], target.types, names),
            (self.needed[0], mine.types, back),
        ):
            total += sum((MODULE if one in needed else LOOSE) for one in all_of if one not in paired)
        for t, m in names.items():
            total += self.apart(t, m)
        wanted = self.keyed(self.target, names)
        there = self.keyed(self.mine, None)
        for key, depths in wanted.items():
            total += lines_apart(depths, there.get(key, []))
        total += sum(LINE * len(depths) for key, depths in there.items() if key not in wanted)
        return total

    def apart(self, t: str, m: str) -> float:
        """Return what the settings of two modules that are paired cost."""
        known = self._apart.get((t, m))
        if known is None:
            one, other = self.target.own(t), self.mine.own(m)
            known = sum(
                CHOICE if isinstance(value, str) else NUMBER
                for name, value in one.items()
                if not same(value, other[name])
            )
            known += NUMBER * (self.target.in_channels(t) != self.mine.in_channels(m))
            self._apart[t, m] = known
        return known

    def keyed(self, form: Form, names: Names | None) -> dict[tuple[Hashable, ...], list[float]]:
        """Return the depths of lines by what they join, under the names of mine."""
        if names is None and form.lines:
            return form.lines
        found: dict[tuple[Hashable, ...], list[float]] = defaultdict(list)
        for way, depth in form.plain.lines.items():
            found[key_of(form, way, names)].append(depth)
        if names is None:
            form.lines = dict(found)
        return found


def key_of(form: Form, way: Way, names: Names | None) -> tuple[Hashable, ...]:
    """Return what a line joins, whatever the channel, under other names."""

    def name(module: str) -> str:
        return module if names is None else names.get(module, f"?{module}")

    sources = tuple(sorted((name(port.module), port.name) for port in way.factors))
    return sources, name(way.target.module), form.port(way.target.module, way.target.name)


def lines_apart(wanted: list[float], there: list[float]) -> float:
    """Return what the lines between the same ports cost: those too many or too few, and other depths."""
    left = list(there)
    unmet = 0
    for depth in wanted:
        hit = next((one for one in left if alike(one, depth)), None)
        if hit is None:
            unmet += 1
        else:
            left.remove(hit)
    others = min(unmet, len(left))
    return DEPTH * others + LINE * (unmet + len(left) - 2 * others)


def same(one: Value, other: Value) -> bool:
    """Tell whether two settings are the same but for the noise of arithmetic."""
    if isinstance(one, int | float) and isinstance(other, int | float):
        return alike(float(one), float(other))
    return one == other


def nearness(one: Value, other: Value) -> float:
    """Return how near two settings are, 0 to 1."""
    if same(one, other):
        return 1.0
    if isinstance(one, int | float) and isinstance(other, int | float):
        return 0.5 / (1.0 + abs(float(one) - float(other)) / max(abs(float(one)), abs(float(other)), 1e-3))
    return 0.0


Beside = dict[tuple[Hashable, ...], list[str]]


def neighbours(form: Form) -> dict[str, Beside]:
    """Return, for each module, the modules at the other end of its lines, by how they are joined."""
    found: dict[str, Beside] = defaultdict(lambda: defaultdict(list))
    for way in form.plain.lines:
        module, into = way.target.module, form.port(way.target.module, way.target.name)
        for port in way.factors:
            count = len(way.factors)
            found[module]["into", into, port.name, count].append(port.module)
            found[port.module]["from", port.name, into, count].append(module)
    return found


def shared(one: Beside, other: Beside, likeness: Mapping[tuple[str, str], float]) -> float:
    """Return how much the neighbours of two modules have in common: each taken once, the likest first; 1 if all."""
    total, count = 0.0, 0
    for key in {*one, *other}:
        ts, ms = one.get(key, []), other.get(key, [])
        count += max(len(ts), len(ms))
        if len(ts) == 1 and len(ms) == 1:
            total += likeness.get((ts[0], ms[0]), 0.0)
        elif ts and ms:
            grid = np.array([[likeness.get((t, m), 0.0) for m in ms] for t in ts])
            rows, columns = scipy.optimize.linear_sum_assignment(-grid)
            total += float(grid[rows, columns].sum())
    return total / count / (1.0 + NEIGHBOURS) if count else 0.5
