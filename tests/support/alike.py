"""The same patch written otherwise, and with one real change."""

import math
import random
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from inner_tone.core.patch.edit import made
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Connection, Module, Patch, Section
from inner_tone.core.patch.moves import RemoveModules
from inner_tone.core.patch.plain import plain
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.validate import checked_patch
from tests.support.voices import WAVES, Changed, with_parts, with_settings


@dataclass(frozen=True)
class Rewritten:
    """A patch that is the same as another; `names` says what each of its modules is called now."""

    patch: Patch
    names: dict[str, str]


def through_scale(patch: Patch, dice: random.Random) -> Patch:
    """Let a line that steers go through a scale that has its depth."""
    lines = [line for line in patch.connections if not Graph(patch).carries_sound(line) and line.depth]
    steering = [line for line in lines if Graph(patch).input(line.target).kind == "control" and abs(line.depth) <= 20]
    if not steering:
        return patch
    line = dice.choice(steering)
    name = f"scale-{dice.randrange(10**6)}"
    gain = round(line.depth, 2)
    scale = Module(id=name, type="scale", settings={"gain": gain})
    first = Connection(source=line.source, target=Port.of(name, "in"), scaled_by=line.scaled_by)
    then = Connection(source=Port.of(name, "out"), target=line.target, depth=line.depth / gain)
    rest = [one for one in patch.connections if one != line]
    return with_parts(patch, [*patch.modules, scale], [*rest, first, then])


def through_unity(patch: Patch, dice: random.Random) -> Patch:
    """Let a line of sound go through a module that does nothing."""
    lines = [line for line in patch.connections if Graph(patch).carries_sound(line) and line.scaled_by is None]
    if not lines:
        return patch
    line = dice.choice(lines)
    kind, settings, way = dice.choice([("amplifier", {"level": 1}, "in"), ("mixer", {}, "in3"), ("scale", {}, "in")])
    name = f"unity-{dice.randrange(10**6)}"
    first = Connection(source=line.source, target=Port.of(name, way))
    then = Connection(source=Port.of(name, "out"), target=line.target, depth=line.depth)
    rest = [one for one in patch.connections if one != line]
    module = Module(id=name, type=kind, settings=dict(settings))
    return with_parts(patch, [*patch.modules, module], [*rest, first, then])


def summed_in_mixer(patch: Patch, dice: random.Random) -> Patch:
    """Let lines of sound that add up at an input be added by a mixer, or let a mixer's lines add up without it."""
    graph = Graph(patch)
    mixers = [one for one in patch.modules if one.type == "mixer"]
    for mixer in mixers:
        into, out = graph.into(mixer.id), graph.leaving(mixer.id)
        steered = any(line.target.name.startswith("level") for line in into)
        doubled = {(a.source, b.target) for a in into for b in out}
        there = {line.ends for line in patch.connections}
        if steered or len(doubled) < len(into) * len(out) or doubled & there or dice.random() < 0.5:
            continue
        direct = [
            b.model_copy(
                update={
                    "source": a.source,
                    "depth": a.depth * b.depth * mixer.number(f"level{a.target.name[2:]}"),
                }
            )
            for a in into
            for b in out
        ]
        rest = [line for line in patch.connections if line not in into and line not in out]
        return with_parts(patch, [one for one in patch.modules if one != mixer], [*rest, *direct])
    groups = [
        lines
        for port, declared in graph.inputs()
        if declared.goes_through and 2 <= len(lines := [one for one in graph.coming(port) if not one.scaled_by]) <= 6
    ]
    if not groups:
        return patch
    chosen = dice.choice(groups)
    name = f"sum-{dice.randrange(10**6)}"
    channels = dice.sample(range(1, 7), len(chosen))
    joined = [
        line.model_copy(update={"target": Port.of(name, f"in{n}")}) for n, line in zip(channels, chosen, strict=True)
    ]
    joined.append(Connection(source=Port.of(name, "out"), target=chosen[0].target))
    rest = [line for line in patch.connections if line not in chosen]
    return with_parts(patch, [*patch.modules, Module(id=name, type="mixer")], [*rest, *joined])


