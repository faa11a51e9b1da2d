"""Steps in another order: everything is wired as before in the end, and what would mean nothing is refused."""

import random
import unittest
from collections.abc import Sequence

from inner_tone.core.errors import InnerToneError
from inner_tone.core.lesson.arranging import Change, OrderError, arranged
from inner_tone.core.modules.declaration import Ruler
from inner_tone.core.patch.difference import difference, opening
from inner_tone.core.patch.edit import edited
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import Edit, RemoveModules, SetValue
from inner_tone.core.patch.placements import placements
from inner_tone.demo.foghorn import STEPS
from tests.core.test_edit import lines_of
from tests.support.patches import settled

MOVES, SEED = 400, 3


def put(played: Patch, kind: str, selected: str | None = None, words: str = "") -> Patch:
    ways = placements(Graph(played), selected)[kind]
    return edited(played, next(way for way in ways if way.words.startswith(words)).edits).patch


def chain(*kinds: tuple[str, str | None, str]) -> list[Patch]:
    """Return the patches of steps each of which puts one module in."""
    first = Patch()
    for kind in ("player", "output", "oscillator"):
        first = put(first, kind)
    found = [first]
    for kind, selected, words in kinds:
        found.append(put(found[-1], kind, selected, words))
    return found


def valued(patch: Patch, module: str, setting: str, value: float) -> Patch:
    return edited(patch, [SetValue(module=module, setting=setting, value=value)]).patch


class OrderTest(unittest.TestCase):
    def arranged(self, patches: Sequence[Patch], order: Sequence[int]) -> list[Patch]:
        return arranged(patches, order, opening(patches[0]))

    def assert_same(self, found: Sequence[Patch], wanted: Sequence[Patch]) -> None:
        self.assertEqual([settled(one) for one in found], [settled(one) for one in wanted])

    def test_what_is_put_between_two_others_means_the_same_before_the_first_of_them(self) -> None:
        """A compressor between reverb and output, before there is a reverb: no dry way past it, no silent reverb."""
        for before, after in (("reverb", "compressor"), ("shaper", "filter"), ("delay", "amplifier")):
            patches = chain((before, "oscillator", "behind"), (after, before, "behind"))
            found = self.arranged(patches, [0, 2, 1])
            self.assertEqual(settled(found[2]), settled(patches[2]), "in the end all is wired as before")
            self.assertEqual(
                {one.id for one in found[1].modules} - {one.id for one in patches[0].modules},
                set(one.id for one in patches[2].modules if one.id not in patches[1].by_id),
            )
            into = [line.source.module for line in Graph(found[1]).sound_into("output")]
            self.assertNotIn("oscillator", into, "no way past what was put in")
            back = self.arranged(found, [0, 2, 1])
            self.assert_same(back, patches)

    def test_what_is_put_before_the_first_of_them_too(self) -> None:
        patches = chain(("filter", "oscillator", "behind"), ("shaper", "filter", "before"))
        found = self.arranged(patches, [0, 2, 1])
        self.assertEqual(settled(found[2]), settled(patches[2]))
        self.assertEqual(
            lines_of(found[1]) - lines_of(patches[0]),
            {"oscillator.out>shaper.in", "shaper.out>output.left", "shaper.out>output.right"},
        )

    def test_step_that_sets_what_comes_later_is_refused_by_name(self) -> None:
        first = chain(("filter", "oscillator", "behind"))
        patches = [*first, valued(first[-1], "filter", "cutoff", 500)]
        with self.assertRaisesRegex(
            OrderError, "Step 3 sets the cutoff of Filter, which would come in only later, with"
        ):
            self.arranged(patches, [0, 2, 1])
        steered = [*first, put(first[-1], "envelope", "filter")]
        with self.assertRaisesRegex(OrderError, "Step 3 draws a connection of Filter, which would come in only later"):
            self.arranged(steered, [0, 2, 1])

    def test_step_that_needs_what_has_gone_is_refused(self) -> None:
        first = chain(("filter", "oscillator", "behind"))
        turned = valued(first[-1], "filter", "cutoff", 500)
        patches = [*first, turned, edited(turned, [RemoveModules(modules=("filter",))]).patch]
        with self.assertRaisesRegex(OrderError, "Step 3 sets the cutoff of Filter, which would be gone by then"):
            self.arranged(patches, [0, 1, 3, 2])

    def test_last_value_is_that_of_the_step_that_comes_last(self) -> None:
        first = chain(("filter", "oscillator", "behind"))
        patches = [*first]
        for cutoff in (800, 1200):
            patches.append(valued(patches[-1], "filter", "cutoff", cutoff))
        found = self.arranged(patches, [0, 1, 3, 2])
        self.assertEqual([one.by_id["filter"].settings["cutoff"] for one in found[2:]], [1200, 800])
        self.assert_same(self.arranged(found, [0, 1, 3, 2]), patches)

    def test_foghorn_in_any_order_that_can_be(self) -> None:
        patches = [step.patch for step in STEPS]
        found = self.arranged(patches, [0, 1, 2, 4, 3])
        self.assertEqual(settled(found[-1]), settled(patches[-1]))
        self.assertNotIn("breath", found[3].by_id)
        self.assert_same(self.arranged(found, [0, 1, 2, 4, 3]), patches)
        with self.assertRaisesRegex(
            OrderError, "Step 3 .*Loudness, which would come in only later, with what is step 2"
        ):
            self.arranged(patches, [0, 2, 1, 3, 4])


