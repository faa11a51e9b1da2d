"""Instructions: what to do to a patch, as edits, and as messages whose names and values are its facts.

Each says the same in two voices: plainly, and briefly for those who know the trade. With the purpose of a module type
where it is first used, there is a third, for those who do not.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from inner_tone.core.message import Argument, Fact, Listed, Message, Name, Part, Quantity, Row, Worded, say
from inner_tone.core.modules.declaration import Input, Value, spoken
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Connection, Module, Patch, Section
from inner_tone.core.patch.moves import Edit
from inner_tone.core.patch.port import Port
from inner_tone.core.units import trimmed, with_unit

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


@dataclass(frozen=True)
class Instruction:
    """One move: its kind, what is said of it plainly and briefly, the module that it is about, and its edits.

    `purpose` says what a module of its type is for, where a lesson first uses one.
    """

    kind: InstructionKind
    said: Message
    said_briefly: Message
    module: str
    edits: tuple[Edit, ...] = ()
    purpose: str = ""

    @property
    def parts(self) -> tuple[Part, ...]:
        """The whole sentence, with its names and values marked."""
        return self.said.parts

    @property
    def brief(self) -> tuple[Part, ...]:
        """The whole sentence, brief, with its names and values marked."""
        return self.said_briefly.parts

    @property
    def text(self) -> str:
        """The whole sentence."""
        return str(self.said)

    @property
    def brief_text(self) -> str:
        """The whole sentence, brief."""
        return str(self.said_briefly)


def do(kind: InstructionKind, about: str, key: str, **args: Argument) -> Instruction:
    """Return an instruction whose plain and brief templates are those of a key."""
    return Instruction(kind, Message(f"do.{key}", args), Message(f"do.{key}.brief", args), about)


def name(module: Module) -> Name:
    """Return a module's name."""
    return Name(module.title)


def kind_of_module(module: Module) -> Message:
    """Return what a module is, with its article; with “named” if the educator has named it."""
    noun = module.declaration.noun
    if module.label:
        return say("do.kind.named", noun=noun)
    article = noun.rpartition(" ")[0]
    return say("do.kind.alone", article=article) if article else say("do.kind.none")


def typed(module: Module) -> Argument:
    """Return a module's name, with its type where the educator has named it."""
    kind = module.declaration.title.lower()
    return say("do.typed", module=name(module), type=kind) if module.label else name(module)


def add(module: Module) -> Instruction:
    """Say that a module comes in."""
    plain = say("do.add", kind=kind_of_module(module), module=name(module))
    return Instruction("add", plain, say("do.add.brief", module=typed(module)), module.id)


def remove(module: Module) -> Instruction:
    """Say that a module goes, with its connections."""
    return do("remove", module.id, "remove", module=name(module))


def insert(module: Module, graph: Graph, lines: Sequence[Connection]) -> Instruction:
    """Say that a module comes into some connections from one output: between the modules, or between what of them."""
    source = lines[0].source
    targets = [
        place
        for target in dict.fromkeys(line.target.module for line in lines)
        for place in between(graph, source, [line for line in lines if line.target.module == target])
    ]
    outputs = {line.source for line in graph.leaving(source.module) if line.target.module == lines[0].target.module}
    before = name(graph.module(source)) if outputs == {source} else output_name(graph, source)
    ends: dict[str, Argument] = {"before": before, "after": Listed(targets)}
    plain = say("do.insert", kind=kind_of_module(module), module=name(module), **ends)
    return Instruction("insert", plain, say("do.insert.brief", module=typed(module), **ends), module.id)


def between(graph: Graph, source: Port, lines: Sequence[Connection]) -> list[Argument]:
    """Return what connections lead to in a module: the module, where these are all from there, else each input."""
    target = lines[0].target.module
    every = {line.target for line in graph.leaving(source.module) if line.target.module == target}
    taken = {line.target for line in lines}
    if taken == every:
        return [name(graph.modules[target])]
    ways = [line for line in lines if graph.input(line.target).unnamed]
    return [
        say("do.way", module=name(graph.modules[target])) if line in ways else input_name(graph, [line])
        for line in lines
    ]


