"""Live fields: prose that follows the patch."""

import unittest

from inner_tone.core.lens.recipe import rendered
from inner_tone.core.lesson.fields import fields_in, offered, tap_of, value_of
from inner_tone.core.lesson.step import StepContent
from inner_tone.demo.foghorn import BLASTS, DISTANT
from tests.support.patches import module, patch

STEP = StepContent(patch=DISTANT, phrase=BLASTS)


class FieldTest(unittest.TestCase):
    def value(self, field: str) -> str | None:
        tap = tap_of(field, DISTANT)
        return value_of(field, STEP, rendered(DISTANT, BLASTS, {tap}) if tap else {})

    def test_fields_of_a_text(self) -> None:
        text = "Above {the cutoff of Bell mouth} it falls; {the tempo}, {the cutoff of Bell mouth}. {} {a\nb}"
        self.assertEqual(fields_in(text), ["the cutoff of Bell mouth", "the tempo"])

    def test_what_fields_read(self) -> None:
        table = {
            "the cutoff of Bell mouth": "420 Hz",
            "the cutoff of bell Mouth": "420 Hz",
            "the attack of Breath": "350 ms",
            "the wave of Reed": "saw",
            "the slope of Bell mouth": "24 dB per octave",
            "the note of the cutoff of Bell mouth": "G♯4 +19 cents",
            "the note of the attack of Breath": None,
            "the tempo": "96 beats a minute",
            "the notes": "A3",
            "the measured pitch of Reed": "55 Hz (A1)",
            "the measured release of Breath": "900 ms",
            "the colour of Bell mouth": None,
            "the cutoff of Nobody": None,
            "the measured taste of Reed": None,
            "whatever": None,
        }
        self.assertEqual({field: self.value(field) for field in table}, table)

    def test_name_that_two_modules_have_means_neither(self) -> None:
        twins = patch([module("a", "filter"), module("b", "filter")])
        self.assertIsNone(value_of("the cutoff of Filter", StepContent(patch=twins, phrase=BLASTS), {}))
        self.assertEqual(offered(twins), ["the tempo", "the beats", "the notes"])

    def test_everything_offered_means_something(self) -> None:
        named = offered(DISTANT)
        self.assertIn("the measured loudness of Harbour", named)
        taps = {tap for field in named if (tap := tap_of(field, DISTANT))}
        sounds = rendered(DISTANT, BLASTS, taps)
        unread = [field for field in named if value_of(field, STEP, sounds) is None]
        self.assertTrue(all("measured" in field for field in unread), unread)


if __name__ == "__main__":
    unittest.main()
