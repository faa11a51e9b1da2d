"""Putting a module into several lines at once: into each path that they form, so that two sides stay two sides."""

from collections.abc import Iterable, Sequence

from inner_tone.core.patch.edit import fresh_id
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Connection, Module
from inner_tone.core.patch.moves import Edit, Ends, InsertModule

Path = tuple[Connection, ...]


def paths_of(lines: Iterable[Connection]) -> list[Path]:
    """Return lines path by path: the sources that lead to the very same places, equally deep, sum there already.

    What is put into a path as a whole adds nothing up that was not added up before, and leaves everything as it was
    when it is taken out again.
    """
    leading: dict[object, list[Connection]] = {}
    for line in lines:
        leading.setdefault(line.source, []).append(line)
    paths: dict[object, list[Connection]] = {}
    for going in leading.values():
        whither = frozenset((line.target, line.depth, line.scaled_by, line.off) for line in going)
        paths.setdefault(whither, []).extend(going)
    return [tuple(path) for path in paths.values()]


def sides_of(graph: Graph, paths: Sequence[Path]) -> list[str]:
    """Return for each path the side on which it is heard, or nothing where it is none."""
    found: list[str] = []
    for path in paths:
        ears = {graph.output_at(line.source).ear or graph.input(line.target).ear for line in path}
        found.append(ears.pop() if len(ears) == 1 else "")
    return found


def are_two_sides(graph: Graph, lines: Iterable[Connection]) -> bool:
    """Tell whether lines are the left and the right side of one sound."""
    return sorted(sides_of(graph, paths_of(lines))) == ["left", "right"]


def inserted(graph: Graph, module: Module, lines: Sequence[Connection]) -> tuple[tuple[Module, ...], tuple[Edit, ...]]:
    """Return what is put into some lines, a module for each path that they form, and the edits that do it."""
    paths = paths_of(lines)
    taken = {*graph.modules}
    copies: list[Module] = []
    edits: list[Edit] = []
    for side, path in zip(sides_of(graph, paths), paths, strict=True):
        name = fresh_id(taken, module.id)
        taken.add(name)
        changes = {"id": name} | ({"label": f"{module.title[:50]} {side or len(copies) + 1}"} if len(paths) > 1 else {})
        copies.append(module.model_copy(update=changes))
        edits.append(InsertModule(module=copies[-1], lines=tuple(Ends.of(line) for line in path)))
    return tuple(copies), tuple(edits)
