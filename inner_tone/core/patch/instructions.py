"""Instructions: what to do to a patch, as edits, and as sentences whose names and values are marked.

Each says the same in two voices: plainly, and briefly for those who know the trade. With the purpose of a module type
where it is first used, there is a third, for those who do not.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from inner_tone.core.modules.declaration import Input, Value, spoken
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Connection, Module, Patch, Section
from inner_tone.core.patch.moves import Edit
from inner_tone.core.patch.port import Port
from inner_tone.core.units import signed, trimmed, with_unit

InstructionKind = Literal[
    "add",
    "insert",
    "replace",
    "duplicate",
    "remove",
    "connect",
    "move-end",
    "disconnect",
    "set",
    "rename",
    "group",
    "take-apart",
    "play",
]
Role = Literal["plain", "name", "value"]


@dataclass(frozen=True)
class InstructionPart:
    """A stretch of an instruction's sentence."""

    text: str
    role: Role = "plain"


@dataclass(frozen=True)
class Instruction:
    """One move: its kind, its sentence plain and brief, the module that it is about, and the edits that make it.

    `purpose` says what a module of its type is for, where a lesson first uses one.
    """

    kind: InstructionKind
    parts: tuple[InstructionPart, ...]
    brief: tuple[InstructionPart, ...]
    module: str
    edits: tuple[Edit, ...] = ()
    purpose: str = ""

    @property
    def text(self) -> str:
        """The whole sentence."""
        return "".join(part.text for part in self.parts)

    @property
    def brief_text(self) -> str:
        """The whole sentence, brief."""
        return "".join(part.text for part in self.brief)


Words = Sequence[str | InstructionPart]


def sentence(kind: InstructionKind, module: str, plain: Words, brief: Words) -> Instruction:
    """Return an instruction from its parts; bare texts are plain."""
    return Instruction(kind, parts(plain), parts(brief), module)


def parts(words: Words) -> tuple[InstructionPart, ...]:
    """Return words as parts."""
    return tuple(InstructionPart(word) if isinstance(word, str) else word for word in words)


def name(module: Module) -> InstructionPart:
    """Return a module's name as a part."""
    return InstructionPart(module.title, "name")


def kind_of_module(module: Module) -> str:
    """Return what a module is, with its article; with “named” if the educator has named it."""
    noun = module.declaration.noun
    article = noun.rpartition(" ")[0]
    return f"{noun} named " if module.label else f"{article} " if article else ""


def typed(module: Module) -> tuple[str | InstructionPart, ...]:
    """Return a module's name, with its type where the educator has named it."""
    return (name(module), f" ({module.declaration.title.lower()})") if module.label else (name(module),)


def add(module: Module) -> Instruction:
    """Say that a module comes in."""
    return sentence("add", module.id, [f"Add {kind_of_module(module)}", name(module), "."], ["+ ", *typed(module)])


def remove(module: Module) -> Instruction:
    """Say that a module goes, with its connections."""
    return sentence("remove", module.id, ["Remove ", name(module), "."], ["− ", name(module)])


def insert(module: Module, before: Module, after: Module) -> Instruction:
    """Say that a module comes between two others that were connected."""
    plain: list[str | InstructionPart] = [
        f"Insert {kind_of_module(module)}",
        name(module),
        " between ",
        name(before),
        " and ",
        name(after),
        ".",
    ]
    return sentence("insert", module.id, plain, [name(before), " → + ", *typed(module), " → ", name(after)])


def replace(old: Module, new: Module) -> Instruction:
    """Say that a module gives way to one of another type in its place."""
    plain: list[str | InstructionPart] = ["Replace ", name(old), f" by {new.declaration.noun}."]
    return sentence("replace", new.id, plain, [name(old), f" ⇒ {new.declaration.title.lower()}"])


def duplicate(old: Module, new: Module, connected: bool) -> Instruction:
    """Say that a module is doubled, with its connections or without."""
    with_lines = "" if connected else " without its connections"
    plain: list[str | InstructionPart] = ["Duplicate ", name(old), f"{with_lines}: the copy is ", name(new), "."]
    return sentence("duplicate", new.id, plain, [name(old), " ×2: ", name(new), with_lines])


def rename(before: Module, after: Module) -> Instruction:
    """Say that a module has another name."""
    return sentence(
        "rename", after.id, ["Rename ", name(before), " to ", name(after), "."], [name(before), " = ", name(after)]
    )