def tuned_otherwise(patch: Patch, dice: random.Random) -> Patch:
    """Write octaves as semitones, or semitones as cents, or twice the ratio as an octave."""

    def otherwise(module: Module) -> Module:
        if module.type != "oscillator" or dice.random() < 0.4:
            return module
        values = {name: module.number(name) for name in ("octave", "semitone", "fine", "ratio")}
        if abs(values["octave"]) <= 1:
            moved = {"octave": 0, "semitone": values["semitone"] + 12 * values["octave"]}
        elif values["ratio"] <= 16:
            moved = {"octave": values["octave"] - 1, "ratio": 2 * values["ratio"]}
        else:
            moved = {"octave": values["octave"], "semitone": values["semitone"]}
        return module.model_copy(update={"settings": {**module.settings, **moved}})

    return patch.model_copy(update={"modules": tuple(otherwise(module) for module in patch.modules)})


def other_channels(patch: Patch, dice: random.Random) -> Patch:
    """Let the channels of mixers change places."""
    modules, lines = list(patch.modules), list(patch.connections)
    for place, module in enumerate(modules):
        if module.type != "mixer":
            continue
        order = dice.sample(range(1, 7), 6)

        def moved(name: str, order: list[int] = order) -> str:
            return f"{name[:-1]}{order[int(name[-1]) - 1]}"

        settings = {moved(name): value for name, value in module.settings.items()}
        modules[place] = module.model_copy(update={"settings": settings})
        lines = [
            line.model_copy(update={"target": Port.of(module.id, moved(line.target.name))})
            if line.target.module == module.id
            else line
            for line in lines
        ]
    return with_parts(patch, modules, lines)


def other_factors(patch: Patch, dice: random.Random) -> Patch:
    """Let what a line is scaled by be its source, and the other way round."""
    there = {line.ends for line in patch.connections}

    def turned(line: Connection) -> Connection:
        if line.scaled_by is None or (line.scaled_by, line.target) in there or dice.random() < 0.3:
            return line
        return line.model_copy(update={"source": line.scaled_by, "scaled_by": line.source})

    return patch.model_copy(update={"connections": tuple(turned(line) for line in patch.connections)})


def with_idle(patch: Patch, dice: random.Random) -> Patch:
    """Put in a module that nothing depends on."""
    idle = Module(id=f"idle-{dice.randrange(10**6)}", type=dice.choice(["lfo", "noise", "oscillator", "filter"]))
    sources = [f"{module.id}.out" for module in patch.modules if "out" in module.declaration.outputs_by_name]
    into = [port.name for port in idle.declaration.inputs][:1]
    lines = [Connection(source=Port(dice.choice(sources)), target=Port.of(idle.id, one)) for one in into]
    return with_parts(patch, [*patch.modules, idle], [*patch.connections, *lines])


def with_section(patch: Patch, dice: random.Random) -> Patch:
    """Group some modules."""
    inner = [module.id for module in patch.modules if module.type not in ("player", "output")]
    chosen = dice.sample(inner, min(3, len(inner)))
    return patch.model_copy(update={"sections": (Section(id="group", label="Some", modules=tuple(chosen)),)})


def other_seed(patch: Patch, dice: random.Random) -> Patch:
    """Let noise begin elsewhere."""
    modules = [
        one.model_copy(update={"settings": {**one.settings, "seed": dice.randint(1, 900)}})
        if one.type == "noise"
        else one
        for one in patch.modules
    ]
    return with_parts(patch, modules, list(patch.connections))


REWRITINGS: tuple[Callable[[Patch, random.Random], Patch], ...] = (
    through_scale,
    through_unity,
    summed_in_mixer,
    tuned_otherwise,
    other_channels,
    other_factors,
    with_idle,
    with_section,
    other_seed,
)


def rewritten(patch: Patch, dice: random.Random) -> Rewritten:
    """Return a patch written otherwise: under other names, in another order, in some equivalent ways."""
    for rewriting in dice.sample(REWRITINGS, dice.randint(1, len(REWRITINGS))):
        patch = rewriting(patch, dice)
    return renamed(patch, dice)


def renamed(patch: Patch, dice: random.Random) -> Rewritten:
    """Return a patch under other names and in another order."""
    numbers = dice.sample(range(1000), len(patch.modules))
    names = {one.id: f"m{number}" for one, number in zip(patch.modules, numbers, strict=True)}

    def port(one: Port) -> Port:
        return one.on(names[one.module])

    modules = [one.model_copy(update={"id": names[one.id], "label": f"Name {names[one.id]}"}) for one in patch.modules]
    lines = [
        line.model_copy(
            update={
                "source": port(line.source),
                "target": port(line.target),
                "scaled_by": port(line.scaled_by) if line.scaled_by else None,
            }
        )
        for line in patch.connections
    ]
    dice.shuffle(modules)
    dice.shuffle(lines)
    sections = tuple(
        one.model_copy(
            update={
                "modules": tuple(names[name] for name in one.modules if name in names),
                "inputs": tuple(end.model_copy(update={"port": port(end.port)}) for end in one.inputs),
                "outputs": tuple(end.model_copy(update={"port": port(end.port)}) for end in one.outputs),
            }
        )
        for one in patch.sections
    )
    patch = with_parts(patch, modules, lines).model_copy(update={"sections": sections})
    return Rewritten(checked_patch(patch), names)


