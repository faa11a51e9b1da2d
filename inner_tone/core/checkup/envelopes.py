"""Envelopes: stages that a note's length cuts off, and releases that do not fit the amplifier's."""

import math
from collections.abc import Iterator

from inner_tone.core.checkup.finding import Finding, Remedy
from inner_tone.core.checkup.pitch import frequency_hz
from inner_tone.core.checkup.scene import Scene
from inner_tone.core.modules.envelope import BEND, BOTTOM
from inner_tone.core.modules.tempo import DIVISIONS
from inner_tone.core.modules.theory import CourseTheory, ResponseTheory
from inner_tone.core.patch.model import Module
from inner_tone.core.patch.moves import SetValue
from inner_tone.core.patch.port import Port
from inner_tone.core.units import trimmed, with_unit

REACHED = 0.95
OFF_SUSTAIN = 0.15
STRONG_ST = 6.0  # a depth on a cutoff from which on an envelope is heard
SHORTER, LONGER = 0.5, 2.0
ADSR = "attack-decay-sustain-release"


def gate_seconds(scene: Scene, envelope: Module) -> float | None:
    """Return how long the longest gate of an envelope is open, if it is known."""
    lines = scene.coming(envelope, "gate")
    if len(lines) != 1 or lines[0].depth <= 0.0 or lines[0].source.name != "gate":
        return None
    module = scene.graph.module(lines[0].source)
    if module == scene.player and scene.phrase.notes:
        return max(note.length for note in scene.phrase.notes) * 60.0 / scene.phrase.tempo
    if "gate_length" in module.declaration.rulers:
        step = step_seconds(scene, module)
        return step * module.number("gate_length") if step else None
    return None


def strike_seconds(scene: Scene, envelope: Module) -> float | None:
    """Return how long it is at most from one strike of an envelope to the next, if steps or a clock strike it."""
    lines = scene.coming(envelope, "gate")
    source = scene.graph.module(lines[0].source) if len(lines) == 1 and lines[0].depth > 0.0 else None
    if source is None:
        return None
    if "gates" not in source.declaration.rows:
        return pulse_seconds(scene, source, lines[0].source)
    step = step_seconds(scene, source)
    gates = source.row("gates")
    on = [place for place, gate in enumerate(gates) if gate >= 0.5]
    if not step or not on:
        return None
    return step * max(after - place for place, after in zip(on, [*on[1:], on[0] + len(gates)], strict=True))


def pulse_seconds(scene: Scene, clock: Module, port: Port) -> float | None:
    """Return how long a pulse of a clock lasts, if it is one and nothing else is asked of it."""
    if clock.declaration.usually != "gates" or port != scene.main(clock):
        return None
    return DIVISIONS[str(clock.all_settings["division"])] * 60.0 / scene.phrase.tempo


def step_seconds(scene: Scene, steps: Module) -> float | None:
    """Return how long a step lasts, if a clock drives the steps."""
    lines = scene.coming(steps, "clock")
    clock = scene.graph.module(lines[0].source) if len(lines) == 1 else None
    return pulse_seconds(scene, clock, lines[0].source) if clock else None


def cut_short(scene: Scene) -> Iterator[Finding]:
    """Yield a finding for each envelope whose attack, or decay, no note is long enough for."""
    for module in scene.patch.modules:
        settings = module.all_settings
        if not is_envelope(module) or is_moved(scene, module):
            continue
        goes_on = settings["stages"] == "attack-decay"  # until it is struck again, however short its gate
        gate = strike_seconds(scene, module) if goes_on else gate_seconds(scene, module)
        if gate is None:
            continue
        attack, decay = module.number("attack"), module.number("decay")
        way = gone(gate / attack, settings["curve"] == "linear") if attack > gate else 1.0
        if way < REACHED:
            given = f"{with_unit(gate, 's')} from strike to strike" if goes_on else f"gate {with_unit(gate, 's')}"
            measured = f"{given}, attack {with_unit(attack, 's')}: it comes to {trimmed(way, 2)}"
            yield cut(module, "attack", measured, gate)
        elif settings["stages"] == ADSR and attack + decay > gate:
            sustain = module.number("sustain")
            rest = (1.0 - sustain) * (1.0 - gone((gate - attack) / decay, settings["curve"] == "linear"))
            if rest > OFF_SUSTAIN:
                measured = (
                    f"gate {with_unit(gate, 's')}, attack and decay {with_unit(attack + decay, 's')}: "
                    f"it is {trimmed(rest, 2)} above its sustain level"
                )
                yield cut(module, "decay", measured, max(gate - attack, 0.01))


