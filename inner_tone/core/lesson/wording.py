"""The educator's own wording and order of a step's instructions, which change neither what is done nor any value.

A wording holds for the instruction with its key, which names the move and its place but no values. Within its text the
facts stand by their names in braces: “Turn {module} down to {cutoff}” for “Set {Reed}’s cutoff to {420 Hz}”. So it says
the values of the patch as it is now, whatever they were when it was written, in whatever order Inner Tone says them.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Any

from pydantic import BeforeValidator, Field, model_validator

from inner_tone.core.documents import Document
from inner_tone.core.lesson.numbered import key_now, named
from inner_tone.core.message import Argument, Message, Name, Part, Worded
from inner_tone.core.patch.edit import EditError, made
from inner_tone.core.patch.instructions import Instruction
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

Key = Annotated[str, BeforeValidator(key_now), Field(max_length=2_000)]
FACT = re.compile(r"\{([a-z][a-z0-9_]*)\}")


class Wording(Document):
    """How the instruction with a key is worded; its facts stand by their names in the text: {module}, {cutoff}."""

    key: Key
    text: Annotated[str, Field(min_length=1, max_length=1_000)]

    @model_validator(mode="before")
    @classmethod
    def upgraded(cls, data: Any) -> Any:
        """Read what was written when facts stood by their numbers."""
        match data:
            case {"key": str() as key, "text": str() as text}:
                return {**data, "text": named(key, text)}
        return data


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


def facts_of(instruction: Instruction) -> tuple[Part, ...]:
    """Return the names and values of an instruction, in their order."""
    return instruction.said.facts


def worded(instruction: Instruction, text: str) -> Instruction | None:
    """Return an instruction in the educator's words, or None if they do not have all its values, or name others."""
    facts = {one.fact: one for one in facts_of(instruction)}
    used = set(FACT.findall(text))
    values = {name for name, one in facts.items() if one.role == "value"}
    if not values <= used or not used <= set(facts):
        return None
    args: dict[str, Argument] = {
        name: Name(one.text) if one.role == "name" else Worded(one.text) for name, one in facts.items()
    }
    return replace(instruction, said=Message(instruction.said.key, args, template(text)))


def template(text: str) -> str:
    """Return the educator's words as a template: braces that hold no fact are only braces."""
    pieces = FACT.split(text)
    return "".join(
        f"{{{piece}}}" if place % 2 else piece.replace("{", "{{").replace("}", "}}")
        for place, piece in enumerate(pieces)
    )


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