def replace(old: Module, new: Module) -> Instruction:
    """Say that a module gives way to one of another type in its place."""
    kind = new.declaration
    args: dict[str, Argument] = {"module": name(old), "noun": kind.noun, "type": kind.title.lower()}
    if new.label == old.label:
        return do("replace", new.id, "replace", **args)
    return do("replace", new.id, "replace-named", **args, name=name(new))


def duplicate(old: Module, new: Module, connected: bool) -> Instruction:
    """Say that a module is doubled, with its connections or without."""
    return do("duplicate", new.id, "duplicate" if connected else "duplicate.alone", module=name(old), copy=name(new))


def rename(before: Module, after: Module) -> Instruction:
    """Say that a module has another name."""
    return do("rename", after.id, "rename", before=name(before), after=name(after))


def set_values(module: Module, values: dict[str, Value], old: dict[str, Value]) -> Instruction:
    """Say which settings of a module change, and to what; of a wave alone, which it gives way to."""
    each: list[dict[str, Argument]] = [
        {"setting": called(module, one), "value": Fact(one, shown(module, one, value))} for one, value in values.items()
    ]
    briefly = [say(f"do.set.brief.{'next' if place else 'first'}", **one) for place, one in enumerate(each)]
    brief = say("do.set.brief", module=name(module), settings=Row(briefly))
    (first, value), *more = values.items()
    if first == module.declaration.named("wave") and not more:
        was, now = shown(module, first, old[first]), shown(module, first, value)
        return Instruction(
            "set", say("do.swap", setting=first, module=name(module), old=was, new=now), brief, module.id
        )
    places = ["first", *("next" for _ in values)][: len(values)]
    if more:
        places[-1] = "last"
    settings = Row([say(f"do.set.{place}", **one) for place, one in zip(places, each, strict=True)])
    return Instruction("set", say("do.set", module=name(module), settings=settings), brief, module.id)


def set_voices(patch: Patch) -> Instruction:
    """Say how many notes can sound at once."""
    count = Worded(str(patch.voices))
    about = patch.modules[0].id if patch.modules else ""
    plain = say("do.voices" if patch.voices > 1 else "do.voices.one", voices=count)
    return Instruction("set", plain, say("do.voices.brief", voices=count), about)


def called(module: Module, setting: str) -> str:
    """Return what people call a setting: an input may have another name than the program's."""
    port = module.declaration.inputs_by_name.get(setting)
    return port.words if port else spoken(setting)


def value_text(module: Module, setting: str, value: Value) -> str:
    """Return the value of a setting in its unit."""
    choice = module.declaration.choices.get(setting)
    if choice and not isinstance(value, tuple):
        return choice.shown(value)
    if isinstance(value, tuple):
        return ", ".join(trimmed(number) for number in value) or "nothing"
    return with_unit(float(value), module.declaration.rulers[setting].unit)


def shown(module: Module, setting: str, value: Value) -> Argument:
    """Return the value of a setting, as a value of its unit where it has one."""
    if module.declaration.choices.get(setting) or isinstance(value, tuple):
        return Worded(value_text(module, setting, value))
    return Quantity(float(value), module.declaration.rulers[setting].unit)


def connect(graph: Graph, lines: Sequence[Connection]) -> Instruction:
    """Say that an output now feeds an input; `lines` has more than one only for both sides of an output."""
    line = lines[0]
    _, target, port = ends(graph, line)
    args: dict[str, Argument] = {
        "source": output_name(graph, line.source),
        "target": input_name(graph, lines),
        "scaling": scaling(graph, line),
        "depth": moved_by(port, line.depth),
    }
    key = "connect" if line.depth == 1.0 else "connect-depth"
    brief = Message(f"do.{key}.brief", args)
    if follows_pitch(line, port):
        plain = say("do.follow", target=name(target), source=name(graph.module(line.source)))
    elif steers(port):
        plain = say("do.steer", **(args | {"input": port.words, "target": name(target)}))
    else:
        plain = Message(f"do.{key}", args)
    return Instruction("connect", plain, brief, target.id)


def disconnect(graph: Graph, lines: Sequence[Connection]) -> Instruction:
    """Say that an output no longer feeds an input."""
    about = ends(graph, lines[0])[1].id
    args = {"source": output_name(graph, lines[0].source), "target": input_name(graph, lines)}
    return do("disconnect", about, "disconnect", **args)


