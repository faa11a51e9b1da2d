"""How near a learner is who does a step at a bench of their own, and what helps them on.

Their patch is matched with the step's, whatever they call things; it is heard beside the step's sound; and each
instruction is done when the patch shows it. A hint first says where to look, then what to do; then it can be shown.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from inner_tone.core.analysis.compare import EXACT, Comparison, Target, Tolerances
from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.analysis.sentences.near import near_clauses
from inner_tone.core.lesson.aim import USUAL, Aim
from inner_tone.core.message import Argument, Listed, Message, Name, Opening, say
from inner_tone.core.nearness import render_compared
from inner_tone.core.patch.instructions import Instruction, called
from inner_tone.core.patch.match import Match, match
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import ChangeLine, Connect, Edit, SetValue
from inner_tone.core.patch.port import Port
from inner_tone.core.phrase import Phrase, levers_named

MOST_IN_WORDS = 6
SILENT = 1e-5
NEAR_DISTANCE = 4.0  # so many times as far as what counts as the same, a sound is near


@dataclass(frozen=True)
class Hint:
    """Help with one thing that remains: where to look, what to do, and the edits that do it."""

    where: Message
    what: Message
    module: str
    edits: tuple[Edit, ...]


@dataclass(frozen=True)
class Nearness:
    """How near somebody is: by wiring, by sound, instruction by instruction; and what remains as hints.

    `untouched` if it is what the step begins with.
    """

    match: Match
    sound: Comparison
    tolerances: Tolerances
    clauses: tuple[Clause, ...]
    shown: tuple[bool, ...]
    hints: tuple[Hint, ...]
    done: bool
    near: bool
    untouched: bool


@dataclass(frozen=True)
class Task:
    """A step as it is to be done: what it begins with, what it leads to, what it plays, what it says, what counts."""

    start: Patch
    goal: Patch
    phrase: Phrase
    said: Sequence[Instruction]
    aim: Aim | None = None

    def phrase_at(self, bench: Match) -> Phrase:
        """Return what the step plays at a bench: its movements reach the levers that are there for its own."""
        return levers_named(self.phrase, bench.names)


def nearness(task: Task, mine: Patch, target: Target) -> Nearness:
    """Return how near somebody's patch is to what a step leads to.

    Parameters
    ----------
    task
        The step.
    mine
        A valid patch.
    target
        The sound of the goal: `core.nearness.target_for`.
    """
    aim = task.aim or USUAL
    wiring = match(mine, task.goal, task.start)
    tolerances = EXACT.wider(aim.tolerance)
    sound = render_compared(target, mine, task.phrase_at(wiring), tolerances)
    untouched = match(mine, task.start, task.start).same
    same_sound = sound.same and not says_nothing(task, target, sound)
    done = {
        "sound": same_sound or wiring.same,
        "wiring": wiring.same,
        "both": wiring.same and sound.same,
        "free": not untouched,
    }[aim.by]
    distance = sound.distance(tolerances) if sound.cannot_tell is None else float("inf")
    shown = tuple(wiring.shown(task.said))
    near = done or distance <= NEAR_DISTANCE or (len(shown) > 1 and sum(shown) >= len(shown) - 1)
    return Nearness(
        match=wiring,
        sound=sound,
        tolerances=tolerances,
        clauses=tuple(near_clauses(target, sound, tolerances)) if not sound.same else (),
        shown=shown,
        hints=tuple(hints(mine, wiring)),
        done=done and not (untouched and not wiring.same),
        near=near and not untouched,
        untouched=untouched,
    )


def says_nothing(task: Task, target: Target, sound: Comparison) -> bool:
    """Tell whether a sound that is the same cannot show that a step is done: it is silent, or as it was before."""
    silent = float(np.max(np.abs(target.signal), initial=0.0)) < SILENT
    return sound.same and (silent or render_compared(target, task.start, task.phrase, EXACT).same)


def hints(mine: Patch, wiring: Match) -> Iterator[Hint]:
    """Yield help with each thing that remains, in an order in which it can be done."""
    for one in wiring.remaining:
        yield Hint(where_to_look(mine, wiring.goal, one), one.said, one.module, one.edits)


def where_to_look(mine: Patch, goal: Patch, one: Instruction) -> Message:
    """Return where something remains to be done, without saying what."""
    module = goal.by_id.get(one.module) or mine.by_id.get(one.module)
    title: Argument = Name(module.title) if module else say("hint.patch")
    if one.kind in ("add", "insert", "duplicate", "replace") and module is not None:
        summary = module.declaration.summary
        return say("hint.missing", summary=f"{summary[0].lower()}{summary[1:]}")
    if one.kind == "remove":
        return say("hint.is-needed", module=title)
    if one.kind in ("connect", "move-end"):
        return say("hint.waits", module=title)
    if one.kind == "disconnect":
        return say("hint.does-not-belong", module=title)
    places = {str(place): place for edit in one.edits for place in places_of(goal, edit)}
    return say("hint.look-at", place=Listed(list(places.values())) if places else title)


def places_of(patch: Patch, edit: Edit) -> Iterator[Message]:
    """Yield what an edit is about, in words, without its value."""
    match edit:
        case SetValue(module=name, setting=setting) if name in patch.by_id:
            yield say("do.port", port=called(patch.by_id[name], setting), module=Name(patch.by_id[name].title))
        case Connect(line=line):
            yield say("hint.how-much", target=entrance(patch, line.target))
        case ChangeLine(line=ends):
            yield say("hint.how-much", target=entrance(patch, ends.target))


def entrance(patch: Patch, port: Port) -> Argument:
    """Return an input as people call it."""
    module = patch.by_id[port.module]
    through = module.declaration.input(port.name).goes_through
    whose = Name(module.title)
    return whose if through else say("do.port", port=called(module, port.name), module=whose)


def answer(found: Nearness) -> Message:
    """Return how near somebody is, in a sentence or two."""
    if found.untouched and not found.done:
        return say("hint.nothing-done")
    head = say(f"hint.head.{'done' if found.done else 'near' if found.near else 'not-yet'}")
    left = len(found.match.remaining)
    if not left:
        wiring = say("hint.wired")
    else:
        count = say(f"hint.number.{left}") if left <= MOST_IN_WORDS else str(left)
        wiring = say("hint.left.one" if left == 1 else "hint.left.many", count=count)
    if found.sound.cannot_tell == "silent" or found.sound.partials_db is found.sound.spectrum_db is None:
        return say("hint.silent", head=say("hint.head.done" if found.done else "hint.head.not-yet"), wiring=wiring)
    sound = say("hint.same" if found.sound.same else "hint.not-the-same")
    if not found.clauses:
        return say("hint.verdict", head=head, sound=sound, wiring=wiring)
    return say("hint.verdict-and", head=head, sound=sound, wiring=wiring, differs=Opening(found.clauses[0].said))
