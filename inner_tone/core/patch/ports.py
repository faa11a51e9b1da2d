"""What the ports of a module are for: the way through it, the port that stands for it, and who steers whom."""

import re
from collections.abc import Iterator

from inner_tone.core.modules.declaration import Input, ModuleType, Output
from inner_tone.core.patch.model import Connection, Module, Patch, split_port

THROUGH = re.compile(r"^(in\d?|left|right|a|b)$")
SIDES = ("left", "right")
MAIN_OUTPUTS = ("out", "gate")


def input_of(patch: Patch, port: str) -> Input:
    """Return the declaration of the input called `module.port`; raises KeyError."""
    module, name = split_port(port)
    return patch.by_id[module].declaration.input(name)


def output_of(patch: Patch, port: str) -> Output:
    """Return the declaration of the output called `module.port`; raises KeyError."""
    module, name = split_port(port)
    return patch.by_id[module].declaration.output(name)


def through_inputs(declared: ModuleType) -> list[str]:
    """Return the inputs whose signal comes out again, changed: none for what makes its own."""
    return [port.name for port in declared.inputs if THROUGH.match(port.name)] if declared.outputs else []


def main_output(declared: ModuleType, towards: str = "") -> str | None:
    """Return the output that stands for a module: on the way to an ear's input the one for that ear."""
    names = [port.name for port in declared.outputs]
    side = split_port(towards)[1] if towards else ""
    if side in SIDES and side in names:
        return side
    return next((name for name in MAIN_OUTPUTS if name in names), names[0] if names else None)


def sounds(declared: ModuleType) -> bool:
    """Tell whether what stands for a module is sound, rather than what steers."""
    name = main_output(declared)
    return name is not None and declared.output(name).kind == "audio"


def carries_sound(patch: Patch, line: Connection) -> bool:
    """Tell whether a connection carries sound along the path, rather than steering something."""
    return input_of(patch, line.target).kind == "audio" and bool(THROUGH.match(split_port(line.target)[1]))


def lines_from(patch: Patch, module_id: str) -> list[Connection]:
    """Return the connections that leave a module."""
    return [line for line in patch.connections if split_port(line.source)[0] == module_id]


def sources_of(patch: Patch, port: str) -> list[Connection]:
    """Return the connections that enter an input."""
    return [line for line in patch.connections if line.target == port]


def of_type(patch: Patch, kind: str) -> Module | None:
    """Return the first module of a type, if there is one."""
    return next((module for module in patch.modules if module.type == kind), None)


def bridges(patch: Patch, module_id: str) -> Iterator[Connection]:
    """Yield the connections that lead past a module: from what goes through it to whatever it feeds."""
    through = {f"{module_id}.{name}" for name in through_inputs(patch.by_id[module_id].declaration)}
    for coming in patch.connections:
        if coming.target not in through or split_port(coming.source)[0] == module_id:
            continue
        for going in lines_from(patch, module_id):
            if split_port(going.target)[0] != module_id:
                scale = going.scaled_by or coming.scaled_by
                depth = max(-1e5, min(1e5, coming.depth * going.depth))
                off = coming.off or going.off
                yield going.model_copy(update={"source": coming.source, "depth": depth, "scaled_by": scale, "off": off})