def move_end(graph: Graph, old: Connection, new: Connection) -> Instruction:
    """Say that a connection ends, or begins, elsewhere; and how far it moves what is there, if that is new."""
    _, target, port = ends(graph, new)
    if old.source != new.source:
        begins = {"old": output_name(graph, old.source), "new": output_name(graph, new.source)}
        return do("move-end", target.id, "beginning", target=input_name(graph, [new]), **begins)
    args: dict[str, Argument] = {
        "source": output_name(graph, old.source),
        "old": input_name(graph, [old]),
        "new": input_name(graph, [new]),
        "depth": moved_by(port, new.depth),
    }
    if old.depth == new.depth:
        return do("move-end", target.id, "end", **args)
    key = "end-steers" if steers(port) and not follows_pitch(new, port) else "end-depth"
    return Instruction("move-end", Message(f"do.{key}", args), Message("do.end-depth.brief", args), target.id)


def set_depth(graph: Graph, line: Connection) -> Instruction:
    """Say how far a connection now moves its input."""
    _, target, port = ends(graph, line)
    args: dict[str, Argument] = {
        "source": output_name(graph, line.source),
        "target": input_name(graph, [line]),
        "depth": moved_by(port, line.depth),
        "scaling": scaling(graph, line),
    }
    brief = Message("do.depth.brief", args)
    if steers(port):
        plain = say("do.steer.now", **(args | {"input": port.words, "target": name(target)}))
    else:
        plain = Message("do.depth", args)
    return Instruction("set", plain, brief, target.id)


def switch(graph: Graph, line: Connection) -> Instruction:
    """Say that a connection is switched off, or on again."""
    args = {"source": output_name(graph, line.source), "target": input_name(graph, [line])}
    return do("set", ends(graph, line)[1].id, "off" if line.off else "on", **args)


def group(patch: Patch, section: Section) -> Instruction:
    """Say which modules form a section."""
    members = [name(patch.by_id[member]) for member in section.modules]
    first, *more = members
    briefly = Row([first, *(say("do.group.brief.next", module=one) for one in more)])
    label = Name(section.label)
    plain = say("do.group", modules=Listed(members), section=label)
    return Instruction("group", plain, say("do.group.brief", modules=briefly, section=label), section.modules[0])


def rename_section(before: Section, after: Section) -> Instruction:
    """Say that a section has another name."""
    labels = {"before": Name(before.label), "after": Name(after.label)}
    return Instruction("rename", say("do.section.rename", **labels), say("do.rename.brief", **labels), after.modules[0])


def take_apart(section: Section) -> Instruction:
    """Say that a section is dissolved."""
    return do("take-apart", section.modules[0], "section.apart", section=Name(section.label))


def ends(graph: Graph, line: Connection) -> tuple[Module, Module, Input]:
    """Return the source module, the target module and the target's input."""
    return graph.module(line.source), graph.module(line.target), graph.input(line.target)


def follows_pitch(line: Connection, port: Input) -> bool:
    """Tell whether a connection lets a pitch follow the player's, key by key."""
    return port.kind == "pitch" and line.source.name == "pitch" and line.depth == 1.0 and not line.scaled_by


def steers(port: Input) -> bool:
    """Tell whether what comes into an input moves a value, so that a depth has its unit."""
    return port.kind in ("control", "pitch")


def moved_by(port: Input, depth: float) -> Argument:
    """Return how far a connection moves its input: in the input's unit where it steers, else as a factor."""
    if steers(port):
        return Quantity(depth, port.depth_unit, moves=True)
    return Worded(say("do.factor", times=trimmed(depth)))


def scaling(graph: Graph, line: Connection) -> Message:
    """Return what scales a connection, if anything does."""
    return say("do.scaled", scale=output_name(graph, line.scaled_by)) if line.scaled_by else say("do.unscaled")


def output_name(graph: Graph, port: Port) -> Argument:
    """Return an output as people call it: the module alone where it has one main output."""
    whose = name(graph.module(port))
    return whose if graph.output_at(port).unnamed else say("do.port", port=spoken(port.name), module=whose)


def input_name(graph: Graph, lines: Sequence[Connection]) -> Argument:
    """Return an input as people call it: the module alone where it is the way in."""
    port = lines[0].target
    whose = name(graph.module(port))
    if len(lines) > 1:
        return say("do.sides", module=whose)
    return whose if graph.input(port).unnamed else say("do.port", port=graph.input(port).words, module=whose)
