"""Titles that the program makes: short, and about what the step does."""

import random
import unittest

from inner_tone.core.lesson.titles import MOST_WORDS, title_of
from inner_tone.core.patch.difference import difference, opening
from inner_tone.core.patch.model import Patch
from inner_tone.demo import bell, foghorn
from tests.core.test_arranging import random_lesson

TOLD = {
    "A reed that never stops": "Reed into Harbour",
    "The amplifier that silences it": "Loudness behind Reed",
    "A gate that switches it": "Keeper moves Loudness’s level",
    "An envelope that gives it breath": "Breath moves Loudness’s level",
    "A filter that gives it distance": "Bell mouth behind Reed",
    "It is struck, and it rings": "Ring moves Loudness’s level",
    "Bronze drinks the highs first": "Bronze behind Loudness",
}


class TitleTest(unittest.TestCase):
    def test_title_says_what_a_step_is_about(self) -> None:
        for lesson in (foghorn, bell):
            before = opening(lesson.STEPS[0].patch)
            for step in lesson.STEPS:
                if step.title in TOLD:
                    self.assertEqual(title_of(before, difference(before, step.patch)), TOLD[step.title])
                before = step.patch

    def test_titles_are_short_whatever_a_step_does(self) -> None:
        for seed in range(60):
            patches: list[Patch] = random_lesson(random.Random(seed))
            for before, after in zip([opening(patches[0]), *patches], patches, strict=False):
                said = difference(before, after)
                title = title_of(before, said)
                self.assertTrue(0 < len(title.split()) <= MOST_WORDS, title)
                self.assertTrue(not said or title != "New step", [one.text for one in said])


if __name__ == "__main__":
    unittest.main()
