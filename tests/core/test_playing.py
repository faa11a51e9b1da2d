"""What a phrase gains is an instruction too, and instructions stand in the order of the work."""

import random
import unittest

from inner_tone.core.lesson.playing import played_differently
from inner_tone.core.lesson.sequence import cut
from inner_tone.core.lesson.step import StepContent, as_worked, told, told_once
from inner_tone.core.lesson.wording import followed, key_of, same_patch
from inner_tone.core.patch.difference import difference
from inner_tone.core.patch.edit import edited
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import RenameModule, SetValue
from inner_tone.core.phrase import Gesture, Note, Phrase
from inner_tone.demo.foghorn import BARE
from tests.support.edits import random_edits, tried
from tests.support.patches import module, patch

LOW, HIGH = Note(start=0, length=2, pitch=45), Note(start=2.5, length=1, pitch=57)
TUNE = Phrase(notes=(LOW, HIGH), beats=8, tempo=96)
LEVERS = patch(
    [
        module("weather", "lever", low=-20, high=20),
        module("way", "lever", low=100, high=10_000, travel="log"),
        module("out", "output"),
    ]
)


def said(after: Phrase, before: Phrase = TUNE) -> list[str]:
    return [one.text for one in played_differently(before, after, LEVERS)]


def changed(**parts: object) -> Phrase:
    return TUNE.model_copy(update=parts)


def moved(control: str, *points: tuple[float, float]) -> Gesture:
    return Gesture(control=control, points=points)


class PlayingTest(unittest.TestCase):
    def test_notes(self) -> None:
        self.assertEqual(said(TUNE), [])
        self.assertEqual(said(changed(notes=(LOW,))), ["Play A3 at beat 3.5 no longer."])
        more = Note(start=4, length=0.5, pitch=60)
        self.assertEqual(said(changed(notes=(LOW, HIGH, more))), ["Play C4 at beat 5, for 0.5 beats too."])
        self.assertEqual(said(changed(notes=(more,))), ["Play other notes: C4."])
        many = tuple(Note(start=n / 4, length=0.25, pitch=60 + n) for n in range(4))
        self.assertEqual(said(changed(notes=(LOW, HIGH, *many))), ["Play these notes too: C4, C♯4, D4, D♯4."])

    def test_movements_in_the_unit_of_what_is_moved(self) -> None:
        wheel = moved("wheel", (1, 0), (3, 0.5))
        self.assertEqual(said(changed(gestures=(wheel,))), ["Move the wheel meanwhile: 0 % at beat 2, 50 % at beat 4."])
        self.assertEqual(said(TUNE, changed(gestures=(wheel,))), ["Leave the wheel alone."])
        weather = moved("lever:weather", (0, 0), (4, 0.75))
        self.assertEqual(
            said(changed(gestures=(weather,)), changed(gestures=(moved("lever:weather", (0, 0)),))),
            ["Move the Lever otherwise: −20 at beat 1, 10 at beat 5."],
        )
        way = moved("lever:way", (0, 0.5))
        self.assertEqual(said(changed(gestures=(way,))), ["Move the Lever meanwhile: 1,000 at beat 1."])
        bend = moved("bend", *((n, n / 8 - 0.5) for n in range(8)))
        self.assertEqual(
            said(changed(gestures=(bend,))),
            ["Move the bend meanwhile: −50 % at beat 1, by 6 points between, +37.5 % at beat 8."],
        )

    def test_pace(self) -> None:
        self.assertEqual(
            said(changed(tempo=120, beats=4)),
            ["Set the tempo to 120 beats a minute.", "Let the phrase last 4 beats."],
        )

    def test_step_tells_it_behind_what_is_done_and_every_instruction_is_known_by_itself(self) -> None:
        wheel = moved("wheel", (0, 0), (3, 1))
        steps = [StepContent(patch=BARE, phrase=TUNE), StepContent(patch=BARE, phrase=changed(gestures=(wheel,)))]
        first, second = told(steps)
        self.assertNotIn("play", [one.kind for one in first.instructions], "the first phrase is given")
        self.assertEqual([one.kind for one in second.instructions], ["play"])
        both = played_differently(TUNE, changed(tempo=60, beats=4, notes=(LOW,), gestures=(wheel,)), LEVERS)
        self.assertEqual(len({key_of(one) for one in both}), 4)


class WorkedTest(unittest.TestCase):
    def test_order_is_that_of_the_work_and_can_always_be_followed(self) -> None:
        dice, turned = random.Random(5), 0
        for _ in range(60):
            before: Patch = BARE
            step = StepContent(patch=before)
            for _ in range(dice.randrange(2, 8)):
                patch = tried(step.patch, random_edits(step.patch, dice, 12))
                if patch == step.patch:
                    continue
                new = as_worked((before, None), step, step.model_copy(update={"patch": patch}))
                known = self.keys(before, step)
                kept = [key for key in self.keys(before, new) if key in known]
                if new.order:
                    self.assertEqual(kept, [key for key in known if key in kept], "what was done first stays first")
                step = new
            (_, telling) = told([StepContent(patch=before), step])
            self.assertTrue(telling.order_holds)
            self.assertTrue(
                same_patch(followed(before, telling.plain), followed(before, difference(before, step.patch)))
            )
            turned += bool(step.order)
        self.assertGreater(turned, 15)

    def keys(self, before: Patch, step: StepContent) -> list[str]:
        (_, telling) = told([StepContent(patch=before), step])
        return [key_of(one) for one in telling.plain]

    def test_order_that_somebody_has_made_stays(self) -> None:
        dice = random.Random(1)
        patch = edited(BARE, random_edits(BARE, dice, 12)).patch
        step = StepContent(patch=BARE, order=("set reed.fine",))
        new = as_worked((BARE, None), step, step.model_copy(update={"patch": patch}))
        self.assertEqual((new.order, new.order_made), (("set reed.fine",), False))


class CutTest(unittest.TestCase):
    def test_each_half_of_a_step_plays_what_is_told_by_then(self) -> None:
        before = edited(BARE, [SetValue(module="reed", setting="octave", value=0)]).patch
        after = edited(
            before, [SetValue(module="reed", setting="octave", value=-1), RenameModule(module="reed", label="Pipe")]
        ).patch
        content = StepContent(title="Lower", patch=after, phrase=TUNE)
        other = TUNE.model_copy(update={"tempo": 120.0, "notes": (LOW,)})
        said = told_once(content, (before, other), difference(before, after), set()).plain
        self.assertGreater([one.kind for one in said].count("play"), 1)
        for at in range(1, len(said)):
            plays = any(one.kind == "play" for one in said[:at])
            first, second = cut((before, other), content, at)
            self.assertEqual(first.phrase, TUNE if plays else other, at)
            self.assertEqual(second.phrase, TUNE)
            self.assertEqual(cut((before, None), content, 1)[0].phrase, TUNE, "there is no other")


if __name__ == "__main__":
    unittest.main()
