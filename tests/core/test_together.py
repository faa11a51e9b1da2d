"""Two people at one step: all that only one has changed stands, and what both have is asked, never lost."""

import random
import unittest
from typing import Any

from inner_tone.core.lesson.step import StepContent, checked
from inner_tone.core.lesson.together import Side, Together, mine_beside, together
from inner_tone.core.patch.edit import edited
from inner_tone.core.patch.moves import Edit, RemoveModules, RenameModule, SetValue
from inner_tone.core.phrase import Note
from inner_tone.demo import foghorn
from tests.support.tokens import notes_in, sequence, tokens_in

PAIRS = 400
BASE = foghorn.STEPS[4].model_copy(update={"why": "One.\nTwo.\nThree.\nFour.", "listen": "Low. High. Far."})


def made(*edits: Edit, **parts: Any) -> StepContent:
    return BASE.model_copy(update={"patch": edited(BASE.patch, edits).patch} | parts)


def turned(value: float, module: str = "out") -> SetValue:
    return SetValue(module=module, setting="level", value=value)


def decided(theirs: StepContent, mine: StepContent, side: Side) -> Together:
    """Return what comes of two changes when one side wins wherever they clash."""
    clashes = together(BASE, theirs, mine).clashes
    return together(BASE, theirs, mine, {one.key: side for one in clashes})


class TogetherTest(unittest.TestCase):
    def test_what_each_has_changed_stands(self) -> None:
        met = together(BASE, made(turned(-3)), made(RenameModule(module="reed", label="Pipe"), title="Mine"))
        self.assertEqual(met.clashes, ())
        self.assertEqual(met.content, made(turned(-3), RenameModule(module="reed", label="Pipe"), title="Mine"))

    def test_sentences_of_a_text(self) -> None:
        met = together(BASE, made(why="One.\nTwo, or not.\nThree.\nFour."), made(why="One.\nTwo.\nThree.\nFour. Five."))
        self.assertEqual((met.content.why, met.clashes), ("One.\nTwo, or not.\nThree.\nFour. Five.", ()))
        met = together(BASE, made(why="One.\nTheirs.\nThree.\nFour."), made(why="One.\nMine.\nThree.\nFour."))
        self.assertEqual([(one.words, one.theirs, one.mine) for one in met.clashes], [("Why", "“Theirs.”", "“Mine.”")])
        self.assertEqual(met.content.why, "One.\nTheirs.\nThree.\nFour.")

    def test_the_same_setting_is_asked_with_its_name_and_both_values(self) -> None:
        theirs, mine = made(turned(-3)), made(turned(-5))
        (clash,) = together(BASE, theirs, mine).clashes
        self.assertEqual(
            (clash.words, clash.theirs, clash.mine), (f"The level of {BASE.patch.by_id['out'].title}", "−3 dB", "−5 dB")
        )
        self.assertEqual(decided(theirs, mine, "mine").content, mine)
        self.assertEqual(decided(theirs, mine, "theirs").content, theirs)

    def test_title_that_somebody_writes_goes_before_one_that_the_program_makes_meanwhile(self) -> None:
        theirs, mine = made(title="Pipe comes in", title_made=True), made(title="The pipe")
        self.assertEqual(together(BASE, theirs, mine), Together(mine, ()))
        self.assertEqual(together(BASE, mine, theirs), Together(mine, ()))
        again = made(title="Pipe opened", title_made=True)
        self.assertEqual(together(BASE, theirs, again).content.title, "Pipe comes in")

    def test_choice_holds_only_for_what_was_seen(self) -> None:
        (clash,) = together(BASE, made(turned(-3)), made(turned(-5))).clashes
        later = together(BASE, made(turned(-4)), made(turned(-5)), {clash.key: "mine"})
        self.assertEqual(len(later.clashes), 1)

    def test_removed_there_and_changed_here_is_asked(self) -> None:
        gone, changed = made(RemoveModules(modules=("reed",))), made(RenameModule(module="reed", label="Pipe"))
        for theirs, mine in ((gone, changed), (changed, gone)):
            self.assertEqual([one.words for one in together(BASE, theirs, mine).clashes][:1], ["Pipe"])
            self.assertEqual("reed" in decided(theirs, mine, "mine").content.patch.by_id, mine is changed)
            self.assertEqual("reed" in decided(theirs, mine, "theirs").content.patch.by_id, theirs is changed)

    def test_note_that_both_have_moved_is_asked(self) -> None:
        def moved(pitch: float) -> StepContent:
            notes = (BASE.phrase.notes[0].model_copy(update={"pitch": pitch}), *BASE.phrase.notes[1:])
            return made(phrase=BASE.phrase.model_copy(update={"notes": notes}))

        self.assertEqual([one.words for one in together(BASE, moved(50), moved(51)).clashes], ["The notes"])
        new = Note(start=0.5, length=0.25, pitch=80)
        more = made(phrase=BASE.phrase.model_copy(update={"notes": (*BASE.phrase.notes, new)}))
        met = together(BASE, moved(50), more)
        self.assertEqual(met.clashes, ())
        self.assertEqual(notes_in(met.content), notes_in(moved(50)) | {new})


class AnyTest(unittest.TestCase):
    """Random pairs of changes, each with something in it that is found nowhere else."""

    def pairs(self) -> list[tuple[StepContent, StepContent]]:
        dice = random.Random(61)
        return [([*sequence(BASE, dice, "th")][-1], [*sequence(BASE, dice, "mi")][-1]) for _ in range(PAIRS)]

    def test_one_side_alone_is_that_side(self) -> None:
        for theirs, mine in self.pairs():
            self.assertEqual(together(BASE, theirs, BASE), Together(theirs, ()))
            self.assertEqual(together(BASE, BASE, mine), Together(mine, ()))
            self.assertEqual(together(BASE, mine, mine), Together(mine, ()))

    def test_nothing_is_lost(self) -> None:
        clashed = 0
        for theirs, mine in self.pairs():
            met = together(BASE, theirs, mine)
            clashed += bool(met.clashes)
            checked(met.content)
            self.assertLessEqual(tokens_in(theirs, "th"), tokens_in(met.content, "th"), met.clashes)
            if not met.clashes:
                self.assertLessEqual(tokens_in(mine, "mi"), tokens_in(met.content, "mi"))
                self.assertLessEqual((notes_in(theirs) | notes_in(mine)) - notes_in(BASE), notes_in(met.content))
        self.assertGreater(clashed, PAIRS // 20)
        self.assertLess(clashed, PAIRS // 2)

    def test_whoever_wins_has_all_of_theirs(self) -> None:
        for theirs, mine in self.pairs():
            met = decided(theirs, mine, "mine")
            self.assertEqual(met.clashes, ())
            checked(met.content)
            self.assertLessEqual(tokens_in(mine, "mi"), tokens_in(met.content, "mi"))
            self.assertEqual(mine_beside(BASE, theirs, mine), met.content)
            met = decided(theirs, mine, "theirs")
            self.assertLessEqual(tokens_in(theirs, "th"), tokens_in(met.content, "th"))


if __name__ == "__main__":
    unittest.main()