def is_moved(scene: Scene, module: Module) -> bool:
    """Tell whether something steers an envelope's times or its sustain level."""
    return any(scene.coming(module, name) for name in ("attack", "decay", "sustain", "strike"))


def is_envelope(module: Module) -> bool:
    """Tell whether a module goes through stages when its gate opens and closes."""
    return isinstance(module.declaration.theory, CourseTheory)


def gone(progress: float, linear: bool) -> float:
    """Return how much of its way a stage has gone when a part of its time has passed."""
    if progress >= 1.0:
        return 1.0
    return progress if linear else (1.0 - math.exp(-BEND * progress)) / (1.0 - BOTTOM)


def cut(module: Module, stage: str, measured: str, fitting: float) -> Finding:
    """Return the finding that notes are too short for a stage."""
    value = float(f"{0.6 * fitting:.2g}")
    whither = "never comes to its top" if stage == "attack" else "never comes down to its sustain level"
    return Finding(
        "cut-short",
        module.id,
        stage,
        f"{module.title} {whither}: every note is over before its {stage}.",
        measured,
        "Whoever turns the later stages hears no difference, and looks for the fault there.",
        Remedy(
            f"Shorten the {stage} to {with_unit(value, 's')}, or play longer notes.",
            (SetValue(module=module.id, setting=stage, value=value),),
            f"Shorten the {stage} to {with_unit(value, 's')}.",
        ),
    )


def release_mismatch(scene: Scene) -> Iterator[Finding]:
    """Yield a finding for each filter's envelope whose release does not fit that of the amplifier behind it."""
    for amplifier in scene.on_path(lambda declared: declared.opens):
        loud = envelope_of(scene, Port.of(amplifier.id, amplifier.declaration.opens), 0.0)
        ways = scene.graph.ways(amplifier.id)
        before = {port.module for way in ways for port in scene.graph.upstream(way)}
        for shaped in scene.on_path(lambda declared: isinstance(declared.theory, ResponseTheory)):
            bright = envelope_of(scene, Port.of(shaped.id, "cutoff"), STRONG_ST)
            if shaped.id in before and loud and bright and loud.id != bright.id:
                yield from mismatch(scene, shaped, bright, loud)


def envelope_of(scene: Scene, target: Port, least_depth: float) -> Module | None:
    """Return the envelope that steers an input, if there is exactly one and it has a release."""
    found = [
        scene.graph.module(line.source)
        for line in scene.graph.coming(target)
        if line.depth > least_depth and scene.graph.is_main(line.source)
    ]
    envelopes = [one for one in found if is_envelope(one) and one.all_settings["stages"] != "attack-decay"]
    return envelopes[0] if len(envelopes) == 1 else None


def mismatch(scene: Scene, shaped: Module, bright: Module, loud: Module) -> Iterator[Finding]:
    """Yield the finding that two releases do not fit."""
    short, long = bright.number("release"), loud.number("release")
    early = short < SHORTER * long and empties(scene, shaped)
    unheard = short > LONGER * long and bright.number("sustain") > 0.0
    if not (early or unheard):
        return
    if early:
        message = f"{bright.title} closes {shaped.title} before {loud.title} has let the tone die away."
        why = "The tone is emptied early, so the amplifier's release is heard only in part."
    else:
        message = f"{bright.title} still falls when {loud.title} has long been silent."
        why = "The rest of its release is never heard, and turning it changes nothing."
    yield Finding(
        "release-mismatch",
        bright.id,
        "release",
        message,
        f"{with_unit(short, 's')} beside {with_unit(long, 's')}",
        why,
        Remedy(
            f"Give {bright.title} a release of {with_unit(long, 's')} too.",
            (SetValue(module=bright.id, setting="release", value=long),),
        ),
    )


def empties(scene: Scene, shaped: Module) -> bool:
    """Tell whether a filter that nothing holds open takes away the fundamental of all that goes through it."""
    settings = shaped.all_settings
    if settings.get("mode", "lowpass") != "lowpass":
        return False
    lowest = min(
        (frequency_hz(scene, module, scene.pitches[0] if scene.pitches else 0.0) for module in scene.pitched()),
        default=0.0,
    )
    return shaped.number("cutoff") < lowest
