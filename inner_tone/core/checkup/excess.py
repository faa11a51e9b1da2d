"""Too much and too little: values that are driven far beyond their rulers, and a sound that is taken for silence."""

import math
from collections.abc import Iterator

from inner_tone.core.checkup.finding import Finding, Remedy
from inner_tone.core.checkup.scene import SILENT, Scene
from inner_tone.core.message import Name, Number, Opening, Quantity, say
from inner_tone.core.modules.declaration import Input, Law, Ruler
from inner_tone.core.patch.depth import usual_depth
from inner_tone.core.patch.model import Connection
from inner_tone.core.patch.moves import ChangeLine, Edit, Ends, SetValue

FARTHER = 2.0  # times the number at the end of a ruler: nobody means that
QUIET_DB = -50.0
WANTED_DB = -12.0
FAINT = 0.1  # a depth that takes so much away that it is the one to blame


def driven_too_far(scene: Scene) -> Iterator[Finding]:
    """Yield a finding for each connection that moves a value farther than its whole ruler is long."""
    for line in scene.patch.connections:
        port, measure = scene.graph.input(line.target), scene.measure(line.source)
        if port.ruler is None or port.part not in ("steer", "pitch") or measure is None:
            continue
        if line.target.module not in scene.heard or scene.graph.output_at(line.source).kind == "pitch":
            continue
        strength = measure.peak * (scene.peak(line.scaled_by) if line.scaled_by else 1.0)
        moved, whole = abs(line.depth) * strength, length_of(port, port.ruler)
        if moved > whole:
            yield too_far(scene, line, moved, whole, strength)


def length_of(port: Input, ruler: Ruler) -> float:
    """Return how far an input's value can be moved sensibly, in the unit of its depths."""
    if port.law is Law.LINEAR and port.kind != "pitch":
        return FARTHER * max(abs(ruler.low), abs(ruler.high))
    if port.law is Law.LINEAR:
        return ruler.high - ruler.low
    octaves = math.log2(ruler.high / max(ruler.low, ruler.step))
    return octaves if port.law is Law.OCTAVES else 12.0 * octaves


def too_far(scene: Scene, line: Connection, moved: float, whole: float, strength: float) -> Finding:
    """Return the finding that a connection moves a value too far, with a depth that fits."""
    port = scene.graph.input(line.target)
    unit = port.depth_unit
    declared = scene.graph.declared(line.source.module)
    usual = usual_depth(declared, scene.graph.output_at(line.source), port)
    wanted = min(usual, 0.5 * whole / FARTHER / strength) if "numbers" in declared.traits else usual
    depth = math.copysign(float(f"{wanted:.2g}"), line.depth)
    source, name = scene.port_title(line.source), port.words
    return Finding(
        "too-far",
        line.target.module,
        line.target.name,
        say(
            "check.moves-the-of-by",
            source=Opening(source),
            name=name,
            target=scene.title(line.target),
            moved=Quantity(moved, unit),
        ),
        say("check.where-are-the-utmost", moved=Quantity(moved, unit), whole=Quantity(whole, unit)),
        say("check.what-lies-beyond-the"),
        Remedy(
            say("check.set-the-depth", depth=Quantity(depth, unit)),
            (ChangeLine(line=Ends.of(line), depth=depth),),
        ),
    )


def too_quiet(scene: Scene) -> Iterator[Finding]:
    """Yield the finding that all that is heard is so quiet that it will be taken for silence."""
    loudest = scene.loudest_ear(lambda one: one.peak)
    output = scene.output
    if output is None or loudest is None:
        return
    level = output.number("level")
    peak_db = 20.0 * math.log10(max(loudest.peak, SILENT)) + level
    if peak_db >= QUIET_DB:
        return
    faint = [line for line in scene.sound_lines() if abs(line.depth) < FAINT and scene.sounds(line.source)]
    low = level < WANTED_DB
    name = scene.title(faint[0].target) if faint else Name(output.title)
    where = (
        say("check.line-takes-away", source=scene.title(faint[0].source), name=name)
        if faint
        else (
            say("check.output-low", output=Name(output.title), level=Quantity(level, "dB"))
            if low
            else say("check.it-comes-in-so")
        )
    )
    yield Finding(
        "too-quiet",
        faint[0].target.module if faint else output.id,
        faint[0].target.name if faint else "level",
        say("check.all-of-it-is", where=where),
        say("check.at-most-db", peak=Number(peak_db, 2)),
        say("check.whoever-turns-the-room"),
        louder(scene, faint, peak_db),
    )


def louder(scene: Scene, faint: list[Connection], peak_db: float) -> Remedy:
    """Return what brings a sound up: full depth where one is faint, else the output's level as far as it goes."""
    output = scene.output
    assert output is not None
    if faint:
        edits: tuple[Edit, ...] = tuple(ChangeLine(line=Ends.of(line), depth=1.0) for line in faint)
        return Remedy(say("check.set-the-depth-to-1"), edits)
    ruler = output.declaration.rulers["level"]
    wanted = min(ruler.high, math.floor(2.0 * (output.number("level") + WANTED_DB - peak_db)) / 2.0)
    words = say("check.turn-up-to", output=Name(output.title), wanted=Quantity(wanted, "dB"))
    return Remedy(words, (SetValue(module=output.id, setting="level", value=wanted),))
