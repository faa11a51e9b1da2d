"""The educator's own wording and order of a step's instructions, which change neither what is done nor any value.

A wording holds for the instruction with its key, which names the move and its place but no values. Within its text the
facts stand as numbers in braces: “Turn {1} down to {2}” for “Set {Reed}’s cutoff to {420 Hz}”. So it says the
values of the patch as it is now, whatever they were when it was written.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated

from pydantic import Field

from inner_tone.core.documents import Document
from inner_tone.core.patch.edit import EditError, made
from inner_tone.core.patch.instructions import Instruction, InstructionPart
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import (
    AddModule,
    ChangeLine,
    ChangeSection,
    Connect,
    Disconnect,
    DuplicateModules,
    Edit,
    GroupModules,
    InsertModule,
    MoveEnd,
    RemoveModules,
    RenameModule,
    ReplaceModule,
    SetValue,
    TakeApart,
)

Key = Annotated[str, Field(max_length=2_000)]
FACT = re.compile(r"\{(\d+)\}")


class Wording(Document):
    """How the instruction with a key is worded; its facts stand as {1}, {2} … in the text."""

    key: Key
    text: Annotated[str, Field(min_length=1, max_length=1_000)]


def place_of(edit: Edit) -> str:
    """Return which place of a patch an edit is about, without the values that it gives it."""
    match edit:
        case AddModule(module=module) | InsertModule(module=module):
            return module.id
        case RemoveModules(modules=ids) | DuplicateModules(modules=ids) | GroupModules(modules=ids):
            return ",".join(ids)
        case ReplaceModule(module=identity, type=kind):
            return f"{identity}={kind}"
        case RenameModule(module=identity):
            return identity
        case SetValue(module=identity, setting=setting):
            return f"{identity}.{setting}"
        case Connect(line=line):
            return f"{line.source}>{line.target}"
        case Disconnect(line=ends) | ChangeLine(line=ends):
            return f"{ends.source}>{ends.target}"
        case MoveEnd(line=ends, to=to):
            return f"{ends.source}>{ends.target}={to.source}>{to.target}"
        case TakeApart(section=section) | ChangeSection(section=section):
            return section
    return ""


def key_of(instruction: Instruction) -> str:
    """Return what an instruction is known by: its move and its places, or what is played, without values."""
    places = " ".join(place_of(edit) for edit in instruction.edits) or instruction.module
    return f"{instruction.kind} {places}"[:2_000]


def facts_of(instruction: Instruction) -> list[InstructionPart]:
    """Return the names and values of an instruction, in their order."""
    return [part for part in instruction.parts if part.role != "plain"]


def worded(instruction: Instruction, text: str) -> Instruction | None:
    """Return an instruction in the educator's words, or None if they do not have all its values, or name others."""
    facts = facts_of(instruction)
    numbers = [int(number) - 1 for number in FACT.findall(text)]
    values = {number for number, fact in enumerate(facts) if fact.role == "value"}
    if not values <= set(numbers) or not all(0 <= number < len(facts) for number in numbers):
        return None
    parts: list[InstructionPart] = []
    for place, piece in enumerate(FACT.split(text)):
        if place % 2:
            parts.append(facts[int(piece) - 1])
        elif piece:
            parts.append(InstructionPart(piece))
    return replace(instruction, parts=tuple(parts))


def same_patch(one: Patch, other: Patch) -> bool:
    """Tell whether two patches are the same, in whatever order their parts are listed."""

    def sorted_parts(patch: Patch) -> tuple[object, ...]:
        return (
            patch.voices,
            sorted(patch.modules, key=lambda module: module.id),
            sorted(patch.connections, key=lambda line: (line.source, line.target)),
            sorted(patch.sections, key=lambda section: section.id),
        )

    return sorted_parts(one) == sorted_parts(other)


def in_order(said: Sequence[Instruction], order: Sequence[str]) -> list[Instruction]:
    """Return instructions in the order of their keys; one that has no place in it comes behind its predecessor."""
    places = {key: place for place, key in enumerate(order)}
    found = sorted((one for one in said if key_of(one) in places), key=lambda one: places[key_of(one)])
    for number, one in enumerate(said):
        if key_of(one) not in places:
            at = found.index(said[number - 1]) + 1 if number else 0
            found.insert(at, one)
    return found


def can_be_done(before: Patch, said: Sequence[Instruction], wanted: Sequence[Instruction]) -> bool:
    """Tell whether instructions can be followed in another order, and lead to the same patch."""
    try:
        return same_patch(followed(before, said), followed(before, wanted))
    except EditError:
        return False


def followed(before: Patch, said: Sequence[Instruction]) -> Patch:
    """Return what instructions make of a patch; raises EditError where one needs what is not there yet."""
    patch = before
    for one in said:
        patch = made(patch, one.edits).patch
        needed = {port.module for line in patch.connections for port in (*line.read, line.target)}
        if not needed <= set(patch.by_id):
            raise EditError(f"“{one.text}” needs a module that is not there yet.")
    return patch


@dataclass(frozen=True)
class Telling:
    """What a step tells to do: its instructions, the plain ones that some of them replace, and what no longer fits.

    `plain` are the instructions in Inner Tone's own words, in the same order. `unfitting` are wordings for what is no
    longer done, or done otherwise; `order_holds` is false if the educator's order cannot be followed any longer.
    """

    instructions: tuple[Instruction, ...]
    plain: tuple[Instruction, ...]
    unfitting: tuple[Wording, ...] = ()
    order_holds: bool = True


def telling(before: Patch, said: Sequence[Instruction], order: Sequence[str], wording: Sequence[Wording]) -> Telling:
    """Return the instructions of a step in the educator's order and words, as far as these still hold."""
    wanted = in_order(said, order) if order else list(said)
    holds = wanted == list(said) or can_be_done(before, said, wanted)
    plain = tuple(wanted if holds else said)
    texts = {one.key: one.text for one in wording}
    spoken, fitting = [], set()
    for one in plain:
        key = key_of(one)
        own = worded(one, texts[key]) if key in texts else None
        spoken.append(own or one)
        if own:
            fitting.add(key)
    return Telling(tuple(spoken), plain, tuple(one for one in wording if one.key not in fitting), holds)