KINDS = (
    "oscillator",
    "filter",
    "amplifier",
    "shaper",
    "delay",
    "reverb",
    "mixer",
    "envelope",
    "lfo",
    "scale",
    "noise",
    "compressor",
    "pan",
    "slew",
)


def random_lesson(dice: random.Random) -> list[Patch]:
    """Return the patches of 4 to 12 steps, built as people build them: by what is offered, by values, by taking out."""
    here = chain()[0]
    found = [here]
    while len(found) < dice.randint(4, 12):
        edits: Sequence[Edit] = ()
        pick = dice.random()
        name = dice.choice(list(here.by_id))
        if pick < 0.6:
            way = dice.choice(placements(Graph(here), name)[dice.choice(KINDS)][:3])
            edits = way.edits
        elif pick < 0.9:
            rulers = list(here.by_id[name].declaration.rulers.items())
            if rulers:
                setting, ruler = dice.choice(rulers)
                edits = (SetValue(module=name, setting=setting, value=value_on(ruler, dice)),)
        elif name not in ("player", "output"):
            edits = (RemoveModules(modules=(name,)),)
        try:
            after = edited(here, edits).patch
        except InnerToneError:
            continue
        if settled(after) != settled(here):
            here = after
            found.append(here)
    return found


def value_on(ruler: Ruler, dice: random.Random) -> float:
    return (
        round(dice.uniform(ruler.low, ruler.high), 3)
        if not ruler.whole
        else float(round(dice.uniform(ruler.low, ruler.high)))
    )


class AnyOrderTest(unittest.TestCase):
    def test_every_move_can_be_taken_back_and_the_last_patch_stays(self) -> None:
        made = refused = 0
        for number in range(MOVES):
            dice = random.Random(f"{SEED}-{number}")
            patches = random_lesson(dice)
            order = list(range(len(patches)))
            moved = order.pop(dice.randrange(1, len(order)))
            order.insert(dice.randrange(1, len(order) + 1), moved)
            first = opening(patches[0])
            try:
                found = arranged(patches, order, first)
            except OrderError as error:
                self.assertRegex(str(error), r"[Ss]tep \d+")
                refused += 1
                continue
            made += 1
            with self.subTest(number, order=order):
                self.assertEqual(structure(found[-1]), structure(patches[-1]), "all is wired as before in the end")
                if not doubly_set(patches, first):
                    self.assertEqual(settled(found[-1]), settled(patches[-1]))
                    back = arranged(found, [order.index(place) for place in range(len(order))], first)
                    self.assertEqual([settled(one) for one in back], [settled(one) for one in patches])
                for before, after in zip([first, *found], found, strict=False):
                    difference(before, after)
        self.assertGreater(made, 0.4 * MOVES, f"{refused} refused")


def structure(patch: Patch) -> tuple[set[str], set[str]]:
    """Return the modules and the connections of a patch without their values."""
    return set(patch.by_id), lines_of(patch)


def doubly_set(patches: Sequence[Patch], first: Patch) -> bool:
    """Tell whether two steps set the same thing, so that it matters which comes last."""
    changes = [Change(before, after) for before, after in zip([first, *patches], patches, strict=False)]
    places = [(name, key) for one in changes for name, key, _ in one.set_values]
    return len(places) != len(set(places))


if __name__ == "__main__":
    unittest.main()