def set_values(module: Module, values: dict[str, Value], old: dict[str, Value]) -> Instruction:
    """Say which settings of a module change, and to what; of a wave alone, which it gives way to."""
    brief: list[str | InstructionPart] = [name(module), ": "]
    for number, (setting, value) in enumerate(values.items()):
        brief += [
            ", " if number else "",
            f"{called(module, setting)} ",
            InstructionPart(value_text(module, setting, value), "value"),
        ]
    (first, value), *more = values.items()
    if first == module.declaration.named("wave") and not more:
        was, now = (InstructionPart(value_text(module, first, one), "value") for one in (old[first], value))
        return sentence(
            "set", module.id, [f"Swap the {first} of ", name(module), " from ", was, " to ", now, "."], brief
        )
    plain: list[str | InstructionPart] = ["Set ", name(module)]
    for number, (setting, value) in enumerate(values.items()):
        joint = "’s " if number == 0 else " and its " if number == len(values) - 1 else ", its "
        plain += [f"{joint}{called(module, setting)} to ", InstructionPart(value_text(module, setting, value), "value")]
    return sentence("set", module.id, [*plain, "."], brief)


def set_voices(patch: Patch) -> Instruction:
    """Say how many notes can sound at once."""
    count = InstructionPart(str(patch.voices), "value")
    about = patch.modules[0].id if patch.modules else ""
    plain: list[str | InstructionPart] = [
        "Let ",
        count,
        " notes sound at once." if patch.voices > 1 else " note sound at once.",
    ]
    return sentence("set", about, plain, ["voices ", count])


def setting_name(setting: str) -> str:
    """Return a setting's name as people write it."""
    return spoken(setting)


def called(module: Module, setting: str) -> str:
    """Return what people call a setting: an input may have another name than the program's."""
    port = module.declaration.inputs_by_name.get(setting)
    return port.words if port else setting_name(setting)


def value_text(module: Module, setting: str, value: Value) -> str:
    """Return the value of a setting in its unit."""
    choice = module.declaration.choices.get(setting)
    if choice and not isinstance(value, tuple):
        return choice.shown(value)
    if isinstance(value, tuple):
        return ", ".join(trimmed(number) for number in value) or "nothing"
    return with_unit(float(value), module.declaration.rulers[setting].unit)


def connect(graph: Graph, lines: Sequence[Connection]) -> Instruction:
    """Say that an output now feeds an input; `lines` has more than one only for both sides of an output."""
    line = lines[0]
    source, target, port = ends(graph, line)
    depth = () if line.depth == 1.0 else (" with a depth of ", InstructionPart(amount_text(port, line.depth), "value"))
    if port.kind in ("control", "pitch") and not follows_pitch(line, port):
        plain = (*steering("Let ", graph, line), *scaling(graph, line), ".")
    elif follows_pitch(line, port):
        plain = ("Let ", name(target), " follow the pitch of ", name(source), ".")
    else:
        whole = ("Connect ", *output_name(graph, line.source), " to ", *input_name(graph, lines), *depth)
        plain = (*whole, *scaling(graph, line), ".")
    amount = () if line.depth == 1.0 else (" ", InstructionPart(amount_text(port, line.depth), "value"))
    brief = (*output_name(graph, line.source), " → ", *input_name(graph, lines), *amount, *scaling(graph, line))
    return sentence("connect", target.id, plain, brief)


def disconnect(graph: Graph, lines: Sequence[Connection]) -> Instruction:
    """Say that an output no longer feeds an input."""
    source, target = output_name(graph, lines[0].source), input_name(graph, lines)
    about = ends(graph, lines[0])[1].id
    return sentence("disconnect", about, ["Disconnect ", *source, " from ", *target, "."], [*source, " ↛ ", *target])


def move_end(graph: Graph, old: Connection, new: Connection) -> Instruction:
    """Say that a connection ends, or begins, elsewhere; and how far it moves what is there, if that is new."""
    _, target, port = ends(graph, new)
    about = target.id
    amount = InstructionPart(amount_text(port, new.depth), "value")
    steers = port.kind in ("control", "pitch") and not follows_pitch(new, port)
    depth = () if old.depth == new.depth else (", to steer it by " if steers else ", with a depth of ", amount)
    briefly = () if old.depth == new.depth else (" ", amount)
    if old.source == new.source:
        where, to = input_name(graph, [old]), input_name(graph, [new])
        plain = (
            "Move the end of the connection from ",
            *output_name(graph, old.source),
            ": from ",
            *where,
            " to ",
            *to,
            *depth,
            ".",
        )
        brief = [*output_name(graph, old.source), " → ", *where, " ⇒ ", *to, *briefly]
        return sentence("move-end", about, plain, brief)
    where, to = output_name(graph, old.source), output_name(graph, new.source)
    plain = ("Move the beginning of the connection to ", *input_name(graph, [new]), ": from ", *where, " to ", *to, ".")
    return sentence("move-end", about, plain, [*where, " ⇒ ", *to, " → ", *input_name(graph, [new])])


