"""A patch as other instruments would have it: tuned otherwise, with other slopes of filters, other curves of envelopes.

It is for those who simulate other instruments, and for those who compare what such have played: neither is to be told
from the target by what every make does in its own way.
"""

from collections.abc import Iterator

from inner_tone.core.patch.edit import fresh_id
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Connection, Module, Patch
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.tuning import amount

SLOPES = {6: (6,), 12: (12,), 18: (12, 6), 24: (24,)}
STEEPEST = 24


def tuned(patch: Patch, cents: float) -> Patch:
    """Return a patch whose tones are so many cents sharp."""

    def sharp(module: Module) -> Module:
        ports = [port for port in module.declaration.inputs if port.part == "pitch" and port.ruler]
        if not module.declaration.pitched or not ports:
            return module
        pitch = module.number(ports[0].name) + 0.01 * cents
        return module.model_copy(update={"settings": {**module.settings, ports[0].name: pitch}})

    return patch.model_copy(update={"modules": tuple(sharp(module) for module in patch.modules)}) if cents else patch


def curved_otherwise(patch: Patch) -> Patch:
    """Return a patch whose envelopes are straight where they were curved, and curved where they were straight."""

    def otherwise(module: Module) -> Module:
        bend = module.declaration.named("bend")
        if not bend:
            return module
        other = next(one for one in module.declaration.choices[bend].options if one != module.all_settings[bend])
        return module.model_copy(update={"settings": {**module.settings, bend: other}})

    return patch.model_copy(update={"modules": tuple(otherwise(module) for module in patch.modules)})


def is_steep(module: Module) -> bool:
    """Tell whether a module is a filter with a slope."""
    slope, mode = module.declaration.named("slope"), module.declaration.named("mode")
    return bool(slope) and module.all_settings[mode] in ("lowpass", "highpass")


def steep_otherwise(patch: Patch, by: int) -> Patch:
    """Return a patch whose filters fall by so many dB per octave more, or less, where there are such."""
    modules: list[Module] = []
    lines = list(patch.connections)
    for module in patch.modules:
        slope = int(amount(module, "slope")) + by if is_steep(module) else 0
        if slope < min(SLOPES) or slope > STEEPEST:
            modules.append(module)
            continue
        first, *more = SLOPES[slope]
        steep, *others = (module.declaration.named(role) for role in ("slope", "mode", "cutoff"))
        modules.append(module.model_copy(update={"settings": {**module.settings, steep: first}}))
        for one in more:
            name = fresh_id(patch.by_id, f"{module.id[:30]}-more")
            settings = {**{name: module.all_settings[name] for name in others}, steep: one}
            modules.append(Module(id=name, type=module.type, settings=settings))
            lines = list(behind(Graph(patch), lines, module.id, name))
    return patch.model_copy(update={"modules": tuple(modules), "connections": tuple(lines)})


def behind(graph: Graph, lines: list[Connection], name: str, more: str) -> Iterator[Connection]:
    """Yield connections so that a second filter stands behind one, and is steered as that is."""
    declared = graph.declared(name)
    moving = {declared.named("cutoff"), declared.named("hertz")}
    for line in lines:
        yield line.model_copy(update={"source": line.source.on(more)}) if line.source.module == name else line
        if line.target.module == name and line.target.name in moving:
            yield line.model_copy(update={"target": line.target.on(more)})
    yield Connection(source=graph.main(name), target=Port.of(more, declared.ways[0].name))


def makes(patch: Patch) -> list[Patch]:
    """Return a patch as it is, and as instruments of other makes would have it, each once."""
    found = [patch]
    for slope in (0, 6, -6):
        for one in (steep_otherwise(patch, slope), curved_otherwise(steep_otherwise(patch, slope))):
            if one not in found:
                found.append(one)
    return found
