"""How much too high or low a note is: against tones whose interval is known by construction, and what is advised."""

import random
import unittest

from inner_tone.core.analysis.compare import EXACT
from inner_tone.core.analysis.sentences.near import near_clauses
from inner_tone.core.nearness import advice_for, render_compared, target_for
from inner_tone.core.patch.edit import made
from inner_tone.core.units import interval_text
from tests.support.tones import one_note, tone, tuned
from tests.support.voices import PHRASE, heard_voice, plain_change

SEED = 31
SEMITONES = tuple(semitones for semitones in range(-24, 25) if semitones)
EXACT_TO = 5.0  # cents
CHANGES = ("cutoff", "resonance", "attack", "wave")
ADVISED = (-24, -12, -7, -1, 1, 5, 12, 19)


class IntervalTest(unittest.TestCase):
    def test_notes_that_are_off_come_out_with_their_sign(self) -> None:
        dice = random.Random(SEED)
        for semitones in SEMITONES:
            patch, phrase, cents = tone(dice), one_note(dice), dice.choice([0, 0, -20, 30])
            truth = 100.0 * semitones + cents
            target = target_for(patch, phrase)
            found = render_compared(target, tuned(dice, patch, semitones, cents), phrase)
            assert found.pitch_cents is not None, (semitones, patch)
            self.assertAlmostEqual(found.pitch_cents, truth, delta=EXACT_TO, msg=str((semitones, cents, patch)))
            [said] = [one.text for one in near_clauses(target, found, EXACT) if one.code == "near-pitch"]
            way = "too high" if truth > 0.0 else "too low"
            self.assertTrue(said.endswith(way), said)
            if cents == 0:
                self.assertEqual(said, f"it is {interval_text(truth)} {way}")

    def test_what_changes_another_thing_is_no_other_pitch(self) -> None:
        """A filter, an envelope or a wave that is another leaves the pitch where it was, or nothing is said of it."""
        dice = random.Random(SEED)
        for number in range(24):
            patch = heard_voice(dice)
            change = plain_change(patch, dice, CHANGES[number % len(CHANGES)])
            found = render_compared(target_for(patch, PHRASE), change.patch, PHRASE)
            self.assertLess(abs(found.pitch_cents or 0.0), 30.0, (change, patch))

    def test_words_of_intervals(self) -> None:
        for cents, words in (
            (1.0, "a cent"),
            (-14.2, "14 cents"),
            (100.0, "a semitone"),
            (-697.0, "7 semitones"),
            (720.0, "7 semitones and 20 cents"),
            (1200.0, "an octave"),
            (-2400.0, "2 octaves"),
            (1900.0, "an octave and 7 semitones"),
            (1330.0, "an octave, a semitone and 30 cents"),
            (1199.6, "an octave"),
        ):
            self.assertEqual(interval_text(cents), words)


class RetuningTest(unittest.TestCase):
    def test_advice_leads_back_and_says_the_right_way(self) -> None:
        dice = random.Random(SEED)
        for semitones in ADVISED:
            patch, phrase = tone(dice), one_note(dice)
            mine = tuned(dice, patch, semitones)
            target = target_for(patch, phrase)
            first, *_ = advice_for(target, mine, phrase)
            self.assertIn(" down, " if semitones > 0 else " up, ", first.text)
            self.assertIn(interval_text(100.0 * semitones), first.text)
            self.assertTrue(render_compared(target, made(mine, first.edits).patch, phrase).same, first.text)


if __name__ == "__main__":
    unittest.main()
