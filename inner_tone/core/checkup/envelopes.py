"""Envelopes: stages that a note's length cuts off, and releases that do not fit the amplifier's."""

from collections.abc import Iterator

from inner_tone.core.checkup.finding import Finding, Remedy
from inner_tone.core.checkup.pitch import played_hz
from inner_tone.core.checkup.scene import Scene
from inner_tone.core.message import Message, Name, Number, Quantity, say
from inner_tone.core.modules.declaration import Role
from inner_tone.core.modules.tempo import DIVISIONS
from inner_tone.core.modules.theory import CourseTheory, ResponseTheory
from inner_tone.core.patch.model import Module
from inner_tone.core.patch.moves import SetValue
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.tuning import amount, stages_of

REACHED = 0.95
OFF_SUSTAIN = 0.15
STRONG_ST = 6.0  # a depth on a cutoff from which on an envelope is heard
SHORTER, LONGER = 0.5, 2.0


def gate_seconds(scene: Scene, envelope: Module) -> float | None:
    """Return how long the longest gate of an envelope is open, if it is known."""
    lines = scene.coming(envelope, "gate")
    if len(lines) != 1 or lines[0].depth <= 0.0 or lines[0].source.name != "gate":
        return None
    module = scene.graph.module(lines[0].source)
    if module == scene.player and scene.phrase.notes:
        return max(note.length for note in scene.phrase.notes) * 60.0 / scene.phrase.tempo
    opened = module.declaration.named("open")
    step = step_seconds(scene, module) if opened else None
    return step * module.number(opened) if step else None


def strike_seconds(scene: Scene, envelope: Module) -> float | None:
    """Return how long it is at most from one strike of an envelope to the next, if steps or a clock strike it."""
    lines = scene.coming(envelope, "gate")
    source = scene.graph.module(lines[0].source) if len(lines) == 1 and lines[0].depth > 0.0 else None
    if source is None:
        return None
    row = source.declaration.named("gates")
    if not row:
        return pulse_seconds(scene, source, lines[0].source)
    step = step_seconds(scene, source)
    gates = source.row(row)
    on = [place for place, gate in enumerate(gates) if gate >= 0.5]
    if not step or not on:
        return None
    return step * max(after - place for place, after in zip(on, [*on[1:], on[0] + len(gates)], strict=True))


def pulse_seconds(scene: Scene, clock: Module, port: Port) -> float | None:
    """Return how long a pulse of a clock lasts, if it is one and nothing else is asked of it."""
    if clock.declaration.usually != "gates" or port != scene.main(clock):
        return None
    return DIVISIONS[str(clock.all_settings[clock.declaration.named("division")])] * 60.0 / scene.phrase.tempo


def step_seconds(scene: Scene, steps: Module) -> float | None:
    """Return how long a step lasts, if a clock drives the steps."""
    lines = scene.coming(steps, steps.declaration.named("advance"))
    clock = scene.graph.module(lines[0].source) if len(lines) == 1 else None
    return pulse_seconds(scene, clock, lines[0].source) if clock else None


def cut_short(scene: Scene) -> Iterator[Finding]:
    """Yield a finding for each envelope whose attack, or decay, no note is long enough for."""
    for module in scene.patch.modules:
        theory = module.declaration.theory
        if not isinstance(theory, CourseTheory) or is_moved(scene, module):
            continue
        stages = theory.stages(module.all_settings)
        attack, goes_on = stages.attack_s, stages.release_s is None  # until it is struck again, however short its gate
        gate = strike_seconds(scene, module) if goes_on else gate_seconds(scene, module)
        if gate is None:
            continue
        way = theory.gone(gate / attack, stages.straight) if attack > gate else 1.0
        if way < REACHED:
            given = (
                say("check.from-strike-to-strike", gate=Quantity(gate, "s"))
                if goes_on
                else say("check.gate", gate=Quantity(gate, "s"))
            )
            measured = say("check.attack-it-comes-to", given=given, attack=Quantity(attack, "s"), way=Number(way, 2))
            yield cut(module, "attack", measured, gate)
        elif stages.decay_s is not None and not goes_on and stages.rising_s > gate:
            rest = (1.0 - stages.level) * (1.0 - theory.gone((gate - attack) / stages.decay_s, stages.straight))
            if rest > OFF_SUSTAIN:
                measured = say(
                    "check.gate-attack-and-decay",
                    gate=Quantity(gate, "s"),
                    rising=Quantity(stages.rising_s, "s"),
                    rest=Number(rest, 2),
                )
                yield cut(module, "decay", measured, max(gate - attack, 0.01))


