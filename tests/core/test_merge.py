"""Three-way merges: a change of an early step, brought into the later ones."""

import random
import unittest
from typing import Any

from inner_tone.core.lesson.sequence import SequenceError, carried, cut, rearranged
from inner_tone.core.lesson.step import StepContent
from inner_tone.core.lesson.wording import Wording, key_of
from inner_tone.core.patch.difference import difference
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.merge import Merged, decidable, merged
from inner_tone.core.patch.model import Patch
from inner_tone.demo.foghorn import BARE, BREATHED, DISTANT, STEPS, SWITCHED
from tests.support.edits import patch_of, random_edits, tried
from tests.support.patches import Line, module, patch, settled

OUT = module("out", "output")
LINES: list[Line] = [("f.out", "out.left")]


def filtered(lines: list[Line] = LINES, **settings: Any) -> Patch:
    return patch([module("f", "filter", **settings), OUT], lines)


class MergeTest(unittest.TestCase):
    def settings(self, found: Merged) -> Any:
        return found.patch.by_id["f"].all_settings

    def test_changes_in_different_places_come_together(self) -> None:
        found = merged(filtered(cutoff=500), filtered(cutoff=800), filtered(cutoff=500, resonance=0.5))
        self.assertEqual(found.conflicts, ())
        self.assertEqual((self.settings(found)["cutoff"], self.settings(found)["resonance"]), (800, 0.5))

    def test_the_same_change_on_both_sides_is_none(self) -> None:
        found = merged(filtered(cutoff=500), filtered(cutoff=800), filtered(cutoff=800))
        self.assertEqual((found.conflicts, self.settings(found)["cutoff"]), ((), 800))

    def test_one_setting_changed_twice_is_a_conflict_with_both_values(self) -> None:
        sides = filtered(cutoff=500), filtered(cutoff=800), filtered(cutoff=1200)
        found = merged(*sides)
        (conflict,) = found.conflicts
        told = (conflict.words, conflict.early, conflict.late)
        self.assertEqual(told, ("the cutoff of Filter", "800 Hz", "1,200 Hz"))
        self.assertEqual(self.settings(found)["cutoff"], 1200, "until somebody chooses, the later one stands")
        self.assertEqual(self.settings(merged(*sides, {conflict.place: "early"}))["cutoff"], 800)

    def test_early_side_can_win_after_all_by_edits(self) -> None:
        sides = filtered(cutoff=500), filtered(cutoff=800), filtered(cutoff=1200)
        found = decidable(*sides)
        won = made(found.patch, found.conflicts[0].edits).patch
        self.assertEqual(won.by_id["f"].all_settings["cutoff"], 800)

    def test_module_added_early_stands_in_later_steps(self) -> None:
        early = patch([module("f", "filter"), module("lfo", "lfo"), OUT], [*LINES, ("lfo.out", "f.cutoff", 12)])
        found = merged(filtered(), early, filtered(resonance=0.3))
        self.assertEqual(set(found.patch.by_id), {"f", "lfo", "out"})
        self.assertIn(("lfo.out", "f.cutoff"), [line.ends for line in found.patch.connections])

    def test_module_removed_early_goes_unless_it_is_used_later(self) -> None:
        base = patch([module("f", "filter"), module("n", "noise"), OUT], LINES)
        early = filtered()
        self.assertNotIn("n", merged(base, early, base).patch.by_id)
        used = patch([module("f", "filter"), module("n", "noise"), OUT], [*LINES, ("n.out", "f.in")])
        found = merged(base, early, used)
        (conflict,) = found.conflicts
        self.assertEqual((conflict.early, conflict.late), ("not there", "connected to Filter"))
        self.assertIn("n", found.patch.by_id)
        gone = merged(base, early, used, {conflict.place: "early"}).patch
        self.assertEqual([line.ends for line in gone.connections], [("f.out", "out.left")])

    def test_connection_changed_on_both_sides(self) -> None:
        base, early, late = (filtered([("f.out", "out.left", depth)]) for depth in (1, 0.5, 0.25))
        (conflict,) = merged(base, early, late).conflicts
        self.assertEqual((conflict.early, conflict.late), ("depth 0.5", "depth 0.25"))
        cut_early = merged(base, filtered([]), base)
        self.assertEqual((cut_early.patch.connections, cut_early.conflicts), ((), ()))

    def test_same_id_for_different_things_is_kept_apart(self) -> None:
        early = patch([module("f", "filter"), module("x", "noise"), OUT], [*LINES, ("x.out", "f.in")])
        late = patch([module("f", "filter"), module("x", "lfo"), OUT], [*LINES, ("x.out", "f.cutoff", 12)])
        found = merged(filtered(), early, late).patch
        self.assertEqual(sorted(one.type for one in found.modules), ["filter", "lfo", "noise", "output"])
        self.assertEqual(len(found.connections), 3)

    def test_what_would_not_be_valid_stays_as_it_was(self) -> None:
        early = patch([module("f", "filter"), OUT, module("player", "player")])
        late = patch([module("f", "filter"), OUT, module("keys", "player")])
        found = merged(patch([module("f", "filter"), OUT]), early, late)
        self.assertEqual((found.patch, found.conflicts[-1].place), (late, "patch"))

    def test_nothing_changed_early_leaves_the_later_one_and_nothing_later_gives_the_early_one(self) -> None:
        for seed in range(60):
            dice = random.Random(seed)
            base = patch_of(dice.randint(4, 12), seed)
            other = base
            for _ in range(5):
                other = tried(other, random_edits(other, dice, 14))
            self.assertEqual(settled(merged(base, base, other).patch), settled(other), seed)
            forward = merged(base, other, base)
            self.assertEqual((settled(forward.patch), forward.conflicts), (settled(other), ()), seed)


