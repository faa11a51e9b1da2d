"""What a moment cuts off, and what a filter that moves does, is not told as the doing of the sound itself."""

import unittest

import numpy as np

from inner_tone.core.analysis.driven import pitch_track
from inner_tone.core.analysis.melody import Melody, melody_of
from inner_tone.core.analysis.sentences.clause import Clause
from inner_tone.core.analysis.sentences.level import level_clauses
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.analysis.track import Track
from inner_tone.core.analysis.whitened import whitened
from inner_tone.core.arrays import Floats
from tests.support.patches import RATE
from tests.support.sentences import wah
from tests.support.sounds import series, sines, time


def clauses(sound: Sound, begin_s: float, end_s: float, gates: tuple[tuple[float, float], ...]) -> list[Clause]:
    return level_clauses(sound.excerpt(begin_s, end_s, gates), None)


def texts(found: list[Clause]) -> str:
    return " ".join(one.text for one in found)


class LeadTest(unittest.TestCase):
    def setUp(self) -> None:
        self.gates = ((0.0, 0.99998), (1.0, 2.0))

    def course(self, *points: tuple[float, float]) -> Sound:
        places, values = zip(*points, strict=True)
        return Sound(np.interp(time(3.0), places, values), RATE)

    def test_what_stays_up_across_two_notes_was_there_already(self) -> None:
        up = self.course((0.0, 0.0), (0.8, 1.0), (2.0, 1.0), (2.2, 0.0))
        said = texts(clauses(up, 1.0, 3.0, self.gates))
        self.assertIn("already there", said)
        self.assertNotIn("at once", said)

    def test_what_leaps_up_from_half_is_there_at_once(self) -> None:
        leaps = self.course((0.0, 0.5), (1.0, 0.5), (1.0, 1.0), (2.0, 1.0), (2.2, 0.0))
        self.assertIn("there at once", texts(clauses(leaps, 1.0, 3.0, self.gates)))

    def test_what_begins_with_the_phrase_is_there_at_once(self) -> None:
        begins = self.course((0.0, 1.0), (2.0, 1.0), (2.2, 0.0))
        self.assertIn("there at once", texts(clauses(begins, 0.0, 3.0, self.gates[:1])))

    def test_gate_that_closes_a_sample_after_the_moment_begins_does_not_hide_what_sounds(self) -> None:
        rises = self.course((0.0, 0.0), (1.0, 0.0), (1.3, 1.0), (2.0, 1.0), (2.2, 0.0))
        gates = ((0.0, 1.0 + 1.5 / RATE), (1.0 + 2.5 / RATE, 2.0))
        said = clauses(rises, 1.0, 3.0, gates)
        attack = next(one.facts["attack_s"] for one in said if one.code == "attack")
        self.assertAlmostEqual(attack, 0.3, delta=0.006)


class RestTest(unittest.TestCase):
    """A level that falls while a gate of two seconds is open: to where it stays, or all the time."""

    def said(self, *points: tuple[float, float]) -> str:
        places, values = zip(*points, strict=True)
        return texts(clauses(Sound(np.interp(time(3.0), places, values), RATE), 0.0, 3.0, ((0.0, 2.0),)))

    def test_what_falls_until_it_is_let_go_has_no_decay(self) -> None:
        for low in (0.1, 0.5, 0.8):
            said = self.said((0.0, 1.0), (2.0, low), (2.2, 0.0))
            self.assertIn("still falling when it is let go", said)
            self.assertNotIn("decay", said)

    def test_fall_of_a_sound_whose_wave_changes_ends_where_its_level_stays(self) -> None:
        """A tone whose brightness goes sooner than its level, which is at rest after 1.2 of 1.7 seconds."""
        at = time(2.2)
        level = np.where(at < 1.2, 0.25 + 0.75 * (np.exp(-4.0 * at / 1.2) - np.exp(-4.0)) / (1.0 - np.exp(-4.0)), 0.25)
        bright = np.exp(-at / 0.15)
        turn = 2.0 * np.pi * 262.0 * at
        sound = level * np.sin(turn + (1.5 + 3.5 * bright) * np.sin(turn)) * (at < 1.7)
        (decay,) = [one for one in clauses(Sound(sound, RATE), 0.0, 2.2, ((0.0, 1.7),)) if one.code == "decay"]
        self.assertAlmostEqual(decay.facts["decay_s"], 1.2, delta=0.12)

    def test_shallow_fall_is_told_whole_though_it_is_soon_near_where_it_stays(self) -> None:
        at = time(0.8)
        for decay in (0.08, 0.15, 0.3):
            gone = np.clip((at - 0.015) / decay, 0.0, 1.0)
            level = 1.0 - 0.2 * (1.0 - np.exp(-4.0 * gone)) / (1.0 - np.exp(-4.0))
            level *= np.clip(at / 0.015, 0.0, 1.0) * np.clip((0.7 - at) / 0.09, 0.0, 1.0)
            tone = level * np.sin(2.0 * np.pi * 402.5 * at)
            (told,) = [one for one in clauses(Sound(tone, RATE), 0.0, 0.8, ((0.0, 0.61),)) if one.code == "decay"]
            self.assertAlmostEqual(told.facts["decay_s"], decay, delta=0.12 * decay)

    def test_what_has_come_to_rest_has_one(self) -> None:
        self.assertIn("decay 1.8 s", self.said((0.0, 1.0), (1.8, 0.3), (2.0, 0.3), (2.2, 0.0)))


