"""Offers: where an output could lead and what could come into an input, the sensible first, each with its reason."""

from dataclasses import dataclass

from inner_tone.core.message import Message, Name, say
from inner_tone.core.modules import OUTPUT
from inner_tone.core.modules.declaration import Input, Output
from inner_tone.core.modules.oscillator import MIDDLE_C_HZ
from inner_tone.core.patch.depth import depth_from
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Connection, Module
from inner_tone.core.patch.moves import Connect, Edit, SetValue
from inner_tone.core.patch.port import Port
from inner_tone.core.units import plural

FOLLOWS, SENSIBLE, USEFUL, POSSIBLE, ODD = range(5)


@dataclass(frozen=True)
class Offer:
    """A connection that could be drawn, with its reason; those of a lower rank make more sense.

    `weighs`, where what is offered is to say how strong a line is that is there already: then `line` is that one,
    scaled. `also` is what has to be set so that the connection means what it says.
    """

    line: Connection
    said: Message
    rank: int
    present: bool
    weighs: bool = False
    also: tuple[SetValue, ...] = ()

    @property
    def reason(self) -> str:
        """Why it makes sense, in words."""
        return str(self.said)

    @property
    def edits(self) -> tuple[Edit, ...]:
        """The edits that draw it."""
        return (Connect(line=self.line), *self.also)


def offers_from(graph: Graph, source: Port) -> list[Offer]:
    """Return what an output could be connected to, the most sensible first."""
    often = graph.declared(source.module).often
    order = {name: place for place, name in enumerate(often)}
    found = [offer(graph, source, target) for target, _ in graph.inputs()]
    found += [weighing(graph, source, line) for line in graph.patch.connections if can_weigh(graph, source, line)]

    def place(one: Offer) -> tuple[int, bool]:
        return order.get(one.line.target.name, len(often)), graph.input(one.line.target).rare

    return sorted(found, key=lambda one: (*urgency(one), *place(one)))


def offers_to(graph: Graph, target: Port) -> list[Offer]:
    """Return what could be connected to an input, the most sensible first."""
    return sorted((offer(graph, source, target) for source, _ in graph.outputs()), key=urgency)


def urgency(one: Offer) -> tuple[bool, int, bool]:
    """Return by what offers are sorted: what is there already comes last of all, what weighs a line before others."""
    return one.present, one.rank, not one.weighs


def offer(graph: Graph, source: Port, target: Port) -> Offer:
    """Return the offer to connect two ports."""
    output, port = graph.output_at(source), graph.input(target)
    line = Connection(source=source, target=target, depth=depth_from(graph.module(source), output, port))
    present = graph.between(source, target) is not None
    if graph.per_octave(line):
        return keyed(graph, line, present)
    return Offer(line, reason_of(output, port, graph.module(target)), rank_of(graph, source, target), present)


def keyed(graph: Graph, line: Connection, present: bool) -> Offer:
    """Return the offer to let a time or a rate follow the keys: a time then lasts a cycle of the note."""
    port = graph.input(line.target)
    assert port.ruler is not None, line.target
    if port.ruler.unit != "s":
        return Offer(line.model_copy(update={"depth": 1.0}), say("offer.follows-the-keys-twice"), USEFUL, present)
    falling = line.model_copy(update={"depth": -1.0})
    cycle = 1.0 / MIDDLE_C_HZ
    if not port.tuned or graph.coming(line.target):
        return Offer(falling, say("offer.follows-the-keys-half"), POSSIBLE, present)
    also = SetValue(module=line.target.module, setting=line.target.name, value=cycle)
    return Offer(falling, say("offer.is-tuned-to-the"), USEFUL, present, also=(also,))


def can_weigh(graph: Graph, source: Port, line: Connection) -> bool:
    """Tell whether an output could say how strong a line is: it is a movement or sound, and no end of the line."""
    kind, by = graph.output_at(source).kind, graph.output_at(line.source).kind
    return kind in ("control", "audio") and by in ("control", "audio") and source.module not in line.modules


def weighing(graph: Graph, source: Port, line: Connection) -> Offer:
    """Return the offer to let an output say how strong a line is."""
    port = graph.input(line.target)
    rank = POSSIBLE if port.goes_through or graph.output_at(source).kind == "audio" else USEFUL
    if graph.declared(source.module).family == "play":
        rank = FOLLOWS if graph.declared(line.source.module).named("rate") else rank
    if line.scaled_by not in (None, source):
        rank = ODD
    scaled = line.model_copy(update={"scaled_by": source})
    return Offer(
        scaled, say("offer.weighs", how=how_strongly(graph, line)), rank, line.scaled_by == source, weighs=True
    )


def how_strongly(graph: Graph, line: Connection) -> Message:
    """Return what is steered where a line is weighed, in words."""
    port = graph.input(line.target)
    source, target = Name(graph.module(line.source).title), Name(graph.module(line.target).title)
    if port.goes_through:
        return say("offer.how-strongly-goes-into", source=source, target=target)
    if graph.output_at(line.source).kind == "audio":
        return say("offer.how-strongly-moves", source=source, target=target)
    return say("offer.how-strongly-moves-the", source=source, port=port.words, target=target)


def rank_of(graph: Graph, source: Port, target: Port) -> int:
    """Return how much sense a connection makes."""
    output, port = graph.output_at(source), graph.input(target)
    if source.module == target.module or not graph.declared(target.module).works(
        port, graph.module(target).all_settings
    ):
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


def reason_of(output: Output, port: Input, module: Module) -> Message:
    """Return what a connection would do."""
    if module.type == OUTPUT:
        return say("offer.is-heard-on-the", ear=port.ear)
    if port.kind == "pitch" and output.kind == "pitch":
        return say("offer.it-follows-the-keys") if output.name == "pitch" else say("offer.sets-the-pitch")
    if port.goes_through:
        return say("offer.goes-through-it")
    if port.kind == "gate":
        return say("offer.does", does=port.does) if port.does else say("offer.acts-on", port=port.name)
    unit = "" if port.called else plural(port.depth_unit)
    return say("offer.steers-in", port=port.words, unit=unit) if unit else say("offer.steers", port=port.words)
