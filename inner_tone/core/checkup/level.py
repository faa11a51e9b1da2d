"""Level: what is too loud, what swings about another line than zero, and edges that click."""

import math
from collections.abc import Callable, Iterator

import numpy as np

from inner_tone.core.checkup.envelopes import is_envelope
from inner_tone.core.checkup.finding import Finding, Remedy
from inner_tone.core.checkup.remedies import with_envelope, with_high_pass
from inner_tone.core.checkup.scene import Jump, Scene
from inner_tone.core.engine.render import Render
from inner_tone.core.message import Name, Number, Quantity, say
from inner_tone.core.modules.declaration import Output, Role
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Connection, Module
from inner_tone.core.patch.moves import ChangeLine, Ends, SetValue
from inner_tone.core.patch.port import Port
from inner_tone.core.phrase import Phrase
from inner_tone.core.units import trimmed

MARGIN_DB = 1.0
NOMINAL = 1.25  # band-limited edges overshoot by a sixth, and nobody means that as too strong
LEAST_DC = 0.1
LEAST_DC_SHARE = 0.15  # of the RMS level
JUMP = 0.1  # of full level, from one sample to the next
HEARD = 0.01
GENTLE_S = 0.005
STEEP: tuple[Role, Role] = ("attack", "release")  # the stages that click where they are short


def begins_at(scene: Scene, is_so: Callable[[Port], bool]) -> Module:
    """Return the module on the sound path where something that is so at the output begins."""
    assert scene.output is not None
    here, seen = scene.output, {scene.output.id}
    while True:
        before = [
            scene.graph.module(line.source)
            for line in scene.sound_into(here)
            if is_so(line.source) and line.source.module not in seen
        ]
        if not before:
            return here
        here = before[0]
        seen.add(here.id)


def clipping(scene: Scene) -> Iterator[Finding]:
    """Yield the finding that the output exceeds full scale, with the place where the sound grows so strong."""
    if scene.output is None or scene.render.limited_db <= 0.0:
        return
    over = scene.render.limited_db
    lines = strengthening(scene)
    if lines:
        yield too_strong_a_line(scene, lines, over)
        return
    where = begins_at(scene, lambda port: scene.peak(port) > NOMINAL)
    level = scene.output.number("level")
    wanted = max(-60.0, math.floor(2.0 * (level - over - MARGIN_DB)) / 2.0)
    edit = SetValue(module=scene.output.id, setting="level", value=wanted)
    yield Finding(
        "clipping",
        where.id,
        "",
        say("check.too-strong-at", over=Number(over, 2), where=Name(where.title)),
        say("check.over", over=Number(over, 2)),
        say("check.the-limiter-behind-the"),
        Remedy(say("check.turn-down-to", output=Name(scene.output.title), wanted=Quantity(wanted, "dB")), (edit,)),
    )


def strengthening(scene: Scene) -> list[Connection]:
    """Return the lines that alone make the sound too strong: by their depth, where what comes in is not."""
    where = begins_at(scene, lambda port: scene.peak(port) > NOMINAL)
    return [
        line
        for line in scene.sound_into(where)
        if abs(line.depth) > 1.0 and scene.peak(line.source) <= NOMINAL < abs(line.depth) * scene.peak(line.source)
    ]


def too_strong_a_line(scene: Scene, lines: list[Connection], over: float) -> Finding:
    """Return the finding that a connection multiplies what it carries until it is too strong."""
    line = max(lines, key=lambda one: abs(one.depth))
    source, target = scene.title(line.source), scene.title(line.target)
    depth = trimmed(abs(line.depth))
    return Finding(
        "clipping",
        line.target.module,
        line.target.name,
        say("check.too-strong-by-line", over=Number(over, 2), source=source, target=target, depth=depth),
        say("check.over-by-depth", over=Number(over, 2), depth=depth),
        say("check.the-limiter-behind-the"),
        Remedy(
            say("check.set-the-depth-to-1"),
            tuple(ChangeLine(line=Ends.of(one), depth=math.copysign(1.0, one.depth)) for one in lines),
        ),
    )


def dc_offset(scene: Scene) -> Iterator[Finding]:
    """Yield the finding that what is heard does not swing about zero."""
    if scene.output is None:
        return
    found = scene.loudest_ear(lambda one: abs(one.mean))
    if found is None or abs(found.mean) < LEAST_DC or abs(found.mean) < LEAST_DC_SHARE * found.rms:
        return
    where = begins_at(scene, lambda port: has_dc(scene, port))
    edits = with_high_pass(scene.graph, scene.sound_into(scene.output))
    yield Finding(
        "dc-offset",
        where.id,
        "",
        say("check.the-sound-swings-about", mean=Number(found.mean, 2), where=Name(where.title)),
        say("check.mean", mean=Number(found.mean, 2)),
        say("check.it-is-not-heard"),
        Remedy(say("check.put-a-high-pass", output=Name(scene.output.title)), edits),
    )