class SequenceTest(unittest.TestCase):
    PATCHES = tuple(step.patch for step in STEPS)

    def test_early_change_goes_through_all_later_steps(self) -> None:
        lower = tuple(
            one.model_copy(update={"settings": {**one.settings, "octave": -1}}) if one.id == "reed" else one
            for one in BARE.modules
        )
        changed = BARE.model_copy(update={"modules": lower})
        found = carried([changed, *self.PATCHES[1:]], 0, [BARE, None, None, None, None])
        self.assertEqual([one.place for one in found], [1, 2, 3, 4])
        for one in found:
            self.assertEqual((one.patch.by_id["reed"].settings["octave"], one.conflicts), (-1, ()))
        self.assertEqual(settled(found[-1].patch)[2], settled(DISTANT)[2], "all else is as it was")

    def test_and_back_again_it_is_as_it_was(self) -> None:
        changed = [SWITCHED.model_copy(update={"voices": 3}), *self.PATCHES[3:]]
        forward = [one.patch for one in carried(changed, 0, [SWITCHED, None, None])]
        back = carried([SWITCHED, *forward], 0, [changed[0], None, None])
        self.assertEqual([settled(one.patch) for one in back], [settled(one) for one in self.PATCHES[3:]])

    def test_later_step_with_a_change_of_its_own_hands_on_both(self) -> None:
        first = [patch([module("f", "filter", cutoff=cutoff), OUT], LINES) for cutoff in (500, 800)]
        second = [patch([module("f", "filter", cutoff=500, resonance=one), OUT], LINES) for one in (0.1, 0.9)]
        third = patch([module("f", "filter", cutoff=500, resonance=0.1, slope=24), OUT], LINES)
        found = carried([first[1], second[1], third], 0, [first[0], second[0], None])
        last = found[-1].patch.by_id["f"].all_settings
        self.assertEqual((last["cutoff"], last["resonance"], last["slope"]), (800, 0.9, 24))
        self.assertFalse(any(one.conflicts for one in found))

    def test_same_order_changes_nothing(self) -> None:
        found = rearranged(self.PATCHES, range(5))
        self.assertEqual([settled(one.patch) for one in found], [settled(one) for one in self.PATCHES])
        self.assertFalse(any(one.conflicts for one in found))

    def test_steps_that_need_nothing_of_each_other_change_places(self) -> None:
        found = rearranged(self.PATCHES, [0, 1, 2, 4, 3])
        self.assertFalse(any(one.conflicts for one in found))
        self.assertEqual(settled(found[-1].patch), settled(DISTANT), "in the end all is there")
        self.assertNotIn("breath", found[3].patch.by_id)
        self.assertIn("bell", found[3].patch.by_id)

    def test_cut_in_two(self) -> None:
        said = difference(BREATHED, DISTANT)
        self.assertEqual([one.kind for one in said], ["insert", "set"])
        whole = StepContent(
            patch=DISTANT, title="Distance", wording=(Wording(key=key_of(said[1]), text="To {cutoff}: {module}!"),)
        )
        first, rest = cut((BREATHED, None), whole, 1)
        half = first.patch
        self.assertEqual((first.wording, rest), ((), whole), "a wording stays with what it words")
        self.assertEqual([one.text for one in difference(BREATHED, half)], [said[0].text])
        self.assertEqual([one.text for one in difference(half, DISTANT)], [said[1].text])
        for count in (0, 2):
            with self.assertRaises(SequenceError):
                cut((BREATHED, None), whole, count)


if __name__ == "__main__":
    unittest.main()
