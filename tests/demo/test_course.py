"""The course: its bundles are current, and every lesson can be followed to its end by its instructions alone."""

import re
import subprocess
import unittest
from unittest import mock

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.render import render_key
from inner_tone.core.errors import InnerToneError
from inner_tone.core.lens.recipe import rendered
from inner_tone.core.lesson.fields import FIELD
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.modules import MODULE_TYPES
from inner_tone.core.nearness import sides_of
from inner_tone.core.patch.model import Patch
from inner_tone.core.phrase import Phrase
from inner_tone.demo.course.__main__ import stale
from inner_tone.demo.course.build import course
from inner_tone.demo.course.source import read_source
from inner_tone.demo.course.table import types_of
from inner_tone.demo.course.trial import troubles


class CourseTest(unittest.TestCase):
    def test_bundles_and_page_are_current(self) -> None:
        self.assertEqual([file.name for file in stale()], [], "run bin/generate")

    def test_eighteen_lessons_in_three_series_use_every_type_of_module(self) -> None:
        sources = course()
        self.assertGreaterEqual(len(sources), 18)
        self.assertEqual({name[0] for name in sources}, {"1", "2", "3"})
        used = {one for source in sources.values() for one in types_of(source)}
        self.assertEqual({one.name for one in MODULE_TYPES} - used, set())

    def test_each_lesson_has_what_a_teacher_expects(self) -> None:
        for name, source in course().items():
            steps = source.document.steps
            self.assertTrue(any(step.detours for step in steps), f"{name} has no detour")
            self.assertTrue(any(step.marks for step in steps), f"{name} has no mark")
            self.assertTrue(all(step.lenses for step in steps), f"{name} does not say what is looked at")

    def test_every_word_is_spelt_as_in_the_dictionary(self) -> None:
        for name, source in course().items():
            self.assertEqual(misspelt(source.document) - TRADE - SOUNDS, set(), name)

    def test_every_lesson_opens_with_its_target(self) -> None:
        for source in course().values():
            self.assertTrue(source.document.target_first, source.name)
            self.assertGreater(len(source.document.target_note), 60, source.name)
            self.assertGreater(len(source.document.summary), 60, source.name)


class ClaimTest(unittest.TestCase):
    def test_the_switch_of_the_levers_lets_four_sources_through_one_after_the_other(self) -> None:
        """“Four times the same line: wavering, opening, each note by chance, and still”: each to the bit."""
        step = course()["2-08-levers"].document.steps[5]
        sources = ("waver.out", "open.out", "throw.out", "hand.out")
        found = rendered(step.patch, step.phrase, ["which.out", *sources])
        for place, source in enumerate(sources):
            begin = step.phrase.sample(4 * place + 1, 48_000.0)
            span = slice(begin, begin + 60_000)
            np.testing.assert_array_equal(found["which.out"].signal[span], found[source].signal[span], source)


class FollowedTest(unittest.TestCase):
    def followed(self, name: str) -> None:
        # what a step leads to, what is made by its instructions and what the next one begins with sound alike
        known: dict[str, Floats] = {}

        def once(patch: Patch, phrase: Phrase) -> Floats:
            key = render_key(patch, phrase)
            if key not in known:
                known[key] = sides_of(patch, phrase)
            return known[key]

        with mock.patch("inner_tone.core.nearness.sides_of", once):
            self.assertEqual(list(troubles(course()[name])), [])


def trial_of(name: str) -> object:
    def followed(self: FollowedTest) -> None:
        self.followed(name)

    return followed


for each in course():  # one test a lesson, so that they can be tried side by side
    setattr(FollowedTest, f"test_{each.replace('-', '_')}", trial_of(each))


TRADE = {"LFO", "LFOs", "crossfade", "cutoff", "cutoffs", "checkup", "E4"}
SOUNDS = {"coil's", "oo", "wah", "Yow", "Honky", "Shhh"}


