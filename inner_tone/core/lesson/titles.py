"""Titles that the program gives to steps: what a step is about, in at most six words."""

from collections.abc import Callable, Sequence
from typing import Any

from inner_tone.core.message import Message, Name, say
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.instructions import Instruction, called, shown
from inner_tone.core.patch.model import Connection, Patch
from inner_tone.core.patch.moves import (
    AddModule,
    ChangeLine,
    Connect,
    Disconnect,
    DuplicateModules,
    InsertModule,
    RemoveModules,
    RenameModule,
    ReplaceModule,
    SetValue,
)

MOST_WORDS = 6


def title_of(before: Patch, said: Sequence[Instruction]) -> str:
    """Return what a step is about that does some things to the patch before it: the most telling of them."""
    after = made(before, [edit for one in said for edit in one.edits]).patch
    told = [str(text) for one in sorted(said, key=importance) for text in telling(before, after, one)]
    short = [text for text in told if len(text.split()) <= MOST_WORDS]
    return (short or [cut(text) for text in told] or [str(say("title.new"))])[0][:200]


def importance(said: Instruction) -> int:
    """Return how much a step is about one of its instructions: the less, the more."""
    moves = any(isinstance(edit, Connect) for edit in said.edits)
    order = ("insert", "replace", "remove", "duplicate", "connect" if moves else "", "move-end", "add", "set")
    return order.index(said.kind) if said.kind in order else len(order)


def cut(text: str) -> str:
    """Return the first words of a text, as many as a title may have."""
    return " ".join(text.split()[:MOST_WORDS])


def telling(before: Patch, after: Patch, said: Instruction) -> list[Message]:
    """Return what an instruction is about, if that can be said in few words."""
    both = Graph(after.model_copy(update={"modules": tuple((before.by_id | after.by_id).values())}))
    texts = [text for edit in said.edits if (text := WORDS.get(type(edit), nothing)(both, edit))]
    if said.kind == "insert":
        drawn = [line for line in after.connections if said.module in line.modules]
        into = [line for line in drawn if line.target.module == said.module and both.carries_sound(line)]
        leaving = [line for line in drawn if line.source.module == said.module]
        behind = [
            say("title.behind", module=name(both, said.module), before=name(both, line.source.module))
            for line in into[:1]
        ]
        return behind or [connected(both, line) for line in leaving[:1]] or texts
    return texts[:1]


def name(graph: Graph, module: str) -> Name:
    """Return what a module is called."""
    return Name(graph.modules[module].title)


def nothing(graph: Graph, edit: Any) -> None:
    """Say nothing: of some moves there is no more to say than their sentence."""


def connected(graph: Graph, line: Connection) -> Message:
    source, target, port = name(graph, line.source.module), name(graph, line.target.module), graph.input(line.target)
    if port.part == "gate":
        return (
            say("title.opens", source=source, target=target)
            if port.does
            else say("title.drives", source=source, target=target)
        )
    if port.goes_through:
        return say("title.into", source=source, target=target)
    return (
        say("title.follows", target=target, source=source)
        if port.part == "pitch"
        else say("title.moves", source=source, target=target, port=port.words)
    )


def parted(graph: Graph, source: str, target: str) -> Message:
    """Return what is no longer connected."""
    return say("title.parted-from", source=name(graph, source), target=name(graph, target))


def set_to(graph: Graph, edit: SetValue) -> Message:
    """Return which setting has which value."""
    module = graph.modules[edit.module]
    return say(
        "title.set",
        module=Name(module.title),
        setting=called(module, edit.setting),
        value=shown(module, edit.setting, edit.value),
    )


WORDS: dict[type, Callable[[Graph, Any], Message | None]] = {
    AddModule: lambda graph, edit: say("title.comes-in", module=name(graph, edit.module.id)),
    InsertModule: lambda graph, edit: say("title.comes-in", module=name(graph, edit.module.id)),
    RemoveModules: lambda graph, edit: say("title.taken-out", module=name(graph, edit.modules[0])),
    ReplaceModule: lambda graph, edit: say("title.instead", module=name(graph, edit.module)),
    DuplicateModules: lambda graph, edit: say("title.doubled", module=name(graph, edit.modules[0])),
    RenameModule: lambda graph, edit: say("title.named", module=name(graph, edit.module)),
    Connect: lambda graph, edit: connected(graph, edit.line),
    Disconnect: lambda graph, edit: parted(graph, edit.line.source.module, edit.line.target.module),
    ChangeLine: lambda graph, edit: say("title.how-far", module=name(graph, edit.line.source.module)),
    SetValue: set_to,
}
