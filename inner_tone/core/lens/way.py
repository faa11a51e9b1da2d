"""The way of the sound whose response is measured: through one filter, or from one to where its outputs meet again."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.analysis.sentences.response import steered_clause
from inner_tone.core.engine.probe import Path
from inner_tone.core.lens.source import Played
from inner_tone.core.modules.theory import ResponseTheory
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Module
from inner_tone.core.patch.port import Port
from inner_tone.core.units import with_unit

SAME = 0.01  # of a value: so little is no movement
LEAST = 1e-6


@dataclass(frozen=True)
class Way:
    """Modules that sound goes through; `single` where it is only one. What steers them is said in `steered`."""

    path: Path
    single: Module | None = None
    steered: tuple[Clause, ...] = ()


def way_of(graph: Graph, tap: Port, begin: Port | None = None) -> Way | None:
    """Return the way to a tap: from a port, if one leads there, else from the filter that all its sound passes."""
    if tap.module not in graph.modules or tap.name not in graph.declared(tap.module).outputs_by_name:
        return None
    into: tuple[Port, ...] = (begin,) if begin is not None and between(graph, begin.module, tap.module) else ()
    if not into:
        first = filter_before(graph, tap)
        if first is None:
            return None
        into = graph.ways(first)
    names = between(graph, into[0].module, tap.module)
    modules = tuple(module for module in graph.patch.modules if module.id in names)
    lines = tuple(one for one in graph.patch.connections if {*one.modules} <= names and one.target not in into)
    single = modules[0] if len(modules) == 1 and isinstance(modules[0].declaration.theory, ResponseTheory) else None
    return Way(Path(modules, lines, into, tap), single)


def filter_before(graph: Graph, tap: Port) -> str | None:
    """Return the nearest module with a response through which all sound that comes to a tap has gone."""
    if isinstance(graph.declared(tap.module).theory, ResponseTheory):
        return tap.module
    waiting, seen = [tap.module], {tap.module}
    while waiting:
        name = waiting.pop(0)
        for line in graph.sound_into(name):
            if line.source.module in seen:
                continue
            seen.add(line.source.module)
            waiting.append(line.source.module)
            declared = graph.declared(line.source.module)
            if isinstance(declared.theory, ResponseTheory) and gathers(graph, line.source.module, tap.module):
                return line.source.module
    return None


def gathers(graph: Graph, gate: str, end: str) -> bool:
    """Tell whether all sound that comes to the end has gone through the gate."""
    waiting, seen = [end], {end}
    while waiting:
        lines = graph.sound_into(waiting.pop())
        if not lines:
            return False  # a source of its own
        for name in (line.source.module for line in lines):
            if name != gate and name not in seen:
                seen.add(name)
                waiting.append(name)
    return True


def between(graph: Graph, first: str, last: str) -> set[str]:
    """Return the modules that sound from the first goes through on its way to the last, both included."""
    ahead = reached(first, lambda name: [line.target.module for line in graph.sound_from(name)])
    back = reached(last, lambda name: [line.source.module for line in graph.sound_into(name)])
    return ahead & back


def reached(first: str, step: Callable[[str], list[str]]) -> set[str]:
    """Return what can be reached from a module, itself included."""
    found, waiting = {first}, [first]
    while waiting:
        for name in step(waiting.pop()):
            if name not in found:
                found.add(name)
                waiting.append(name)
    return found


def steered_ports(graph: Graph, way: Way) -> list[Port]:
    """Return the inputs on a way that are steered from outside."""
    inside = {line.target for line in way.path.lines}
    return [
        port
        for module in way.path.modules
        for declared in module.declaration.inputs
        if not declared.goes_through
        and declared.name in module.all_settings
        and (port := Port.of(module.id, declared.name)) not in inside
        and graph.coming(port)
    ]


def held(way: Way | None, source: Played) -> Way | None:
    """Return a way whose steered settings stand as they do in the middle of the moment, with what steers them said."""
    if way is None:
        return None
    modules = {module.id: module for module in way.path.modules}
    steered = []
    for port in steered_ports(source.graph, way):
        sound = source.sound(port)
        if sound is None:
            continue
        seen = sound.excerpt(source.span.begin_s, source.span.end_s, source.gates(way.path.out))
        closes = min((closes for _, closes in seen.gates_s), default=seen.begin_s + seen.seconds)
        part = seen.signal[: max(1, round((closes - seen.begin_s) * seen.rate))]
        if len(part) == 0:
            continue
        value, low, high = (float(np.percentile(part, at)) for at in (50, 1, 99))
        module = modules[port.module]
        modules[port.module] = module.model_copy(update={"settings": {**module.settings, port.name: value}})
        ruler = module.declaration.input(port.name).ruler
        still = high - low < SAME * max(abs(value), LEAST)
        least, most, taken = (with_unit(one, ruler.unit if ruler else "") for one in (low, high, value))
        steered.append(steered_clause(port.name, taken if still else least, taken if still else most, taken))
    path = replace(way.path, modules=tuple(modules.values()))
    return replace(way, path=path, single=modules[way.single.id] if way.single else None, steered=tuple(steered))