def is_moved(scene: Scene, module: Module) -> bool:
    """Tell whether something steers an envelope's times or its sustain level."""
    struck = [port.name for port in module.declaration.inputs if port.kind == "gate"][1:]
    steered = [module.declaration.named(role) for role in ("attack", "decay", "sustain")]
    return any(scene.coming(module, name) for name in (*steered, *struck) if name)


def is_envelope(module: Module) -> bool:
    """Tell whether a module goes through stages when its gate opens and closes."""
    return isinstance(module.declaration.theory, CourseTheory)


def cut(module: Module, stage: Role, measured: Message, fitting: float) -> Finding:
    """Return the finding that notes are too short for a stage."""
    value, setting = float(f"{0.6 * fitting:.2g}"), module.declaration.named(stage)
    whither = say("check.never-comes-to-its") if stage == "attack" else say("check.never-comes-down-to")
    return Finding(
        "cut-short",
        module.id,
        setting,
        say("check.every-note-is-over", module=Name(module.title), whither=whither, stage=stage),
        measured,
        say("check.whoever-turns-the-later"),
        Remedy(
            say("check.shorten-the-to-or", stage=stage, value=Quantity(value, "s")),
            (SetValue(module=module.id, setting=setting, value=value),),
            say("check.shorten-the-to", stage=stage, value=Quantity(value, "s")),
        ),
    )


def release_mismatch(scene: Scene) -> Iterator[Finding]:
    """Yield a finding for each filter's envelope whose release does not fit that of the amplifier behind it."""
    for amplifier in scene.on_path(lambda declared: declared.opens):
        loud = envelope_of(scene, Port.of(amplifier.id, amplifier.declaration.opens), 0.0)
        ways = scene.graph.ways(amplifier.id)
        before = {port.module for way in ways for port in scene.graph.upstream(way)}
        for shaped in scene.on_path(lambda declared: isinstance(declared.theory, ResponseTheory)):
            bright = envelope_of(scene, Port.of(shaped.id, shaped.declaration.named("cutoff")), STRONG_ST)
            if shaped.id in before and loud and bright and loud.id != bright.id:
                yield from mismatch(scene, shaped, bright, loud)


def envelope_of(scene: Scene, target: Port, least_depth: float) -> Module | None:
    """Return the envelope that steers an input, if there is exactly one and it has a release."""
    found = [
        scene.graph.module(line.source)
        for line in scene.graph.coming(target)
        if line.depth > least_depth and scene.graph.is_main(line.source)
    ]
    envelopes = [one for one in found if is_envelope(one) and stages_of(one).release_s is not None]
    return envelopes[0] if len(envelopes) == 1 else None


def mismatch(scene: Scene, shaped: Module, bright: Module, loud: Module) -> Iterator[Finding]:
    """Yield the finding that two releases do not fit."""
    short, long = amount(bright, "release"), amount(loud, "release")
    early = short < SHORTER * long and empties(scene, shaped)
    unheard = short > LONGER * long and stages_of(bright).level > 0.0
    if not (early or unheard):
        return
    if early:
        message = say(
            "check.closes-before-has-let", bright=Name(bright.title), shaped=Name(shaped.title), loud=Name(loud.title)
        )
        why = say("check.the-tone-is-emptied")
    else:
        message = say("check.still-falls-when-has", bright=Name(bright.title), loud=Name(loud.title))
        why = say("check.the-rest-of-its")
    release = bright.declaration.named("release")
    yield Finding(
        "release-mismatch",
        bright.id,
        release,
        message,
        say("check.beside", short=Quantity(short, "s"), long=Quantity(long, "s")),
        why,
        Remedy(
            say("check.give-a-release-of", bright=Name(bright.title), long=Quantity(long, "s")),
            (SetValue(module=bright.id, setting=release, value=long),),
        ),
    )


def empties(scene: Scene, shaped: Module) -> bool:
    """Tell whether a filter that nothing holds open takes away the fundamental of all that goes through it."""
    mode = shaped.all_settings.get(shaped.declaration.named("mode"), "lowpass")
    if mode != "lowpass":
        return False
    lowest = min(
        (played_hz(scene, module, scene.pitches[0] if scene.pitches else 0.0) for module in scene.pitched()),
        default=0.0,
    )
    return amount(shaped, "cutoff") < lowest