SETTINGS: dict[str, dict[str, Callable[[Any, random.Random], Any]]] = {
    "oscillator": {
        "wave": lambda value, dice: dice.choice([one for one in WAVES if one != value]),
        "semitone": lambda value, dice: value + dice.choice([-3, 3, 5]),
    },
    "filter": {
        "cutoff": lambda value, dice: round(value * dice.choice([0.7, 1.5])),
        "resonance": lambda value, dice: round(value + 0.2, 2),
        "slope": lambda value, dice: dice.choice([one for one in (6, 12, 24) if one != value]),
    },
    "ladder": {"cutoff": lambda value, dice: round(value * dice.choice([0.7, 1.5]))},
    "envelope": {
        "attack": lambda value, dice: round(value * 2.5, 3),
        "sustain": lambda value, dice: round(value - 0.09, 2),
        "release": lambda value, dice: round(value * 0.4, 3),
    },
    "lfo": {"rate": lambda value, dice: round(value * 1.7, 2)},
    "shaper": {"drive": lambda value, dice: value + 6},
    "delay": {"time": lambda value, dice: round(value * 1.5, 3)},
    "reverb": {"decay": lambda value, dice: round(value * 1.5, 3)},
}


def changed(patch: Patch, dice: random.Random) -> Changed:
    """Return a patch with one real change."""
    return dice.choice([set_otherwise, set_otherwise, deepened, unplugged, taken_out, put_in, steered])(patch, dice)


def set_otherwise(patch: Patch, dice: random.Random) -> Changed:
    one = dice.choice([module for module in patch.modules if module.type in SETTINGS])
    setting = dice.choice(list(SETTINGS[one.type]))
    value = SETTINGS[one.type][setting](one.all_settings[setting], dice)
    return Changed(with_settings(patch, one.id, **{setting: value}), "set", one.id, setting)


def deepened(patch: Patch, dice: random.Random) -> Changed:
    line = dice.choice([one for one in patch.connections if Graph(patch).input(one.target).kind != "gate"])
    new = line.model_copy(update={"depth": line.depth * dice.choice([0.5, 1.6])})
    lines = [new if one == line else one for one in patch.connections]
    return Changed(with_parts(patch, list(patch.modules), lines), "depth", line.target.module)


def unplugged(patch: Patch, dice: random.Random) -> Changed:
    """Take away a line that leaves all modules heard."""
    needed = plain(patch, as_built=True).reaching()
    for line in dice.sample(patch.connections, len(patch.connections)):
        rest = with_parts(patch, list(patch.modules), [one for one in patch.connections if one != line])
        if plain(rest, as_built=True).reaching() == needed:
            return Changed(rest, "line", line.target.module)
    return deepened(patch, dice)


def taken_out(patch: Patch, dice: random.Random) -> Changed:
    """Take out a module, and let what went through it go on."""
    inner = [one for one in patch.modules if one.type in ("filter", "ladder", "shaper", "delay", "reverb")]
    one = dice.choice(inner)
    rest = made(patch, [RemoveModules(modules=(one.id,))]).patch
    return Changed(rest, "module", one.id)


def put_in(patch: Patch, dice: random.Random) -> Changed:
    """Put a filter into a line of sound."""
    lines = [line for line in patch.connections if Graph(patch).carries_sound(line) and line.target.module != "out"]
    line = dice.choice(lines)
    new = Module(id="put-in", type="filter", settings={"cutoff": 777, "mode": "highpass"})
    first = Connection(source=line.source, target=Port("put-in.in"))
    then = line.model_copy(update={"source": Port("put-in.out")})
    rest = [one for one in patch.connections if one != line]
    return Changed(with_parts(patch, [*patch.modules, new], [*rest, first, then]), "extra", "put-in")


def steered(patch: Patch, dice: random.Random) -> Changed:
    """Let something be steered that was not."""
    oscillators = [one for one in patch.modules if one.type == "oscillator"]
    one = dice.choice(oscillators)
    line = Connection(source=Port("player.wheel"), target=Port.of(one.id, "pitch"), depth=math.pi)
    return Changed(with_parts(patch, list(patch.modules), [*patch.connections, line]), "line", one.id)