class DrivenTest(unittest.TestCase):
    def test_what_is_whitened_has_partials_that_are_about_equally_strong(self) -> None:
        """A saw through a filter falls by 24 dB from the first partial to the sixteenth, and more behind it."""
        rate = 12_000.0
        saw = series(110.0, 0.5, top=5_000.0)[::4]
        levels = []
        for signal in (saw, whitened(saw, rate)):
            spectrum = np.abs(np.fft.rfft(signal[2_000:14_000] * np.hanning(12_000)))
            levels.append(20.0 * np.log10([np.max(spectrum[110 * n - 3 : 110 * n + 4]) for n in range(2, 17)]))
        self.assertGreater(np.ptp(levels[0]), 17.0)
        self.assertLess(np.ptp(levels[1]), 9.0)

    def test_pitch_behind_a_filter_that_moves_is_that_of_the_saw(self) -> None:
        found = pitch_track(wah(), RATE)
        self.assertTrue(found.driven)
        heard = found.notes[np.isfinite(found.notes)]
        self.assertLess(float(np.percentile(np.abs(heard - 45.0), 90)), 0.2)

    def test_what_stands_still_is_told_as_it_is(self) -> None:
        still: tuple[Floats, ...] = (
            series(110.0, 0.5),
            sines(1.5, (220.0, 0.5), (330.0, 0.4)),
            sines(1.5, (300.0, 0.5)),
        )
        for signal in still:
            self.assertFalse(pitch_track(signal, RATE).driven)


class WayTest(unittest.TestCase):
    """A pitch that is followed roughly, and not at all for a third of the time."""

    def melody(self, *points: tuple[float, float]) -> Melody:
        chance = np.random.default_rng(5)
        places, values = zip(*points, strict=True)
        times = np.arange(0.0, places[-1], 1.0 / 75.0)
        # what is not quite right stays so for some looks
        notes = np.interp(times, places, values) + np.repeat(chance.normal(0.0, 0.06, len(times)), 4)[: len(times)]
        clear = np.repeat(chance.random(len(times)) < 0.7, 4)[: len(times)]
        return melody_of(Track(times, np.where(clear, notes, np.nan), 0.06, np.full(len(times), True), driven=True))

    def test_slow_way_is_one_glide_and_not_some_notes(self) -> None:
        found = self.melody((0.0, 38.0), (0.4, 38.0), (3.4, 33.0), (4.0, 33.0))
        (glide,) = found.glides
        self.assertEqual((round(glide.from_note), round(glide.to_note)), (38, 33))
        self.assertAlmostEqual(glide.seconds, 3.0, delta=0.3)
        self.assertEqual(len(found.held), 2)

    def test_stairs_are_notes(self) -> None:
        stairs = [(0.5 * n + at, 38.0 - n) for n in range(6) for at in (0.0, 0.49)]
        found = self.melody(*stairs)
        self.assertFalse(found.glides)
        self.assertEqual([round(one.note) for one in found.held], [38, 37, 36, 35, 34, 33])


if __name__ == "__main__":
    unittest.main()
