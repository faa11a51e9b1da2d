"""Editions: what is looked at before publishing, the short form, and what differs between two."""

import unittest
from typing import Any

from inner_tone.core.checkup import examined
from inner_tone.core.errors import InnerToneError
from inner_tone.core.lesson.edition import Concern, UnresolvedError, review, settle, short_of
from inner_tone.core.lesson.fields import meaningless
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.revision import Revision, changed_text, out_of_order, revision
from inner_tone.core.lesson.step import Decision, Detour, StepContent, told
from inner_tone.core.lesson.templates import TEMPLATES, template
from inner_tone.core.lesson.wording import Wording
from inner_tone.core.phrase import Gesture
from inner_tone.demo import foghorn
from inner_tone.demo.foghorn import BARE, BREATHED, DISTANT, LESSON, STEPS

IDS = ["a", "b", "c", "d", "e"]


def with_steps(*steps: StepContent, **other: Any) -> LessonDocument:
    return LESSON.model_copy(update={"steps": steps} | other)


def changed(place: int, **change: Any) -> LessonDocument:
    """Return the foghorn with one of its steps changed."""
    steps = list(STEPS)
    steps[place] = steps[place].model_copy(update=change)
    return with_steps(*steps)


class ReviewTest(unittest.TestCase):
    def concerns(self, lesson: LessonDocument) -> list[Concern]:
        return review(
            lesson,
            lambda patch, phrase: examined(patch, phrase).findings,
            lambda step: meaningless(step, lambda taps: {}),
        )

    def kinds(self, lesson: LessonDocument) -> list[tuple[int | None, str]]:
        return [(one.place, one.kind) for one in self.concerns(lesson)]

    def test_the_foghorn_shows_its_faults_on_purpose(self) -> None:
        found = self.concerns(LESSON)
        self.assertEqual({one.kind for one in found}, {"finding"})
        self.assertEqual(sorted({one.place for one in found if one.place is not None}), [0, 1, 2])
        with self.assertRaisesRegex(UnresolvedError, "One thing is to be looked at"):
            settle(found[:1])
        settle([])
        keys = {one.key(IDS) for one in found}
        self.assertEqual(len(keys), len(found))
        moved = LESSON.model_copy(update={"steps": (*LESSON.steps[1:], LESSON.steps[0])})
        again = {one.key([*IDS[1:], IDS[0]]) for one in self.concerns(moved)}
        self.assertEqual(again, keys, "what is known of a step goes along with it")

    def test_texts_and_titles_that_nobody_wrote_are_named(self) -> None:
        lesson = with_steps(
            STEPS[4].model_copy(update={"title": "New step", "listen": " "}),
            STEPS[4].model_copy(update={"title": "Breath added", "title_made": True, "why": "", "listen": ""}),
        )
        self.assertEqual(self.kinds(lesson), [(0, "title"), (0, "text"), (1, "title"), (1, "text")])
        messages = [one.message for one in self.concerns(lesson)]
        self.assertEqual(messages[1], "The step does not say what to listen for.")
        self.assertIn("“Breath added”", messages[2])

    def test_what_is_left_open_is_named_with_its_step(self) -> None:
        decision = Decision(words="the cutoff of Bell mouth", early="200 Hz", late="420 Hz")
        lesson = with_steps(
            STEPS[3].model_copy(update={"title": " ", "why": "At {the taste of Reed}."}),
            STEPS[4].model_copy(
                update={
                    "decisions": (decision,),
                    "built_on": BREATHED,
                    "plates": STEPS[3].plates,
                    "wording": (Wording(key="set nothing", text="Set it."),),
                    "listen": "As {picture 1} and {picture 2} show.",
                }
            ),
        )
        found = self.kinds(lesson)
        expected = [
            (0, "title"),
            (0, "field"),
            (1, "decision"),
            (1, "not-carried"),
            (1, "plate"),
            (1, "field"),
            (1, "wording"),
        ]
        self.assertEqual(found, expected)

    def test_nothing_to_publish(self) -> None:
        self.assertEqual(self.kinds(with_steps()), [(None, "no-steps")])
        with self.assertRaisesRegex(UnresolvedError, "without steps"):
            settle(self.concerns(with_steps()))
        only = with_steps(STEPS[4].model_copy(update={"extra": True}))
        self.assertEqual(self.kinds(only), [(None, "short")])


class ShortTest(unittest.TestCase):
    def test_extra_step_is_left_out_and_its_change_told_in_the_next(self) -> None:
        lesson, ids = short_of(changed(3, extra=True), IDS)
        self.assertEqual(ids, ["a", "b", "c", "e"])
        self.assertEqual([one.patch for one in lesson.steps], [STEPS[place].patch for place in (0, 1, 2, 4)])
        said = " ".join(one.text for one in told(lesson.steps)[3].instructions)
        self.assertIn("Breath", said)
        self.assertIn("Bell mouth", said)

    def test_without_extra_steps_both_are_the_same(self) -> None:
        self.assertEqual(short_of(LESSON, IDS), (LESSON, IDS))


