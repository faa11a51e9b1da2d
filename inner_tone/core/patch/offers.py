"""Offers: where an output could lead and what could come into an input, the sensible first, each with its reason."""

from dataclasses import dataclass

from inner_tone.core.modules import OUTPUT
from inner_tone.core.modules.declaration import Input, Output
from inner_tone.core.patch.depth import usual_depth
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Connection, Module
from inner_tone.core.patch.port import Port
from inner_tone.core.units import plural

FOLLOWS, SENSIBLE, USEFUL, POSSIBLE, ODD = range(5)


@dataclass(frozen=True)
class Offer:
    """A connection that could be drawn, with its reason; those of a lower rank make more sense."""

    line: Connection
    reason: str
    rank: int
    present: bool


def offers_from(graph: Graph, source: Port) -> list[Offer]:
    """Return what an output could be connected to, the most sensible first."""
    often = graph.declared(source.module).often
    order = {name: place for place, name in enumerate(often)}
    found = [offer(graph, source, target) for target, _ in graph.inputs()]
    return sorted(found, key=lambda one: (*urgency(one), order.get(one.line.target.name, len(often))))


def offers_to(graph: Graph, target: Port) -> list[Offer]:
    """Return what could be connected to an input, the most sensible first."""
    return sorted((offer(graph, source, target) for source, _ in graph.outputs()), key=urgency)


def urgency(one: Offer) -> tuple[bool, int]:
    """Return by what offers are sorted: what is there already comes last of all."""
    return one.present, one.rank


def offer(graph: Graph, source: Port, target: Port) -> Offer:
    """Return the offer to connect two ports."""
    output, port = graph.output_at(source), graph.input(target)
    line = Connection(source=source, target=target, depth=usual_depth(graph.declared(source.module), output, port))
    present = graph.between(source, target) is not None
    return Offer(line, reason_of(output, port, graph.module(target)), rank_of(graph, source, target), present)


def rank_of(graph: Graph, source: Port, target: Port) -> int:
    """Return how much sense a connection makes."""
    output, port = graph.output_at(source), graph.input(target)
    if source.module == target.module:
        return ODD
    if output.kind == "pitch" and port.kind == "pitch":
        return FOLLOWS
    if output.kind == "gate" and port.kind == "gate":
        return FOLLOWS if port.name == "gate" else USEFUL
    if output.kind == "audio" and port.goes_through and port.kind == "audio":
        return FOLLOWS if not graph.coming(target) else SENSIBLE
    if output.kind == "control" and port.part in ("steer", "pitch"):
        often = graph.declared(source.module).often[:2]
        return FOLLOWS if port.name in often and not graph.coming(target) else SENSIBLE
    if output.kind == "gate" and port.kind == "control":
        return USEFUL
    if output.kind == "control" and port.goes_through and port.kind in ("control", "pitch"):
        return USEFUL
    return POSSIBLE


def reason_of(output: Output, port: Input, module: Module) -> str:
    """Return what a connection would do."""
    if module.type == OUTPUT:
        return f"is heard on the {port.ear}"
    if port.kind == "pitch" and output.kind == "pitch":
        return "it follows the keys" if output.name == "pitch" else "sets the pitch"
    if port.goes_through:
        return "goes through it"
    if port.kind == "gate":
        return port.does or f"acts on {port.name}"
    unit = plural(port.depth_unit)
    return f"steers {port.name}, in {unit}" if unit else f"steers {port.name}"
