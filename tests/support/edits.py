"""Random edits at the bench, as somebody might make them who tries everything."""

import random
from collections.abc import Sequence

from inner_tone.core.errors import InnerToneError
from inner_tone.core.modules import CATALOGUE
from inner_tone.core.patch.edit import edited
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import (
    ChangeLine,
    ChangeSection,
    Connect,
    Disconnect,
    DuplicateModules,
    Edit,
    Ends,
    GroupModules,
    MoveEnd,
    RemoveModules,
    RenameModule,
    ReplaceModule,
    TakeApart,
)
from inner_tone.core.patch.offers import offers_from
from inner_tone.core.patch.placements import Placing, placements

SMALLEST = 4
ONLY_ONE = ("player", "output")


def random_edits(patch: Patch, dice: random.Random, most: int) -> list[Edit]:
    """Return one move: growing while there is room, shrinking when there is none."""
    grow = len(patch.modules) < most and (len(patch.modules) < SMALLEST or dice.random() < 0.6)
    if grow:
        return added(patch, dice)
    movable = [module.id for module in patch.modules if module.type not in ONLY_ONE]
    lines = [Ends(source=line.source, target=line.target) for line in patch.connections]
    ways = [lambda: connected(patch, dice)]
    if movable and len(patch.modules) > SMALLEST:
        ways += [
            lambda: [RemoveModules(modules=(dice.choice(movable),), bridge=dice.random() < 0.7)],
            lambda: [RenameModule(module=dice.choice(movable), label=dice.choice(["Mole", "Long Harbour Wall", ""]))],
            lambda: [ReplaceModule(module=dice.choice(movable), type=dice.choice(kinds()))],
            lambda: [GroupModules(modules=tuple(dice.sample(movable, min(2, len(movable)))), label="Quay")],
        ]
        if len(patch.modules) < most:
            ways.append(lambda: [DuplicateModules(modules=(dice.choice(movable),), connected=dice.random() < 0.5)])
    if lines:
        ways += [
            lambda: [Disconnect(line=dice.choice(lines))],
            lambda: [ChangeLine(line=dice.choice(lines), depth=dice.choice([0.5, -2.0, 12.0]))],
            lambda: [ChangeLine(line=dice.choice(lines), off=dice.random() < 0.5)],
            lambda: moved(patch, dice, dice.choice(lines)),
        ]
    if patch.sections:
        section = dice.choice(patch.sections).id
        ways += [
            lambda: [ChangeSection(section=section, open=dice.random() < 0.5)],
            lambda: [TakeApart(section=section)],
        ]
    return dice.choice(ways)()


def kinds() -> list[str]:
    return [name for name in CATALOGUE if name not in ONLY_ONE]


def added(patch: Patch, dice: random.Random) -> list[Edit]:
    selected = dice.choice([None, *(module.id for module in patch.modules)])
    ways = list(Placing(Graph(patch), CATALOGUE[dice.choice(kinds())], selected, None).all())
    return list(dice.choice(ways[:2]).edits)


def connected(patch: Patch, dice: random.Random) -> list[Edit]:
    outputs = [port for port, _ in Graph(patch).outputs()]
    offers = [one for one in offers_from(Graph(patch), dice.choice(outputs)) if not one.present]
    return [Connect(line=dice.choice(offers[:6]).line)] if offers else []


def moved(patch: Patch, dice: random.Random, line: Ends) -> list[Edit]:
    offers = [one for one in offers_from(Graph(patch), line.source) if not one.present]
    if not offers:
        return []
    return [MoveEnd(line=line, to=Ends(source=line.source, target=dice.choice(offers[:6]).line.target))]


def patch_of(count: int, seed: int) -> Patch:
    """Return a patch of so many modules that has come about by random edits."""
    dice = random.Random(seed)
    patch = edited(Patch(), placements(Graph(Patch()), None)["player"][0].edits).patch
    patch = edited(patch, placements(Graph(patch), None)["output"][0].edits).patch
    while len(patch.modules) < count:
        patch = tried(patch, random_edits(patch, dice, count))
    return patch


def tried(patch: Patch, edits: Sequence[Edit]) -> Patch:
    """Return the patch after some edits, or as it was if they are refused."""
    try:
        return edited(patch, edits).patch
    except InnerToneError:
        return patch


# what is added, in its usual place after what is selected, and what it is called
HARBOUR = (
    ("player", "", "Keeper"),
    ("output", "", "Harbour"),
    ("oscillator", "", "Reed"),
    ("oscillator", "oscillator", "Low reed"),
    ("noise", "oscillator", "Steam"),
    ("filter", "oscillator", "Bell mouth"),
    ("amplifier", "filter", "Horn"),
    ("envelope", "amplifier", "Breath"),
    ("envelope", "filter", "Bite"),
    ("lfo", "filter", "Swell"),
    ("lfo", "oscillator", "Tremble"),
    ("slew", "", "Glide"),
    ("delay", "", "Quay wall"),
    ("reverb", "", "Fog"),
    ("mixer", "", "All sounds"),
    ("oscillator", "mixer", "Engine"),
    ("filter", "oscillator-3", "Hull"),
    ("amplifier", "filter-2", "Engine room"),
    ("envelope", "amplifier-2", "Throttle"),
    ("envelope", "filter-2", "Stroke"),
    ("lfo", "filter-2", "Pistons"),
    ("oscillator", "mixer", "Gull"),
    ("shaper", "oscillator-4", "Beak"),
    ("filter", "shaper", "Sky"),
    ("amplifier", "filter-3", "Cry"),
    ("envelope", "amplifier-3", "Call"),
    ("envelope", "filter-3", "Throat"),
    ("lever", "filter", "Weather"),
    ("lever", "delay", "Distance"),
    ("noise", "mixer", "Rain"),
    ("filter", "noise-2", "Deck"),
    ("amplifier", "filter-4", "Shower"),
    ("envelope", "amplifier-4", "Squall"),
    ("lfo", "filter-4", "Gusts"),
    ("pan", "amplifier-4", "Wind side"),
    ("lfo", "pan", "Veering"),
    ("harmonics", "mixer", "Harmonium"),
    ("amplifier", "harmonics", "Chapel"),
    ("envelope", "amplifier-5", "Bellows"),
    ("lfo", "envelope-7", "Pedals"),
)


def harbour(count: int = 40) -> Patch:
    """Return a patch of so many modules as somebody would build it who keeps to the usual places."""
    played = Patch()
    for kind, selected, label in HARBOUR:
        if len(played.modules) >= count:
            break
        ways = placements(Graph(played), selected or None)[kind]
        behind = [way for way in ways if selected and way.words.startswith("behind")]
        done = edited(played, (behind or ways)[0].edits)
        played = edited(done.patch, [RenameModule(module=done.touched[-1], label=label)]).patch
    return played