class RevisionTest(unittest.TestCase):
    def compared(self, new: LessonDocument, ids: list[str] | None = None) -> Revision:
        return revision(LESSON, IDS, new, ids or IDS)

    def test_same_lesson(self) -> None:
        self.assertTrue(self.compared(LESSON).is_empty)

    def test_changed_setting_is_told_as_an_instruction(self) -> None:
        bell = DISTANT.by_id["bell"]
        darker = bell.model_copy(update={"settings": dict(bell.settings) | {"cutoff": 300.0}})
        modules = tuple(darker if one.id == "bell" else one for one in DISTANT.modules)
        (step,) = self.compared(changed(4, patch=DISTANT.model_copy(update={"modules": modules}))).steps
        self.assertEqual((step.kind, step.before, step.after), ("changed", 4, 4))
        self.assertEqual([one.text for one in step.instructions], ["Set Bell mouth’s cutoff to 300 Hz."])

    def test_changed_words_stand_beside_each_other(self) -> None:
        found = changed_text("Why", "The horn is far out.", "The horn is very far away.")
        assert found is not None
        for kind, text in (("old", "The horn is far out."), ("new", "The horn is very far away.")):
            read = "".join(piece.text for piece in found.pieces if piece.kind in ("same", kind))
            self.assertEqual(read, text)
        self.assertIsNone(changed_text("Why", "same", "same"))

    def test_words_that_change_together_stand_together(self) -> None:
        found = changed_text("Title", "A filter that gives it distance", "Farther out")
        assert found is not None
        self.assertEqual([piece.text for piece in found.pieces], ["A filter that gives it distance", "Farther out"])

    def test_long_text_is_cut_to_what_is_near_a_change(self) -> None:
        words = [f"word{number}" for number in range(200)]
        found = changed_text("Why", " ".join(words), " ".join([*words[:100], "new", *words[101:]]))
        assert found is not None
        said = "".join(piece.text for piece in found.pieces)
        self.assertLess(len(said), 200)
        self.assertIn("word99", said)
        self.assertIn("word101", said)

    def test_added_removed_and_moved_steps(self) -> None:
        new = with_steps(STEPS[0], STEPS[2], STEPS[1], StepContent(title="Fog", patch=DISTANT), STEPS[4])
        found = self.compared(new, ["a", "c", "b", "x", "e"]).steps
        self.assertIn(("added", "Fog"), [(one.kind, one.title) for one in found])
        kinds = [one.kind for one in found]
        self.assertEqual(sorted(kinds), ["added", "moved", "removed"])
        (removed,) = [one for one in found if one.kind == "removed"]
        self.assertEqual((removed.title, removed.before, removed.after), (STEPS[3].title, 3, None))

    def test_fewest_steps_are_called_moved(self) -> None:
        self.assertEqual(out_of_order(list("abcde"), list("eabcd")), {"e"})
        self.assertEqual(out_of_order(list("abcde"), list("abxcde")), set())

    def test_everything_else_is_told_in_sentences(self) -> None:
        new = changed(
            4,
            extra=True,
            phrase=foghorn.BLASTS.model_copy(update={"tempo": 60.0}),
            plates=(),
            detours=(Detour(id="d", name="Far too slow", patch=BARE),),
            order=("x",),
        ).model_copy(update={"title": "Horn", "target_first": True})
        found = self.compared(new)
        self.assertEqual([one.name for one in found.texts], ["Title"])
        self.assertEqual(found.notes, ("It opens with its target now.",))
        said = " ".join(found.steps[0].notes)
        expected = (
            "extra now",
            "2 notes at 60 beats a minute.",
            "former picture 1 is gone",
            "“Far too slow” is new",
            "ordered",
        )
        for words in expected:
            self.assertIn(words, said)

    def test_movements_of_a_phrase_are_told(self) -> None:
        wheel = Gesture(control="wheel", points=((0.0, 1.0),))
        lever = Gesture(control="lever:fog", points=((0.0, 0.0), (4.0, 1.0)))
        found = self.compared(changed(4, phrase=foghorn.BLASTS.model_copy(update={"gestures": (wheel, lever)})))
        (said,) = found.steps[0].notes
        self.assertEqual(
            said, "It plays another phrase: 2 notes at 96 beats a minute, and moves the wheel, the lever fog."
        )


class TemplateTest(unittest.TestCase):
    def test_every_opening_can_be_heard_at_once_and_has_nothing_to_mend(self) -> None:
        for one in TEMPLATES[1:]:
            with self.subTest(template=one.id):
                self.assertEqual(examined(one.steps[0].patch, one.steps[0].phrase).findings, ())
        self.assertEqual(
            [one.code for one in examined(TEMPLATES[0].steps[0].patch, foghorn.BLASTS).findings], ["no-sound"]
        )

    def test_no_two_modules_of_an_opening_are_called_the_same(self) -> None:
        for one in TEMPLATES:
            titles = [module.title for module in one.steps[0].patch.modules]
            self.assertEqual(len(set(titles)), len(titles), titles)
        carrier = {module.title for module in template("carrier").steps[0].patch.modules}
        self.assertEqual(carrier, {"Player", "Carrier", "Modulator", "Amplifier", "Envelope", "Output"})

    def test_unknown_one(self) -> None:
        with self.assertRaisesRegex(InnerToneError, "no template"):
            template("rock")


if __name__ == "__main__":
    unittest.main()
