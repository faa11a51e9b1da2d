"""Nearness of sounds: figures against what is known by construction, what is said of them, and instruments outside."""

import math
import random
import unittest

import numpy as np

from inner_tone.core import nearness
from inner_tone.core.advice import Turn, times, turns_of, what_to_turn
from inner_tone.core.analysis.compare import EXACT, Comparison, compared, target_of
from inner_tone.core.analysis.portrait import RATE, at_common_rate, partials_of
from inner_tone.core.analysis.recording import aligned, fit, heard_at, tuning_of
from inner_tone.core.analysis.sentences.near import near_clauses
from inner_tone.core.arrays import Floats
from inner_tone.core.outside import CENTS_OFF, INSTRUMENTS, NOISE_DB, recorded
from inner_tone.core.patch.otherwise import curved_otherwise, makes, steep_otherwise, tuned
from inner_tone.core.phrase import Note, Phrase
from inner_tone.core.units import frequency_of
from tests.support.voices import AUDIBLE, PHRASE, heard_change, heard_voice, plain_change

SEED = 30
ONE = Phrase(tempo=60, beats=2, notes=(Note(start=0, length=1.5, pitch=57),))
SPAN = (0.0, 1.5)


def tone(partials: dict[int, float], seconds: float = 2.0, cents: float = 0.0) -> Floats:
    """Return harmonics of A3 by number, each at its level in dB."""
    t = np.arange(round(seconds * RATE)) / RATE
    pitch = frequency_of(57) * 2.0 ** (cents / 1200.0)
    return np.asarray(sum(10.0 ** (db / 20.0) * np.sin(2.0 * np.pi * pitch * n * t) for n, db in partials.items()))


def rising(seconds: float) -> Floats:
    """Return a gain that rises to 1 in a straight line."""
    t = np.arange(2 * RATE) / RATE
    return np.asarray(np.minimum(1.0, t / seconds))


SAW = {n: -20.0 * math.log10(n) for n in range(1, 13)}


class CompareTest(unittest.TestCase):
    def compared(self, target: Floats, other: Floats) -> Comparison:
        return compared(target_of(target, ONE), other)

    def test_pitch_is_told_in_cents(self) -> None:
        for cents in (-40.0, -12.0, 0.0, 15.0):
            found = self.compared(tone(SAW), tone(SAW, cents=cents))
            assert found.pitch_cents is not None
            self.assertAlmostEqual(found.pitch_cents, cents, delta=0.5)
            self.assertEqual(found.same, abs(cents) <= EXACT.pitch_cents)

    def test_partials_are_told_in_db(self) -> None:
        """Two of twelve partials 6 dB stronger, and the rest as they were."""
        target, other = tone(SAW), tone({n: db + (6.0 if n in (3, 5) else 0.0) for n, db in SAW.items()})
        found = self.compared(target, other)
        assert found.partials_db is not None
        self.assertTrue(1.5 < found.partials_db < 4.0, found.partials_db)
        text = "; ".join(one.text for one in near_clauses(target_of(target, ONE), found, EXACT))
        self.assertIn("the third and fifth partials are 6 dB too strong", text)

    def test_level_and_delay_do_not_count(self) -> None:
        chance = np.random.default_rng(SEED)
        for gain, late in ((0.25, 0), (2.0, 900), (0.7, 4001)):
            other = gain * np.concatenate([np.zeros(late), tone(SAW)])
            noise = chance.standard_normal(len(other)) * np.sqrt(np.mean(other**2)) * 10.0 ** (-50 / 20)
            found = self.compared(tone(SAW), other + noise)
            self.assertTrue(found.same, (gain, late, found))
            self.assertAlmostEqual(found.level_db, 20.0 * np.log10(gain), delta=0.2)
            self.assertAlmostEqual(found.begins_s, late / RATE, delta=1e-3)

    def test_attack_is_told(self) -> None:
        target, other = tone(SAW) * rising(0.3), tone(SAW) * rising(0.05)
        found = self.compared(target, other)
        self.assertFalse(found.same)
        (said,) = [one for one in near_clauses(target_of(target, ONE), found, EXACT) if one.code == "near-attack"]
        self.assertIn("it comes up faster", said.text)
        # within 3 dB of the top is at 0.71 of a straight rise
        self.assertAlmostEqual(said.facts["goal_attack_s"], 0.21, delta=0.03)
        self.assertAlmostEqual(said.facts["attack_s"], 0.035, delta=0.02)

    def test_brightness_is_told_from_where_on(self) -> None:
        dark = {n: db - (0.0 if n < 6 else 10.0) for n, db in SAW.items()}
        target = tone(SAW)
        said = near_clauses(target_of(target, ONE), self.compared(target, tone(dark)), EXACT)
        (bright,) = [one for one in said if one.code == "near-bright"]
        self.assertIn("darker", bright.text)
        self.assertTrue(frequency_of(57) * 4 < bright.facts["above_hz"] < frequency_of(57) * 8, bright.facts)

    def test_same_sound_is_not_said_to_differ(self) -> None:
        target = target_of(tone(SAW), ONE)
        self.assertEqual(near_clauses(target, compared(target, tone(SAW)), EXACT), [])

    def test_silence(self) -> None:
        self.assertEqual(self.compared(tone(SAW), np.zeros(RATE)).cannot_tell, "silent")
        self.assertTrue(self.compared(np.zeros(RATE), np.zeros(RATE)).same)

    def test_noise_has_no_partials(self) -> None:
        noise = np.random.default_rng(SEED).standard_normal(2 * RATE)
        found = partials_of(noise, SPAN)
        self.assertTrue(found is None or len(found.hz) <= 4)
        harmonic = partials_of(tone(SAW), SPAN)
        assert harmonic is not None
        np.testing.assert_allclose(harmonic.hz / frequency_of(57), np.arange(1, 13), rtol=2e-4)
        np.testing.assert_allclose(harmonic.db - harmonic.db[0], list(SAW.values()), atol=0.3)

    def test_verdicts(self) -> None:
        """A few of what benchmarks.follow tries three hundred times."""
        dice = random.Random(SEED)
        for kind in AUDIBLE:
            patch = heard_voice(dice)
            target = nearness.target_for(patch, PHRASE)
            self.assertTrue(nearness.render_compared(target, patch, PHRASE).same)
            change = heard_change(patch, dice, kind)
            self.assertFalse(nearness.render_compared(target, change.patch, PHRASE).same, kind)


