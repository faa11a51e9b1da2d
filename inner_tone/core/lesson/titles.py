"""Titles that the program gives to steps: what a step is about, in at most six words."""

from collections.abc import Callable, Sequence
from typing import Any

from inner_tone.core.patch.edit import made
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.instructions import Instruction, called, value_text
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
UNTITLED = "New step"


def title_of(before: Patch, said: Sequence[Instruction]) -> str:
    """Return what a step is about that does some things to the patch before it: the most telling of them."""
    after = made(before, [edit for one in said for edit in one.edits]).patch
    told = [text for one in sorted(said, key=importance) for text in telling(before, after, one)]
    short = [text for text in told if len(text.split()) <= MOST_WORDS]
    return (short or [cut(text) for text in told] or [UNTITLED])[0][:200]


def importance(said: Instruction) -> int:
    """Return how much a step is about one of its instructions: the less, the more."""
    moves = any(isinstance(edit, Connect) for edit in said.edits)
    order = ("insert", "replace", "remove", "duplicate", "connect" if moves else "", "move-end", "add", "set")
    return order.index(said.kind) if said.kind in order else len(order)


def cut(text: str) -> str:
    """Return the first words of a text, as many as a title may have."""
    return " ".join(text.split()[:MOST_WORDS])


def telling(before: Patch, after: Patch, said: Instruction) -> list[str]:
    """Return what an instruction is about, if that can be said in few words."""
    both = Graph(after.model_copy(update={"modules": tuple((before.by_id | after.by_id).values())}))
    texts = [text for edit in said.edits if (text := WORDS.get(type(edit), nothing)(both, edit))]
    if said.kind == "insert":
        drawn = [edit.line for edit in said.edits if isinstance(edit, Connect)]
        into = [line for line in drawn if line.target.module == said.module and both.carries_sound(line)]
        leaving = [line for line in drawn if line.source.module == said.module]
        behind = [f"{name(both, said.module)} behind {name(both, line.source.module)}" for line in into[:1]]
        return behind or [connected(both, line) for line in leaving[:1]] or texts
    return texts[:1]


def name(graph: Graph, module: str) -> str:
    """Return what a module is called."""
    return graph.modules[module].title


def nothing(graph: Graph, edit: Any) -> str:
    """Return nothing: of some moves there is no more to say than their sentence."""
    return ""


def connected(graph: Graph, line: Connection) -> str:
    """Return what a connection does."""
    source, target, port = name(graph, line.source.module), name(graph, line.target.module), graph.input(line.target)
    if port.part == "gate":
        return f"{source} opens {target}" if port.does else f"{source} drives {target}"
    if port.goes_through:
        return f"{source} into {target}"
    return f"{target} follows {source}" if port.part == "pitch" else f"{source} moves {target}’s {port.words}"


def parted(graph: Graph, source: str, target: str) -> str:
    """Return what is no longer connected."""
    return f"{name(graph, source)} parted from {name(graph, target)}"


def set_to(graph: Graph, edit: SetValue) -> str:
    """Return which setting has which value."""
    module = graph.modules[edit.module]
    return f"{module.title}’s {called(module, edit.setting)}: {value_text(module, edit.setting, edit.value)}"


WORDS: dict[type, Callable[[Graph, Any], str]] = {
    AddModule: lambda graph, edit: f"{name(graph, edit.module.id)} comes in",
    InsertModule: lambda graph, edit: f"{name(graph, edit.module.id)} comes in",
    RemoveModules: lambda graph, edit: f"{name(graph, edit.modules[0])} taken out",
    ReplaceModule: lambda graph, edit: f"{name(graph, edit.module)} instead",
    DuplicateModules: lambda graph, edit: f"{name(graph, edit.modules[0])} doubled",
    RenameModule: lambda graph, edit: f"{name(graph, edit.module)} gets its name",
    Connect: lambda graph, edit: connected(graph, edit.line),
    Disconnect: lambda graph, edit: parted(graph, edit.line.source.module, edit.line.target.module),
    ChangeLine: lambda graph, edit: f"How far {name(graph, edit.line.source.module)} moves",
    SetValue: set_to,
}
