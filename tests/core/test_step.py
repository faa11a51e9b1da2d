"""The rules of lessons and steps."""

import unittest

from inner_tone.core.errors import DocumentError
from inner_tone.core.lesson.step import (
    MOST_STEPS,
    LessonError,
    StepContent,
    checked,
    duplicate,
    first_step,
    following_step,
    reordered,
    room_for_another,
    told,
)
from inner_tone.core.patch.model import Module, Patch
from inner_tone.demo import foghorn


class StepTest(unittest.TestCase):
    def test_first_step_can_be_built_upon(self) -> None:
        content = checked(first_step())
        self.assertEqual([module.type for module in content.patch.modules], ["player", "output"])
        self.assertEqual([one.text for one in told([content])[0].instructions], ["Set Output’s level to −12 dB."])

    def test_following_step_begins_where_the_last_one_ended(self) -> None:
        content = following_step(foghorn.STEPS[3])
        self.assertEqual((content.patch, content.phrase), (foghorn.STEPS[3].patch, foghorn.STEPS[3].phrase))
        self.assertEqual(content.why, "")
        self.assertEqual(told([foghorn.STEPS[3], content])[1].instructions, ())

    def test_duplicate_can_be_told_from_the_original(self) -> None:
        copy = duplicate(foghorn.STEPS[0])
        self.assertTrue(copy.title.endswith("(copy)"))
        self.assertEqual(copy.patch, foghorn.STEPS[0].patch)

    def test_wrong_patch_cannot_be_kept(self) -> None:
        wrong = StepContent(patch=Patch(modules=(Module(id="a", type="nothing"),)))
        with self.assertRaises(DocumentError):
            checked(wrong)

    def test_order_must_name_every_step_once(self) -> None:
        self.assertEqual(reordered(["a", "b", "c"], ["c", "a", "b"]), ["c", "a", "b"])
        for wrong in (["a", "b"], ["a", "b", "b"], ["a", "b", "c", "d"]):
            with self.assertRaises(LessonError):
                reordered(["a", "b", "c"], wrong)

    def test_lesson_has_an_end(self) -> None:
        room_for_another(MOST_STEPS - 1)
        with self.assertRaises(LessonError):
            room_for_another(MOST_STEPS)

    def test_every_demo_step_is_right(self) -> None:
        for content in foghorn.STEPS:
            self.assertIs(checked(content), content)
            self.assertTrue(content.why and content.listen)


if __name__ == "__main__":
    unittest.main()
