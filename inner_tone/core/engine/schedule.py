"""The order in which modules are computed, and where a loop is closed."""

from collections.abc import Hashable, Iterable, Sequence
from dataclasses import dataclass
from graphlib import CycleError, TopologicalSorter
from typing import Generic, TypeVar

Node = TypeVar("Node", bound=Hashable)
Feeds = dict[Node, list[Node]]  # what each node feeds


@dataclass(frozen=True)
class Schedule(Generic[Node]):
    """Groups of nodes in the order of computation; a group that is a loop runs sample by sample."""

    groups: tuple[tuple[Node, ...], ...]
    loops: tuple[bool, ...]


def schedule(feeds: Feeds[Node]) -> Schedule[Node]:
    """Return nodes in topological order, those that feed each other joined into groups."""
    groups = in_order(feeds)
    loops = [len(group) > 1 or group[0] in feeds[group[0]] for group in groups]
    return Schedule(tuple(inner_order(feeds, group) for group in groups), tuple(loops))


def in_order(feeds: Feeds[Node]) -> list[list[Node]]:
    """Return the groups of nodes that feed each other, each behind those that feed it."""
    try:
        return [[node] for node in sorter(feeds, {node: node for node in feeds}).static_order()]
    except CycleError:
        leaders = leaders_of(feeds)
    groups: dict[Node, list[Node]] = {}
    for node in feeds:
        groups.setdefault(leaders[node], []).append(node)
    return [groups[leader] for leader in sorter(feeds, leaders).static_order()]


def sorter(feeds: Feeds[Node], leaders: dict[Node, Node]) -> "TopologicalSorter[Node]":
    """Return what sorts groups of nodes, each known by its leader."""
    found: TopologicalSorter[Node] = TopologicalSorter()
    for node, fed in feeds.items():
        found.add(leaders[node])
        for other in fed:
            if leaders[other] != leaders[node]:
                found.add(leaders[other], leaders[node])
    return found


def leaders_of(feeds: Feeds[Node]) -> dict[Node, Node]:
    """Return for each node the first of the strongly connected component that it belongs to."""
    from scipy.sparse import coo_array  # noqa: PLC0415 - takes a quarter of a second to load, and few patches have loops
    from scipy.sparse.csgraph import connected_components  # noqa: PLC0415

    nodes = list(feeds)
    places = {node: place for place, node in enumerate(nodes)}
    pairs = [(places[node], places[other]) for node in nodes for other in feeds[node]]
    sources, targets = zip(*pairs, strict=True)
    matrix = coo_array(([1] * len(pairs), (sources, targets)), shape=(len(nodes), len(nodes)))
    _, labels = connected_components(matrix, connection="strong")
    first: dict[int, Node] = {}
    return {node: first.setdefault(int(labels[place]), node) for place, node in enumerate(nodes)}


def inner_order(feeds: Feeds[Node], group: Sequence[Node]) -> tuple[Node, ...]:
    """Return a loop's nodes so that only what closes a loop points backwards.

    The order begins at a node that is fed from outside the loop, where there is one.
    """
    if len(group) == 1:
        return tuple(group)
    inside = set(group)
    fed = {target for source in feeds if source not in inside for target in feeds[source] if target in inside}
    places = {node: place for place, node in enumerate(feeds)}
    starts = sorted(group, key=lambda node: (node not in fed, places[node]))
    return tuple(reverse_postorder(feeds, starts, inside))


def reverse_postorder(feeds: Feeds[Node], starts: Iterable[Node], inside: set[Node]) -> list[Node]:
    """Return the nodes `inside` by depth-first search, each before what it feeds."""
    seen: set[Node] = set()
    order: list[Node] = []

    def visit(node: Node) -> None:
        seen.add(node)
        for following in feeds[node]:
            if following in inside and following not in seen:
                visit(following)
        order.append(node)

    for start in starts:
        if start not in seen:
            visit(start)
    return order[::-1]
