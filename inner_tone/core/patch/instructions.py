"""Instructions: what to do to a patch, as facts and as a sentence whose names and values are marked."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from inner_tone.core.modules.declaration import Input, Value
from inner_tone.core.patch.model import Connection, Module, Patch, Section, split_port
from inner_tone.core.units import signed, trimmed, with_unit

InstructionKind = Literal["add", "insert", "remove", "connect", "disconnect", "set", "rename", "group", "take-apart"]
Role = Literal["plain", "name", "value"]


@dataclass(frozen=True)
class Part:
    """A stretch of an instruction's sentence."""

    text: str
    role: Role = "plain"


@dataclass(frozen=True)
class Instruction:
    """One move: its kind, its sentence, and the module that it is about."""

    kind: InstructionKind
    parts: tuple[Part, ...]
    module: str

    @property
    def text(self) -> str:
        """The whole sentence."""
        return "".join(part.text for part in self.parts)


def sentence(kind: InstructionKind, module: str, *parts: str | Part) -> Instruction:
    """Return an instruction from its parts; bare texts are plain."""
    return Instruction(kind, tuple(Part(part) if isinstance(part, str) else part for part in parts), module)


def name(module: Module) -> Part:
    """Return a module's name as a part."""
    return Part(module.title, "name")


def kind_of_module(module: Module) -> str:
    """Return what a module is, with its article; with “named” if the educator has named it."""
    noun = module.declaration.noun
    article = noun.rpartition(" ")[0]
    return f"{noun} named " if module.label else f"{article} " if article else ""


def add(module: Module) -> Instruction:
    """Say that a module comes in."""
    return sentence("add", module.id, f"Add {kind_of_module(module)}", name(module), ".")


def remove(module: Module) -> Instruction:
    """Say that a module goes, with its connections."""
    return sentence("remove", module.id, "Remove ", name(module), ".")


def insert(module: Module, before: Module, after: Module) -> Instruction:
    """Say that a module comes between two others that were connected."""
    parts = (f"Insert {kind_of_module(module)}", name(module), " between ", name(before), " and ", name(after), ".")
    return sentence("insert", module.id, *parts)


def rename(before: Module, after: Module) -> Instruction:
    """Say that a module has another name."""
    return sentence("rename", after.id, "Rename ", name(before), " to ", name(after), ".")


def set_values(module: Module, values: dict[str, Value]) -> Instruction:
    """Say which settings of a module change, and to what."""
    parts: list[str | Part] = ["Set ", name(module)]
    for number, (setting, value) in enumerate(values.items()):
        joint = "’s " if number == 0 else " and its " if number == len(values) - 1 else ", its "
        parts += [f"{joint}{setting_name(setting)} to ", Part(value_text(module, setting, value), "value")]
    return sentence("set", module.id, *parts, ".")


def setting_name(setting: str) -> str:
    """Return a setting's name as people write it."""
    return setting.replace("_", " ")


def value_text(module: Module, setting: str, value: Value) -> str:
    """Return the value of a setting in its unit."""
    choice = module.declaration.choices.get(setting)
    if choice and not isinstance(value, tuple):
        return choice.shown(value)
    if isinstance(value, tuple):
        return ", ".join(trimmed(number) for number in value) or "nothing"
    return with_unit(float(value), module.declaration.rulers[setting].unit)


def connect(patch: Patch, lines: Sequence[Connection]) -> Instruction:
    """Say that an output now feeds an input; `lines` has more than one only for both sides of an output."""
    line = lines[0]
    source, target, port = ends(patch, line)
    depth = () if line.depth == 1.0 else (" with a depth of ", Part(trimmed(line.depth), "value"))
    if port.kind in ("control", "pitch") and not follows_pitch(line, port):
        return sentence("connect", target.id, *steering("Let ", patch, line), *scaling(patch, line), ".")
    if follows_pitch(line, port):
        return sentence("connect", target.id, "Let ", name(target), " follow the pitch of ", name(source), ".")
    whole = ("Connect ", *output_name(patch, line.source), " to ", *input_name(patch, lines), *depth)
    return sentence("connect", target.id, *whole, *scaling(patch, line), ".")


