"""Changes of a step as somebody makes them, each with something in it that is found nowhere else."""

import json
import random
from collections.abc import Iterator
from itertools import count

from inner_tone.core.errors import InnerToneError
from inner_tone.core.lesson.step import Detour, StepContent
from inner_tone.core.patch.edit import edited
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import Edit, RemoveModules, RenameModule, SetValue
from inner_tone.core.phrase import Note
from tests.support.edits import added

NUMBERS = count(1)


def changed_once(step: StepContent, dice: random.Random, name: str) -> StepContent:
    """Return a step after one change; `name` says whose it is."""
    token = f"{name}{next(NUMBERS)}x"
    ways = [
        lambda: step.model_copy(update={"title": f"Title {token}"}),
        lambda: step.model_copy(update={"why": reworded(step.why, token, dice)}),
        lambda: step.model_copy(update={"listen": reworded(step.listen, token, dice)}),
        lambda: with_patch(step, RenameModule(module=module_of(step.patch, dice), label=f"Module {token}")),
        lambda: with_patch(step, *added(step.patch, dice), label=f"New {token}"),
        lambda: with_patch(step, RemoveModules(modules=(removable(step.patch, dice),))),
        lambda: with_patch(step, SetValue(module="out", setting="level", value=-dice.randrange(1, 4000) / 100)),
        lambda: with_note(step, dice),
        lambda: with_detour(step, token),
        lambda: step.model_copy(update={"extra": not step.extra}),
    ]
    return dice.choice(ways)()


def reworded(text: str, token: str, dice: random.Random) -> str:
    """Return a text with another sentence somewhere, or one in the place of another."""
    sentences = text.split("\n")
    place = dice.randrange(len(sentences) + 1)
    return "\n".join([*sentences[:place], f"So says {token}.", *sentences[place + dice.randrange(2) :]])


def module_of(patch: Patch, dice: random.Random) -> str:
    return dice.choice(patch.modules).id


def removable(patch: Patch, dice: random.Random) -> str:
    found = [module.id for module in patch.modules if module.type not in ("player", "output")]
    return dice.choice(found) if found else "nothing"


def with_patch(step: StepContent, *edits: Edit, label: str | None = None) -> StepContent:
    """Return a step with its patch edited, or as it was if that is refused."""
    try:
        done = edited(step.patch, edits)
        if label is not None:
            done = edited(done.patch, [RenameModule(module=done.touched[-1], label=label)])
    except InnerToneError:
        return step
    return step.model_copy(update={"patch": done.patch})


def with_note(step: StepContent, dice: random.Random) -> StepContent:
    note = Note(start=dice.randrange(16) / 4, length=0.25, pitch=20 + next(NUMBERS) % 9_000 / 100)
    notes = (*step.phrase.notes, note)
    return step.model_copy(update={"phrase": step.phrase.model_copy(update={"notes": notes})})


def with_detour(step: StepContent, token: str) -> StepContent:
    detour = Detour(id=f"detour-{len(step.detours) + 1}", name=f"Way {token}", patch=step.patch)
    return step.model_copy(update={"detours": (*step.detours, detour)})


def tokens_in(step: StepContent, name: str) -> set[str]:
    """Return what of somebody's changes is found in a step, but for what stands in detours' patches."""
    shown = step.model_copy(
        update={"detours": tuple(one.model_copy(update={"patch": Patch()}) for one in step.detours)}
    )
    words = json.dumps(shown.model_dump(mode="json"), ensure_ascii=False).replace('"', " ").replace(".", " ").split()
    return {word for word in words if word.startswith(name) and word.endswith("x")}


def notes_in(step: StepContent) -> set[Note]:
    return set(step.phrase.notes)


def sequence(step: StepContent, dice: random.Random, name: str, most: int = 6) -> Iterator[StepContent]:
    """Yield a step after one change after the other."""
    for _ in range(dice.randrange(1, most)):
        step = changed_once(step, dice, name)
        yield step