class RecordingTest(unittest.TestCase):
    def test_alignment_finds_the_beginning(self) -> None:
        dice = random.Random(SEED)
        patch = heard_voice(dice)
        target = nearness.target_for(patch, PHRASE)
        for late in (0.0, 0.2, 1.7):
            signal = np.concatenate([np.zeros(round(late * RATE)), target.signal, np.zeros(RATE // 2)])
            begin, likeness = aligned(target, signal)
            self.assertAlmostEqual(begin / RATE, late, delta=0.006)
            self.assertGreater(likeness, 0.95)

    def test_tuning_is_that_of_the_notes(self) -> None:
        for cents in (-300.0, -25.0, 0.0, 30.0, 1200.0):
            found = heard_at(tone(SAW), tone(SAW, cents=cents), SPAN)
            assert found is not None
            self.assertAlmostEqual(found.cents, cents, delta=5.0)
        line = tuning_of([(0.0, 10.0), (1.0, 12.0), (2.0, 14.0), (3.0, 60.0), (4.0, 18.0)])
        self.assertAlmostEqual(line(2.0), 14.0, delta=1.0)  # one note that is read wrongly moves nothing

    def test_right_instruments_are_the_same_and_wrong_sounds_are_not(self) -> None:
        dice = random.Random(SEED + 3)
        for number, name in enumerate(INSTRUMENTS):
            patch = heard_voice(dice)
            right = nearness.recording_compared(patch, PHRASE, recorded(name, patch, PHRASE), 48_000.0)
            self.assertTrue(right.same, (name, right))
            other = plain_change(patch, dice, AUDIBLE[number]).patch
            wrong = nearness.recording_compared(patch, PHRASE, recorded(name, other, PHRASE), 48_000.0)
            self.assertFalse(wrong.same, (name, AUDIBLE[number], wrong))

    def test_other_phrases_and_chords_cannot_be_told(self) -> None:
        patch = heard_voice(random.Random(3))
        target = nearness.target_for(patch, PHRASE)

        def played(phrase: Phrase) -> Floats:
            return at_common_rate(nearness.middle_of(recorded("other-curves", patch, phrase)), 48_000.0)

        steps = (3, -4, 5, 7)
        moved = [
            note.model_copy(update={"pitch": note.pitch + by}) for note, by in zip(PHRASE.notes, steps, strict=True)
        ]
        other = played(PHRASE.model_copy(update={"notes": tuple(moved)}))
        self.assertIn(fit(target, other), ("other-notes", "other-phrase"))
        both = played(PHRASE)
        count = min(len(both), len(other))
        self.assertIn(fit(target, both[:count] + other[:count]), ("several-notes", "other-notes"))
        noise = 0.1 * np.random.default_rng(SEED).standard_normal(len(both))
        self.assertEqual(fit(target, noise), "other-phrase")


class OutsideTest(unittest.TestCase):
    def test_old_one_is_sharp_and_drifts(self) -> None:
        patch = heard_voice(random.Random(7))
        plain = recorded("other-curves", patch, PHRASE)
        self.assertEqual(plain.shape[0], 2)
        target = nearness.target_for(patch, PHRASE)
        found = fit(target, at_common_rate(nearness.middle_of(recorded("drifting", patch, PHRASE)), 48_000.0))
        assert not isinstance(found, str)
        self.assertAlmostEqual(found.tuning.cents, CENTS_OFF, delta=9.0)

    def test_worn_one_hums_and_hisses_as_loud_as_said(self) -> None:
        patch = heard_voice(random.Random(7))
        sound = recorded("worn", patch, PHRASE)
        before = sound[:, : round(0.25 * 48_000)]
        loud = np.sqrt(np.mean(sound**2))
        self.assertAlmostEqual(20.0 * np.log10(np.sqrt(np.mean(before**2)) / loud), NOISE_DB, delta=4.0)
        self.assertTrue(np.array_equal(sound, recorded("worn", patch, PHRASE)), "the same samples every time")

    def test_slopes_and_curves_of_another_make(self) -> None:
        patch = heard_voice(random.Random(7))
        slope = [module.number("slope") for module in patch.modules if module.type == "filter"]
        other = steep_otherwise(patch, 6)
        steeper = [module.number("slope") for module in other.modules if module.type == "filter"]
        if slope:
            self.assertEqual(sum(steeper), sum(slope) + 6 * len(slope))
        curves = {m.id: m.all_settings["curve"] for m in curved_otherwise(patch).modules if m.type == "envelope"}
        self.assertEqual(set(curves.values()), {"linear"})
        self.assertEqual(makes(patch)[0], patch)
        self.assertEqual(len(makes(patch)), len({one.model_dump_json() for one in makes(patch)}))

    def test_tuned_moves_the_pitch_and_nothing_else(self) -> None:
        patch = heard_voice(random.Random(7))
        target = nearness.target_for(patch, PHRASE)
        found = nearness.render_compared(target, tuned(patch, 50.0), PHRASE)
        assert found.pitch_cents is not None
        self.assertAlmostEqual(found.pitch_cents, 50.0, delta=3.0)


class AdviceTest(unittest.TestCase):
    def test_advice_takes_the_change_back(self) -> None:
        dice = random.Random(SEED + 2)
        for kind in AUDIBLE:
            patch = heard_voice(dice)
            change = heard_change(patch, dice, kind)
            found = nearness.advice_for(nearness.target_for(patch, PHRASE), change.patch, PHRASE)
            self.assertIn((change.module, change.setting), [(one.module, one.setting) for one in found], kind)

    def test_nothing_is_advised_where_nothing_differs(self) -> None:
        patch = heard_voice(random.Random(5))
        self.assertEqual(nearness.advice_for(nearness.target_for(patch, PHRASE), patch, PHRASE), [])

    def test_search_can_be_stopped(self) -> None:
        patch = heard_voice(random.Random(5))
        change = heard_change(patch, random.Random(1), "cutoff")
        told: list[float] = []

        def watch(part: float) -> None:
            told.append(part)
            if len(told) > 3:
                raise InterruptedError

        with self.assertRaises(InterruptedError):
            nearness.advice_for(nearness.target_for(patch, PHRASE), change.patch, PHRASE, watch)
        self.assertEqual(told, sorted(told))

    def test_words_give_the_way_and_about_how_far(self) -> None:
        patch = heard_voice(random.Random(5))
        turns = {(turn.module.id, turn.setting): turn for turn in turns_of(patch) if turn.line is None}
        cutoff: Turn = next(turn for (_, name), turn in turns.items() if name == "cutoff")
        hertz = float(cutoff.value)  # type: ignore[arg-type]
        self.assertIn("up, by about 3 semitones", str(what_to_turn(patch, cutoff, hertz * 2 ** (3 / 12))))
        self.assertIn("down, by about 12", str(what_to_turn(patch, cutoff, hertz / 2)).replace("10", "12"))
        for ratio, words in (
            (1.1, "a little"),
            (2.0, "about twice"),
            (0.5, "about half of it"),
            (9.0, "several times"),
        ):
            self.assertIn(words, str(times(ratio)))


if __name__ == "__main__":
    unittest.main()