def disconnect(patch: Patch, lines: Sequence[Connection]) -> Instruction:
    """Say that an output no longer feeds an input."""
    parts = (*output_name(patch, lines[0].source), " from ", *input_name(patch, lines))
    return sentence("disconnect", ends(patch, lines[0])[1].id, "Disconnect ", *parts, ".")


def set_depth(patch: Patch, line: Connection) -> Instruction:
    """Say how far a connection now moves its input."""
    _, target, port = ends(patch, line)
    if port.kind in ("control", "pitch"):
        return sentence("set", target.id, *steering("Now let ", patch, line), *scaling(patch, line), ".")
    parts = (*output_name(patch, line.source), " to ", *input_name(patch, [line]))
    amount = Part(trimmed(line.depth), "value")
    return sentence("set", target.id, "Set the depth from ", *parts, " to ", amount, *scaling(patch, line), ".")


def switch(patch: Patch, line: Connection) -> Instruction:
    """Say that a connection is switched off, or on again."""
    parts = (*output_name(patch, line.source), " to ", *input_name(patch, [line]))
    word = "off" if line.off else "on again"
    return sentence("set", ends(patch, line)[1].id, f"Switch {word} the connection from ", *parts, ".")


def group(patch: Patch, section: Section) -> Instruction:
    """Say which modules form a section."""
    parts: list[str | Part] = ["Group "]
    for number, member in enumerate(section.modules):
        joint = "" if number == 0 else " and " if number == len(section.modules) - 1 else ", "
        parts += [joint, name(patch.by_id[member])]
    return sentence("group", section.modules[0], *parts, " as the section ", Part(section.label, "name"), ".")


def rename_section(before: Section, after: Section) -> Instruction:
    """Say that a section has another name."""
    parts = (Part(before.label, "name"), " to ", Part(after.label, "name"), ".")
    return sentence("rename", after.modules[0], "Rename the section ", *parts)


def take_apart(section: Section) -> Instruction:
    """Say that a section is dissolved."""
    return sentence("take-apart", section.modules[0], "Take the section ", Part(section.label, "name"), " apart.")


def ends(patch: Patch, line: Connection) -> tuple[Module, Module, Input]:
    """Return the source module, the target module and the target's input."""
    target, port = split_port(line.target)
    return patch.by_id[split_port(line.source)[0]], patch.by_id[target], patch.by_id[target].declaration.input(port)


def follows_pitch(line: Connection, port: Input) -> bool:
    """Tell whether a connection lets a pitch follow the player's, key by key."""
    return port.kind == "pitch" and line.source.endswith(".pitch") and line.depth == 1.0 and not line.scaled_by


def steering(verb: str, patch: Patch, line: Connection) -> tuple[str | Part, ...]:
    """Return who steers what by how much."""
    _, target, port = ends(patch, line)
    who = output_name(patch, line.source)
    amount = Part(signed(line.depth, port.depth_unit), "value")
    return (verb, *who, f" steer the {setting_name(port.name)} of ", name(target), " by ", amount)


def scaling(patch: Patch, line: Connection) -> tuple[str | Part, ...]:
    """Return what scales a connection, if anything does."""
    return (", scaled by ", *output_name(patch, line.scaled_by)) if line.scaled_by else ()


def output_name(patch: Patch, port: str) -> tuple[str | Part, ...]:
    """Return an output as people call it: the module alone where it has one main output."""
    module, port_name = split_port(port)
    whose = name(patch.by_id[module])
    return (whose,) if port_name == "out" else (f"the {setting_name(port_name)} of ", whose)


def input_name(patch: Patch, lines: Sequence[Connection]) -> tuple[str | Part, ...]:
    """Return an input as people call it: the module alone where it is the way in."""
    module, port_name = split_port(lines[0].target)
    whose = name(patch.by_id[module])
    if len(lines) > 1:
        return (whose, ", left and right")
    return (whose,) if port_name == "in" else (f"the {setting_name(port_name)} of ", whose)