def misspelt(document: LessonDocument) -> set[str]:
    """Return the words of a lesson that the British dictionary does not have."""
    texts = [document.title, document.summary, document.target_note]
    for step in document.steps:
        texts += [step.title, step.why, step.listen, *(one.purpose for one in step.marks)]
        texts += [*(one.name for one in step.detours), *(one.note for one in step.detours)]
        texts += [*(one.caption for one in step.plates), *(one.label for one in step.patch.modules)]
    plain = re.sub(r"[*_`]", "", FIELD.sub(" ", " ".join(texts))).replace("’", "'")
    command = ["hunspell", "-d", "en_GB", "-i", "utf-8", "-l"]
    return set(subprocess.run(command, input=plain, capture_output=True, text=True, check=True).stdout.split())


GOOD = """title: A tone
summary: A tone, for a test of what keeps a learner from following.
target: A tone that is heard.

# A tone
Something swings and is heard at the output, which is all that there is to say.

> A tone that is steady, and that never stops by itself.

```patch
player: player
tone: oscillator wave=sine
amp: amplifier
out: output level=-9
player.pitch -> tone.pitch
tone.out -> amp.in
player.gate -> amp.level
amp.out -> out.left, out.right
```
```phrase tempo=60 beats=2
0 1 A4
```
"""


class TrialTest(unittest.TestCase):
    """The trial finds what is wrong, where it is known what is."""

    def said(self, text: str) -> str:
        return " ".join(troubles(read_source("1-00-a-tone", text, {})))

    def test_a_finding_that_the_text_does_not_speak_of(self) -> None:
        drone = GOOD.replace("player.gate -> amp.level\n", "").replace("amp: amplifier", "amp: amplifier level=1")
        self.assertIn("“drone”", self.said(drone))
        self.assertNotIn("“drone”", self.said(f"{drone}\n```finds drone\nnever stops\n```\n"))
        self.assertIn("does not speak", self.said(f"{drone}\n```finds drone\nfor ever\n```\n"))
        self.assertIn("does not find", self.said(f"{GOOD}\n```finds drone\nnever stops\n```\n"))

    def test_fields_marks_and_plates_that_lead_nowhere(self) -> None:
        self.assertIn("means nothing", self.said(GOOD.replace("Something swings", "Something {the cutoff of Nobody}")))
        self.assertIn("there is no mark 3", self.said(GOOD.replace("Something swings", "Something {mark 3}")))
        marked = f"{GOOD}\n```marks\n1 nobody: is not there\n```\n"
        self.assertIn("is not there", self.said(marked))
        plate = f"{GOOD}\n```plate wave nobody.out\nA caption.\n```\n"
        self.assertIn("cannot be drawn", self.said(plate))

    def test_a_step_that_does_nothing_or_says_nothing(self) -> None:
        empty = f"{GOOD}\n# Nothing\nWhy.\n\n> Listen.\n"
        said = self.said(empty)
        self.assertIn("there is nothing to do", said)
        self.assertIn("hardly says why", said)

    def test_what_is_too_soft_or_too_loud(self) -> None:
        self.assertIn("too soft", self.said(GOOD.replace("level=-9", "level=-50")))
        self.assertIn("“clipping”", self.said(GOOD.replace("level=-9", "level=9")))

    def test_what_cannot_be_read_is_said_with_its_place(self) -> None:
        for wrong, word in (
            (GOOD.replace("tone.out -> amp.in", "tone.out => amp.in"), "nothing that can be done"),
            (GOOD.replace("oscillator", "oscillater"), "no module type"),
            (GOOD.replace("0 1 A4", "0 1 H4"), "no note"),
            (f"{GOOD}\n```song\n```\n", "nobody knows"),
            (GOOD.replace("summary:", "start: 9-99\nsummary:"), "does not come before"),
        ):
            with self.assertRaisesRegex(InnerToneError, word):
                read_source("1-00-a-tone", wrong, {})

    def test_goes_on_from_the_end_of_another(self) -> None:
        first = read_source("1-00-a-tone", GOOD, {})
        head = GOOD.split("```patch", maxsplit=1)[0].replace("summary:", "start: 1-00-a-tone\nsummary:")
        text = f"{head}```patch\ntone: octave=1\n```\n"
        second = read_source("1-01-higher", text, {"1-00-a-tone": first})
        self.assertEqual(second.document.start, first.document.steps[-1].patch)
        self.assertEqual(second.document.steps[0].phrase, first.document.steps[-1].phrase)


if __name__ == "__main__":
    unittest.main()
