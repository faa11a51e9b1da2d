"""What a step is found by: its words as they read."""

import unittest

from inner_tone.core.lesson.step import Detour, StepContent
from inner_tone.core.lesson.words import lesson_words, step_words
from inner_tone.core.patch.model import Module, Patch
from inner_tone.demo import bell


class WordsTest(unittest.TestCase):
    def test_texts_without_their_marks_then_modules_with_their_types(self) -> None:
        modules = (Module(id="a", type="oscillator", label="Reed"), Module(id="b", type="filter"))
        step = StepContent(
            title="Horn",
            why="A **loud** reed at {the octave of Reed}.",
            detours=(Detour(id="d", name="Softer", note="Half as loud.", patch=Patch()),),
            patch=Patch(modules=modules),
        )
        expected = [
            "Horn",
            "A loud reed at the octave of Reed.",
            "Softer",
            "Half as loud.",
            "Reed: oscillator; Filter",
        ]
        self.assertEqual(step_words(step).split("\n"), expected)

    def test_lesson_has_the_words_of_all_its_steps(self) -> None:
        words = lesson_words(bell.LESSON)
        for step in bell.STEPS:
            self.assertIn(step.title, words)
        self.assertIn("how its colour changes", words)


if __name__ == "__main__":
    unittest.main()