def has_dc(scene: Scene, port: Port) -> bool:
    """Tell whether a port's signal does not swing about zero."""
    found = scene.measure(port)
    return found is not None and abs(found.mean) > max(0.5 * LEAST_DC, 0.5 * LEAST_DC_SHARE * found.rms)


def level_taps(graph: Graph) -> tuple[Port, ...]:
    """Return the inputs to be looked at sample by sample: those that let sound through or not, and are steered."""
    opening = [(module.id, module.declaration.opens) for module in graph.patch.modules]
    levels = [Port.of(name, opens) for name, opens in opening if opens]
    return tuple(level for level in levels if graph.coming(level))


def clicks(scene: Scene) -> Iterator[Finding]:
    """Yield a finding for each amplifier whose level jumps while a tone comes in."""
    for tap in level_taps(scene.graph):
        module = scene.graph.module(tap)
        jump = scene.jumps.get(tap)
        if jump is None or abs(jump.height) < JUMP or module.id not in scene.sounding_path:
            continue
        if (
            max(map(scene.peak, scene.graph.ways(module.id)), default=0.0) < HEARD
            or is_rough(scene, module)
            or modulated_by_sound(scene, tap)
        ):
            continue
        height, seconds = jump.height, jump.sample / scene.render.rate
        yield Finding(
            "click",
            module.id,
            tap.name,
            say(f"check.{'opens' if height > 0 else 'closes'}-too-fast", module=Name(module.title)),
            say("check.the-level-jumps-by", height=Number(abs(height), 2), seconds=Quantity(seconds, "s")),
            say("check.the-wave-is-cut"),
            gentler(scene, module, tap),
        )


def jumps_of(graph: Graph, phrase: Phrase, render: Render) -> dict[str, Jump]:
    """Return the farthest jump of each level that was kept whole.

    With several voices it is that of the voice that began last: where another one begins, it jumps to that one.
    """
    found: dict[str, Jump] = {}
    for tap in level_taps(graph):
        signal = render.taps.get(tap)
        if signal is None or len(signal) < 2:
            continue
        jumps = np.diff(signal)
        if graph.patch.voices > 1:
            begun = [phrase.sample(note.start, render.rate) - 1 for note in phrase.notes]
            jumps[[place for place in begun if 0 <= place < len(jumps)]] = 0.0
        place = max((int(np.argmax(jumps)), int(np.argmin(jumps))), key=lambda one: abs(jumps[one]))
        found[tap] = Jump(place + 1, float(jumps[place]))
    return found


def is_rough(scene: Scene, module: Module) -> bool:
    """Tell whether only noise comes into an amplifier, in which an edge is not heard as a click."""
    upstream = {port.module for way in scene.graph.ways(module.id) for port in scene.graph.upstream(way)}
    sources = [declared for name in upstream if "source" in (declared := scene.graph.declared(name)).traits]
    return bool(sources) and not any(declared.pitched for declared in sources)


def modulated_by_sound(scene: Scene, tap: Port) -> bool:
    """Tell whether sound steers a level, which then moves as fast as it likes: ring modulation."""
    return any(scene.graph.output_at(line.source).kind == "audio" for line in scene.graph.coming(tap))


def switches(output: Output) -> bool:
    """Tell whether an output may be taken for a gate: it is one, or is all that its module gives."""
    return output.kind == "gate" or output.unnamed


def gentler(scene: Scene, module: Module, tap: Port) -> Remedy:
    """Return what takes the edge off: longer stages of the envelope, or an envelope instead of a gate."""
    for line in scene.graph.coming(tap):
        source = scene.graph.module(line.source)
        if is_envelope(source):
            stages = [source.declaration.named(role) for role in STEEP]
            short = [name for name in stages if source.number(name) < GENTLE_S]
            edits = tuple(SetValue(module=source.id, setting=name, value=GENTLE_S) for name in short)
            if edits:
                names = " and ".join(short)
                return Remedy(
                    say("check.give-of", source=Name(source.title), names=names, time=Quantity(GENTLE_S, "s")),
                    edits,
                )
    gates = [line for line in scene.graph.coming(tap) if switches(scene.graph.output_at(line.source))]
    if not gates:
        return Remedy(say("check.put-a-slew-between"))
    words = say("check.put-an-envelope-between", source=scene.title(gates[0].source), module=Name(module.title))
    return Remedy(words, with_envelope(scene.graph, gates[0]))
