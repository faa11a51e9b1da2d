"""The order in which modules are computed, and where a loop is closed."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property

from inner_tone.core.patch.model import Patch, split_port

Graph = dict[str, list[str]]


@dataclass(frozen=True)
class Schedule:
    """Groups of modules in the order of computation; a group that is a loop runs sample by sample."""

    groups: tuple[tuple[str, ...], ...]
    loops: tuple[bool, ...]

    @cached_property
    def order(self) -> dict[str, int]:
        """Each module's place in the order."""
        return {name: place for place, name in enumerate(name for group in self.groups for name in group)}

    def lag(self, source: str, target: str) -> int:
        """Return the delay in samples of a line between two modules: 1 where it closes a loop, else 0."""
        return int(self.order[source] >= self.order[target])


def schedule(patch: Patch) -> Schedule:
    """Return the modules in topological order, those that feed each other joined into groups."""
    graph = successors(patch)
    groups = [inner_order(graph, group) for group in strongly_connected(graph)]
    loops = [len(group) > 1 or group[0] in graph[group[0]] for group in groups]
    return Schedule(tuple(groups), tuple(loops))


def successors(patch: Patch) -> Graph:
    """Return, for each module, the modules that it feeds, in the order of the patch."""
    graph: Graph = {module.id: [] for module in patch.modules}
    for connection in patch.connections:
        target = split_port(connection.target)[0]
        for port in (connection.source, connection.scaled_by):
            if port is not None and target not in graph[split_port(port)[0]]:
                graph[split_port(port)[0]].append(target)
    return graph


def strongly_connected(graph: Graph) -> list[list[str]]:
    """Return the strongly connected components, sources first.

    R. Tarjan, "Depth-first search and linear graph algorithms", SIAM J. Comput. 1 (1972), without recursion.
    """
    number: dict[str, int] = {}
    lowest: dict[str, int] = {}
    stack: list[str] = []
    on_stack: set[str] = set()
    components: list[list[str]] = []
    for root in reversed(graph):
        work = [(root, iter(graph[root]))] if root not in number else []
        while work:
            node, rest = work[-1]
            if node not in number:
                number[node] = lowest[node] = len(number)
                stack.append(node)
                on_stack.add(node)
            following = next(rest, None)
            if following is None:
                work.pop()
                if work:
                    lowest[work[-1][0]] = min(lowest[work[-1][0]], lowest[node])
                if lowest[node] == number[node]:
                    components.append(unwind(stack, on_stack, node))
            elif following not in number:
                work.append((following, iter(graph[following])))
            elif following in on_stack:
                lowest[node] = min(lowest[node], number[following])
    return components[::-1]


def unwind(stack: list[str], on_stack: set[str], root: str) -> list[str]:
    """Take a finished component off the stack."""
    component: list[str] = []
    while not component or component[-1] != root:
        component.append(stack.pop())
        on_stack.discard(component[-1])
    return component[::-1]


def inner_order(graph: Graph, group: Sequence[str]) -> tuple[str, ...]:
    """Return a loop's modules so that only what closes a loop points backwards.

    The order begins at a module that is fed from outside the loop, where there is one.
    """
    inside = set(group)
    fed = {target for source in graph if source not in inside for target in graph[source] if target in inside}
    starts = sorted(group, key=lambda name: (name not in fed, list(graph).index(name)))
    return tuple(reverse_postorder(graph, starts, inside))


def reverse_postorder(graph: Graph, starts: Iterable[str], inside: set[str]) -> list[str]:
    """Return the modules `inside` by depth-first search, each before what it feeds."""
    seen: set[str] = set()
    order: list[str] = []

    def visit(name: str) -> None:
        seen.add(name)
        for following in graph[name]:
            if following in inside and following not in seen:
                visit(following)
        order.append(name)

    for start in starts:
        if start not in seen:
            visit(start)
    return order[::-1]