def set_depth(graph: Graph, line: Connection) -> Instruction:
    """Say how far a connection now moves its input."""
    _, target, port = ends(graph, line)
    whole = (*output_name(graph, line.source), " to ", *input_name(graph, [line]))
    amount = InstructionPart(amount_text(port, line.depth), "value")
    brief = (*output_name(graph, line.source), " → ", *input_name(graph, [line]), ": ", amount, *scaling(graph, line))
    if port.kind in ("control", "pitch"):
        return sentence("set", target.id, [*steering("Now let ", graph, line), *scaling(graph, line), "."], brief)
    plain = ("Set the depth from ", *whole, " to ", amount, *scaling(graph, line), ".")
    return sentence("set", target.id, plain, brief)


def switch(graph: Graph, line: Connection) -> Instruction:
    """Say that a connection is switched off, or on again."""
    source, target = output_name(graph, line.source), input_name(graph, [line])
    word = "off" if line.off else "on again"
    plain = (f"Switch {word} the connection from ", *source, " to ", *target, ".")
    return sentence("set", ends(graph, line)[1].id, plain, [*source, " → ", *target, f": {word}"])


def group(patch: Patch, section: Section) -> Instruction:
    """Say which modules form a section."""
    plain: list[str | InstructionPart] = ["Group "]
    brief: list[str | InstructionPart] = []
    for number, member in enumerate(section.modules):
        joint = "" if number == 0 else " and " if number == len(section.modules) - 1 else ", "
        plain += [joint, name(patch.by_id[member])]
        brief += [" + " if number else "", name(patch.by_id[member])]
    label = InstructionPart(section.label, "name")
    return sentence("group", section.modules[0], [*plain, " as the section ", label, "."], [*brief, " = ", label])


def rename_section(before: Section, after: Section) -> Instruction:
    """Say that a section has another name."""
    old, new = InstructionPart(before.label, "name"), InstructionPart(after.label, "name")
    return sentence("rename", after.modules[0], ["Rename the section ", old, " to ", new, "."], [old, " = ", new])


def take_apart(section: Section) -> Instruction:
    """Say that a section is dissolved."""
    label = InstructionPart(section.label, "name")
    return sentence("take-apart", section.modules[0], ["Take the section ", label, " apart."], ["− section ", label])


def ends(graph: Graph, line: Connection) -> tuple[Module, Module, Input]:
    """Return the source module, the target module and the target's input."""
    return graph.module(line.source), graph.module(line.target), graph.input(line.target)


def follows_pitch(line: Connection, port: Input) -> bool:
    """Tell whether a connection lets a pitch follow the player's, key by key."""
    return port.kind == "pitch" and line.source.name == "pitch" and line.depth == 1.0 and not line.scaled_by


def amount_text(port: Input, depth: float) -> str:
    """Return how far a connection moves its input: in the input's unit where it steers, else as a factor."""
    return signed(depth, port.depth_unit) if port.kind in ("control", "pitch") else f"× {trimmed(depth)}"


def steering(verb: str, graph: Graph, line: Connection) -> tuple[str | InstructionPart, ...]:
    """Return who steers what by how much."""
    _, target, port = ends(graph, line)
    who = output_name(graph, line.source)
    amount = InstructionPart(signed(line.depth, port.depth_unit), "value")
    return (verb, *who, f" steer the {port.words} of ", name(target), " by ", amount)


def scaling(graph: Graph, line: Connection) -> tuple[str | InstructionPart, ...]:
    """Return what scales a connection, if anything does."""
    return (", scaled by ", *output_name(graph, line.scaled_by)) if line.scaled_by else ()


def output_name(graph: Graph, port: Port) -> tuple[str | InstructionPart, ...]:
    """Return an output as people call it: the module alone where it has one main output."""
    whose = name(graph.module(port))
    return (whose,) if graph.output_at(port).unnamed else (f"the {setting_name(port.name)} of ", whose)


def input_name(graph: Graph, lines: Sequence[Connection]) -> tuple[str | InstructionPart, ...]:
    """Return an input as people call it: the module alone where it is the way in."""
    port = lines[0].target
    whose = name(graph.module(port))
    if len(lines) > 1:
        return (whose, ", left and right")
    return (whose,) if graph.input(port).unnamed else (f"the {graph.input(port).words} of ", whose)
