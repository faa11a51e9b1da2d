"""A module that is called otherwise: its name follows within braces, and nowhere else."""

import unittest

from inner_tone.core.lesson.fields import value_of
from inner_tone.core.lesson.renaming import in_fields, relabelled, shared, with_names
from inner_tone.core.lesson.step import Decision, Detour, StepContent
from inner_tone.core.patch.edit import edited
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import RemoveModules, RenameModule
from inner_tone.demo.foghorn import BLASTS, DISTANT

TEXT = "Not Bell mouth: {the cutoff of bell Mouth}, {the module Bell mouth}, {the tempo}, {the wave of Reed}."


def renamed(label: str, patch: Patch = DISTANT) -> Patch:
    return edited(patch, [RenameModule(module="bell", label=label)]).patch


class RenamingTest(unittest.TestCase):
    def test_only_what_stands_within_braces_follows(self) -> None:
        self.assertEqual(
            in_fields(TEXT, {"Bell mouth": "Funnel"}),
            "Not Bell mouth: {the cutoff of Funnel}, {the module Funnel}, {the tempo}, {the wave of Reed}.",
        )
        self.assertEqual(
            in_fields("{the note of the cutoff of Bell mouth}", {"Bell mouth": "Funnel"}),
            "{the note of the cutoff of Funnel}",
        )

    def test_texts_follow_their_patch(self) -> None:
        old = StepContent(patch=DISTANT, phrase=BLASTS, why=TEXT)
        new = with_names(DISTANT, old.model_copy(update={"patch": renamed("Funnel")}))
        self.assertIn("{the cutoff of Funnel}", new.why)
        self.assertEqual(value_of("the cutoff of Funnel", new, {}), "420 Hz")
        gone = old.model_copy(update={"patch": edited(DISTANT, [RemoveModules(modules=("bell",))]).patch})
        self.assertEqual(with_names(DISTANT, gone), gone, "what is gone is marked, not named otherwise")

    def test_two_that_change_their_names_at_once_are_not_mixed_up(self) -> None:
        swapped = edited(renamed("Funnel"), [RenameModule(module="reed", label="Bell mouth")]).patch
        step = StepContent(patch=swapped, phrase=BLASTS, why="{the cutoff of Bell mouth} {the wave of Reed}")
        self.assertEqual(with_names(DISTANT, step).why, "{the cutoff of Funnel} {the wave of Bell mouth}")

    def test_steps_that_share_the_module_follow_and_those_that_call_it_otherwise_do_not(self) -> None:
        labels = relabelled(DISTANT, renamed("Funnel"))
        self.assertEqual(labels, {"bell": ("Bell mouth", "Funnel")})
        decision = Decision(words="the cutoff of Bell mouth", early="200 Hz", late="420 Hz")
        detour = Detour(id="far", name="Bell mouth open", patch=DISTANT)
        step = StepContent(patch=DISTANT, built_on=DISTANT, why=TEXT, decisions=(decision,), detours=(detour,))
        here = shared(step, labels)
        self.assertEqual(here.patch, renamed("Funnel"))
        self.assertEqual((here.built_on, here.detours[0].patch), (renamed("Funnel"), renamed("Funnel")))
        self.assertEqual(here.detours[0].name, "Bell mouth open", "what a person wrote stays")
        self.assertEqual(here.decisions[0].words, "the cutoff of Funnel")
        own = StepContent(patch=renamed("Throat"), why="{the cutoff of Throat}")
        self.assertEqual(shared(own, labels), own)
        back = shared(here, relabelled(renamed("Funnel"), DISTANT))
        self.assertEqual((back.patch, back.why.casefold()), (step.patch, step.why.casefold()))


if __name__ == "__main__":
    unittest.main()
