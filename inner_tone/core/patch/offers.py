"""Offers: where an output could lead and what could come into an input, the sensible first, each with its reason."""

from dataclasses import dataclass

from inner_tone.core.modules.declaration import Input, Law, Output
from inner_tone.core.patch.model import Connection, Module, Patch
from inner_tone.core.patch.ports import THROUGH, input_of, output_of, sources_of

FOLLOWS, SENSIBLE, USEFUL, POSSIBLE, ODD = range(5)
OFTEN = ("level", "cutoff", "width", "position", "drive", "pitch", "rate")
OFTEN_BY_LFO = ("pitch", "cutoff", "width", "position", "level")
UNIT_WORDS = {
    "st": "semitones",
    "oct": "octaves",
    "Hz": "hertz",
    "s": "seconds",
    "dB": "decibels",
    "rad": "radians",
}


@dataclass(frozen=True)
class Offer:
    """A connection that could be drawn, with its reason; those of a lower rank make more sense."""

    line: Connection
    reason: str
    rank: int
    present: bool


def offers_from(patch: Patch, source: str) -> list[Offer]:
    """Return what an output could be connected to, the most sensible first."""
    targets = [f"{module.id}.{port.name}" for module in patch.modules for port in module.declaration.inputs]
    often = wanted_by(patch.by_id[source.partition(".")[0]].type)
    order = {name: place for place, name in enumerate(often)}
    found = [offer(patch, source, target) for target in targets]
    return sorted(found, key=lambda one: (*urgency(one), order.get(one.line.target.partition(".")[2], len(often))))


def offers_to(patch: Patch, target: str) -> list[Offer]:
    """Return what could be connected to an input, the most sensible first."""
    sources = [f"{module.id}.{port.name}" for module in patch.modules for port in module.declaration.outputs]
    return sorted((offer(patch, source, target) for source in sources), key=urgency)


def urgency(one: Offer) -> tuple[bool, int]:
    """Return by what offers are sorted: what is there already comes last of all."""
    return one.present, one.rank


def offer(patch: Patch, source: str, target: str) -> Offer:
    """Return the offer to connect two ports."""
    output, port = output_of(patch, source), input_of(patch, target)
    module = patch.by_id[target.partition(".")[0]]
    rank = rank_of(patch, source, target)
    line = Connection(source=source, target=target, depth=usual_depth(patch, source, target))
    present = any(one.ends == line.ends for one in patch.connections)
    return Offer(line, reason_of(output, port, module), rank, present)


def rank_of(patch: Patch, source: str, target: str) -> int:
    """Return how much sense a connection makes."""
    output, port = output_of(patch, source), input_of(patch, target)
    ids = source.partition(".")[0], target.partition(".")[0]
    through = bool(THROUGH.match(port.name))
    if ids[0] == ids[1]:
        return ODD
    if output.kind == "pitch" and port.kind == "pitch":
        return FOLLOWS
    if output.kind == "gate" and port.kind == "gate":
        return FOLLOWS if port.name == "gate" else USEFUL
    if output.kind == "audio" and through and port.kind == "audio":
        return FOLLOWS if not sources_of(patch, target) else SENSIBLE
    if output.kind == "control" and port.kind in ("control", "pitch") and not through:
        often = wanted_by(patch.by_id[ids[0]].type)[:2]
        return FOLLOWS if port.name in often and not sources_of(patch, target) else SENSIBLE
    if output.kind == "gate" and port.kind == "control":
        return USEFUL
    if output.kind == "control" and through and port.kind in ("control", "pitch"):
        return USEFUL
    return POSSIBLE


def wanted_by(kind: str) -> tuple[str, ...]:
    """Return the inputs that a type of module steers most often, the most frequent first."""
    return OFTEN_BY_LFO if kind == "lfo" else OFTEN


def reason_of(output: Output, port: Input, module: Module) -> str:
    """Return what a connection would do."""
    if module.type == "output":
        return f"is heard on the {port.name}"
    if port.kind == "pitch" and output.kind == "pitch":
        return "it follows the keys" if output.name == "pitch" else "sets the pitch"
    if THROUGH.match(port.name):
        return "goes through it"
    if port.kind == "gate":
        return {"gate": "opens and closes it", "reset": "starts its cycle anew"}.get(port.name, f"acts on {port.name}")
    unit = UNIT_WORDS.get(port.depth_unit)
    return f"steers {port.name}, in {unit}" if unit else f"steers {port.name}"


def usual_depth(patch: Patch, source: str, target: str) -> float:
    """Return a depth, in the input's unit, at which a new connection is heard without going to extremes."""
    output, port = output_of(patch, source), input_of(patch, target)
    kind = patch.by_id[source.partition(".")[0]].type
    carries_units = output.kind == "pitch" or kind in ("steps", "lever", "arithmetic", "scale")
    if THROUGH.match(port.name) or port.kind == "gate":
        return 1.0
    if port.kind == "pitch":
        return 1.0 if carries_units else 12.0 if kind in ("envelope", "player") else 0.5
    if port.law is Law.SEMITONES:
        return 1.0 if output.kind == "pitch" else 24.0
    if port.law is Law.OCTAVES:
        return 1.0
    return port.usual or usual_on(port)


def usual_on(port: Input) -> float:
    """Return half of an input's range, rounded to one place: what moves it far and leaves it on its ruler."""
    if port.ruler is None:
        return 1.0
    half = 0.5 * (port.ruler.high - port.ruler.low)
    return float(f"{half:.1g}")
