"""Patches in which several lines run between the same modules, some scaled, some by each other; and changes of them.

What such a patch computes is told here without anything of the product: for each input, a sum of products of outputs.
Every module differs from all others in a setting, so two patches are the same exactly when these sums are.
"""

import random
from collections import defaultdict
from typing import Any

from inner_tone.core.patch.model import Connection, Patch
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.validate import checked_patch, read_patch

STEERING = ("push.out", "slow.out", "quick.out", "hand.out", "player.wheel", "player.velocity")
STEERED = ("loud.level", "bell.cutoff", "reed.pitch", "depth.level", "bell.resonance")
DEPTHS = (0.25, 0.5, 0.6, 1.0, 1.5)
MOST_LINES = 5  # into one input
FRAME: tuple[tuple[Any, ...], ...] = (
    ("player.pitch", "reed.pitch"),
    ("player.gate", "push.gate"),
    ("reed.out", "bell.in"),
    ("bell.out", "loud.in"),
    ("loud.out", "out.left"),
    ("loud.out", "out.right"),
    ("slow.out", "depth.in"),
    ("depth.out", "bell.cutoff", 7.0),
)
MODULES: dict[str, tuple[str, dict[str, Any]]] = {
    "player": ("player", {}),
    "reed": ("oscillator", {"wave": "saw"}),
    "bell": ("filter", {"cutoff": 500}),
    "loud": ("amplifier", {"level": 0.1}),
    "depth": ("amplifier", {"level": 0.2}),
    "push": ("envelope", {"attack": 0.1}),
    "slow": ("lfo", {"rate": 0.5}),
    "quick": ("lfo", {"rate": 6}),
    "hand": ("lever", {"high": 0.8}),
    "out": ("output", {}),
}
Sums = dict[tuple[str, tuple[str, ...]], float]


def line_of(source: str, target: str, depth: float = 1.0, scale: str | None = None) -> Connection:
    """Return a connection."""
    return Connection(source=Port(source), target=Port(target), depth=depth, scaled_by=Port(scale) if scale else None)


def woven(dice: random.Random) -> Patch:
    """Return a patch with several lines into most of its inputs, each steered by something."""
    lines = {line.ends: line for line in (line_of(*one) for one in FRAME)}
    for target in STEERED:
        for source in dice.sample(STEERING, dice.randint(1, MOST_LINES)):
            line = line_of(source, target, dice.choice(DEPTHS), scale_for(dice, source))
            lines.setdefault(line.ends, line)
    for source in ("slow.out", "quick.out", "hand.out", "push.out"):  # so that all of them are heard
        line = line_of(source, "loud.level", 0.25)
        lines.setdefault(line.ends, line)
    document = {
        "format": "inner-tone/patch",
        "version": 1,
        "modules": [{"id": name, "type": kind, "settings": each} for name, (kind, each) in MODULES.items()],
    }
    return with_lines(read_patch(document), lines.values())


def scale_for(dice: random.Random, source: str) -> str | None:
    """Return what a line is scaled by, as often as not nothing."""
    return dice.choice([one for one in STEERING if one != source]) if dice.random() < 0.5 else None


def with_lines(patch: Patch, lines: Any) -> Patch:
    """Return a patch with other lines."""
    return checked_patch(patch.model_copy(update={"connections": tuple(lines)}))


def sums_of(patch: Patch) -> Sums:
    """Return what each input adds up, by its name and the names of what is multiplied."""
    found: Sums = defaultdict(float)
    for line in patch.connections:
        found[str(line.target), tuple(sorted(map(str, line.read)))] += line.depth
    return {place: round(depth, 9) for place, depth in found.items() if abs(depth) > 1e-9}


def rewoven(patch: Patch, dice: random.Random) -> Patch:
    """Return a patch with one change of its steering lines, which may or may not change what it computes."""
    lines = {line.ends: line for line in patch.connections}
    frame = {line_of(*one).ends for one in FRAME}
    loose = [line for line in patch.connections if line.ends not in frame]
    if not loose:
        return patch
    one = dice.choice(loose)
    last = sum(line.target == one.target for line in patch.connections) == 1
    match dice.choice(("turn", "turn", "scale", "unscale", "depth", "take", "join", "join", "put", "move")):
        case "turn" if one.scaled_by and (one.scaled_by, one.target) not in lines:
            del lines[one.ends]
            put(lines, one.model_copy(update={"source": one.scaled_by, "scaled_by": one.source}))
        case "scale":
            scale = dice.choice([each for each in STEERING if each != one.source])
            put(lines, one.model_copy(update={"scaled_by": Port(scale)}))
        case "unscale":
            put(lines, one.model_copy(update={"scaled_by": None}))
        case "depth":
            put(lines, one.model_copy(update={"depth": dice.choice(DEPTHS)}))
        case "take" if not last and one.target.module != "loud":
            del lines[one.ends]
        case "join":  # two lines become one, the one scaled by the other's source
            others = [other for other in loose if other.target == one.target and other.source != one.source]
            if others and one.target.module != "loud":
                other = dice.choice(others)
                del lines[other.ends]
                put(lines, one.model_copy(update={"scaled_by": other.source, "depth": other.depth}))
        case "put":
            source = dice.choice(STEERING)
            put(lines, line_of(source, one.target, dice.choice(DEPTHS), scale_for(dice, source)))
        case "move":
            target = Port(dice.choice(STEERED))
            if not last and one.target.module != "loud" and (one.source, target) not in lines:
                del lines[one.ends]
                put(lines, one.model_copy(update={"target": target}))
    return with_lines(patch, lines.values())


def put(lines: dict[tuple[Port, Port], Connection], line: Connection) -> None:
    """Put a line in, in the place of one between the same ends."""
    lines[line.ends] = line
