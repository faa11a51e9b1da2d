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
from inner_tone.core.nearness import render_compared
from inner_tone.core.patch.instructions import Instruction, called
from inner_tone.core.patch.match import Match, match
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import ChangeLine, Connect, Edit, SetValue
from inner_tone.core.patch.port import Port
from inner_tone.core.phrase import Phrase, levers_named
from inner_tone.core.units import capital

NUMBERS = ("nothing", "one", "two", "three", "four", "five", "six")
SILENT = 1e-5
NEAR_DISTANCE = 4.0  # so many times as far as what counts as the same, a sound is near


@dataclass(frozen=True)
class Hint:
    """Help with one thing that remains: where to look, what to do, and the edits that do it."""

    where: str
    what: str
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
        yield Hint(where_to_look(mine, wiring.goal, one), one.text, one.module, one.edits)


def where_to_look(mine: Patch, goal: Patch, one: Instruction) -> str:
    """Return where something remains to be done, without saying what."""
    module = goal.by_id.get(one.module) or mine.by_id.get(one.module)
    title = module.title if module else "the patch"
    if one.kind in ("add", "insert", "duplicate", "replace") and module is not None:
        summary = module.declaration.summary
        return f"Something is missing that does this: {summary[0].lower()}{summary[1:]}"
    if one.kind == "remove":
        return f"Is {title} needed?"
    if one.kind in ("connect", "move-end"):
        return f"{title} waits for something."
    if one.kind == "disconnect":
        return f"Something goes into {title} that does not belong there."
    places = [place for edit in one.edits for place in place_words(goal, edit)]
    return f"Look at {' and '.join(dict.fromkeys(places))}." if places else f"Look at {title}."


def place_words(patch: Patch, edit: Edit) -> Iterator[str]:
    """Yield what an edit is about, in words, without its value."""
    match edit:
        case SetValue(module=name, setting=setting) if name in patch.by_id:
            yield f"the {called(patch.by_id[name], setting)} of {patch.by_id[name].title}"
        case Connect(line=line):
            yield f"how much goes into {input_words(patch, line.target)}"
        case ChangeLine(line=ends):
            yield f"how much goes into {input_words(patch, ends.target)}"


def input_words(patch: Patch, port: Port) -> str:
    """Return an input in words."""
    module = patch.by_id[port.module]
    through = module.declaration.input(port.name).goes_through
    return module.title if through else f"the {called(module, port.name)} of {module.title}"


def answer(found: Nearness) -> str:
    """Return how near somebody is, in a sentence or two."""
    if found.untouched and not found.done:
        return "Nothing is done yet: this is where the step begins."
    left = len(found.match.remaining)
    many = NUMBERS[left] if left < len(NUMBERS) else str(left)
    wiring = "wired as in the lesson" if not left else f"{many} {'thing is' if left == 1 else 'things are'} left to do"
    if found.sound.cannot_tell == "silent" or found.sound.partials_db is found.sound.spectrum_db is None:
        return f"{'Done' if found.done else 'Not yet'}: {wiring}; nothing is heard yet."
    sound = "it sounds the same" if found.sound.same else "it does not sound the same"
    said = capital(f"{found.clauses[0].text}.") if found.clauses else ""
    head = "Done" if found.done else "Near" if found.near else "Not yet"
    return f"{head}: {sound}, {wiring}. {said}".strip()
