"""What the lenses measure, on signals whose answer is known."""

import unittest

import numpy as np
from scipy.signal import windows

from inner_tone.core.analysis import describe, spectrum, wave
from inner_tone.core.analysis.partials import window
from inner_tone.core.analysis.passage import steadiest
from inner_tone.core.analysis.pitch import fundamental_hz
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.modules.kernel import Floats

RATE = 48_000.0


def sines(seconds: float, *parts: tuple[float, float]) -> Floats:
    """Return a sum of sines, each (Hz, amplitude)."""
    time = np.arange(round(seconds * RATE)) / RATE
    return np.asarray(sum(a * np.sin(2 * np.pi * f * time) for f, a in parts), dtype=np.float64)


def series(
    fundamental: float, amplitude: float = 1.0, step: int = 1, power: float = 1.0, top: float = 20_000.0
) -> Floats:
    parts = [(k * fundamental, amplitude / k**power) for k in range(1, int(top / fundamental) + 1, step)]
    return sines(1.5, *parts)


class PitchTest(unittest.TestCase):
    def test_pitch_of_tones(self) -> None:
        for frequency in (32.7, 55.0, 110.0, 261.63, 987.77, 2093.0):
            found = fundamental_hz(series(frequency)[:16_384], RATE)
            assert found is not None
            self.assertLess(abs(1200 * np.log2(found / frequency)), 3.0, frequency)

    def test_missing_fundamental_is_still_heard(self) -> None:
        found = fundamental_hz(sines(0.5, (400, 0.5), (600, 0.5), (800, 0.5)), RATE)
        assert found is not None
        self.assertAlmostEqual(found, 200.0, delta=0.5)

    def test_noise_and_silence_have_none(self) -> None:
        self.assertIsNone(fundamental_hz(np.random.default_rng(3).standard_normal(16_384), RATE))
        self.assertIsNone(fundamental_hz(np.zeros(16_384), RATE))
        self.assertIsNone(fundamental_hz(np.full(16_384, 0.7), RATE))

    def test_partials_together_refine_the_pitch(self) -> None:
        sound = Sound(series(110.37), RATE)
        assert sound.fundamental_hz is not None
        self.assertLess(abs(1200 * np.log2(sound.fundamental_hz / 110.37)), 0.1)


class SpectrumTest(unittest.TestCase):
    def test_window_is_the_published_one(self) -> None:
        np.testing.assert_allclose(window(512), windows.blackmanharris(512, sym=False), atol=1e-12)

    def test_level_is_right_wherever_the_partial_lies(self) -> None:
        for frequency in (100.0, 100.37, 1000.0, 1000.73, 12_345.6):
            found = spectrum.spectrum(sines(1.0, (frequency, 0.5)), RATE, 0)
            self.assertEqual(len(found.partials), 1)
            self.assertAlmostEqual(found.partials[0].frequency_hz, frequency, delta=0.05)
            self.assertAlmostEqual(found.partials[0].level_db, -6.02, delta=0.06)

    def test_weak_partial_beside_a_strong_one_is_found(self) -> None:
        found = spectrum.spectrum(sines(1.0, (440.0, 1.0), (470.0, 0.001)), RATE, 0)
        self.assertEqual([round(one.level_db) for one in found.partials], [0, -60])

    def test_partials_are_numbered_by_the_fundamental(self) -> None:
        found = Sound(sines(1.0, (220.0, 0.8), (440.0, 0.4), (1100.0, 0.2), (1230.0, 0.1)), RATE).spectrum
        self.assertEqual([one.number for one in found.partials], [1, 2, 5, 0])
        self.assertAlmostEqual(found.partials[0].midi, 57.0, places=3)

    def test_no_partial_is_lost_between_the_points_of_the_curve(self) -> None:
        frequencies = [100.0, 1000.0, 5003.0, 15_001.0]
        found = spectrum.spectrum(sines(1.0, *((f, 0.25) for f in frequencies)), RATE, 0)
        for frequency in frequencies:
            near = np.abs(np.log2(found.frequencies_hz / frequency)) < 0.02
            self.assertAlmostEqual(float(np.max(found.levels_db[near])), -12.04, delta=0.9)

    def test_sound_shorter_than_the_window(self) -> None:
        found = spectrum.spectrum(sines(0.1, (1000.0, 1.0)), RATE, 0)
        self.assertAlmostEqual(found.partials[0].frequency_hz, 1000.0, delta=2.0)


class WaveTest(unittest.TestCase):
    def test_cycles_begin_where_the_fundamental_rises(self) -> None:
        for shift in (0.0, 0.3, 0.77):
            time = np.arange(48_000) / RATE
            signal = np.sin(2 * np.pi * (100.0 * time + shift)) + 0.4 * np.sin(2 * np.pi * 3 * (100.0 * time + shift))
            shown = Sound(signal, RATE).cycles(3)
            self.assertAlmostEqual(shown.seconds, 0.03, places=6)
            self.assertAlmostEqual(float(shown.highs[0]), 0.0, delta=0.02)
            self.assertGreater(float(shown.highs[40]), 0.3, "it rises")

    def test_other_sound_is_shown_at_the_same_moments(self) -> None:
        leader, follower = Sound(sines(1.0, (100, 1)), RATE), Sound(sines(1.0, (100, 0.5)), RATE)
        held = follower.cycles(2, leader)
        np.testing.assert_allclose(held.highs, 0.5 * leader.cycles(2).highs, atol=1e-6)

    def test_outline_holds_every_extreme(self) -> None:
        signal = np.zeros(100_000)
        signal[33_333], signal[77_777] = 0.9, -0.4
        shown = wave.outline(signal, RATE)
        self.assertEqual(float(np.max(shown.highs)), 0.9)
        self.assertEqual(float(np.min(shown.lows)), -0.4)
        self.assertEqual(int(np.argmax(shown.highs)), 333)

    def test_passage_is_the_steady_part(self) -> None:
        quiet, loud = sines(1.0, (200, 0.1)), sines(1.0, (200, 0.8))
        start = steadiest(np.concatenate([quiet, np.linspace(0, 1, 24_000) * loud[:24_000], loud]), RATE, 0.5)
        self.assertGreaterEqual(start, 60_000)

    def test_empty_signal(self) -> None:
        self.assertEqual(len(wave.outline(np.zeros(0), RATE).highs), 0)


class SentenceTest(unittest.TestCase):
    """What the picture shows, in words: (signal, words that must stand in the sentence)."""

    def test_spectrum(self) -> None:
        table = [
            ("single tone", sines(1.5, (220.0, 0.5)), ["220 Hz (A3)", "a single partial, a sine"]),
            ("saw", series(110.0), ["110 Hz (A2)", "all partials", "falling 6 dB per octave"]),
            ("square", series(110.0, step=2), ["odd partials only", "falling 6 dB per octave"]),
            ("triangle", series(110.0, step=2, power=2.0), ["odd partials only", "falling 12 dB per octave"]),
            ("cut off", series(110.0, top=2000.0), ["all partials", "nothing above 1,9"]),
            ("bell", sines(1.5, (211.0, 0.5), (583.0, 0.4), (1137.0, 0.3)), ["no harmonic series", "211 Hz"]),
            ("silence", np.zeros(48_000), ["Silence"]),
        ]
        for name, signal, words in table:
            said = Sound(signal, RATE).say_spectrum()
            for word in words:
                self.assertIn(word, said, name)

    def test_wave(self) -> None:
        self.assertIn(
            "swings between −0.5 and 0.5", describe.describe_wave(Sound(sines(1, (100, 0.5)), RATE).cycles(3))
        )
        self.assertIn("Silence", describe.describe_wave(Sound(np.zeros(48_000), RATE).cycles(3)))
        self.assertIn("level line at 0.8", describe.describe_wave(Sound(np.full(48_000, 0.8), RATE).cycles(3)))

    def test_course(self) -> None:
        blast = sines(1.0, (100, 0.7))
        signal = np.concatenate([blast, np.zeros(24_000), blast, np.zeros(24_000)])
        said = Sound(signal, RATE).say_course()
        self.assertIn("2 stretches from 0 s to 2.5 s", said)
        self.assertIn("peak 0.7", said)
        self.assertIn("it has not ended there", Sound(blast, RATE).say_course())
        self.assertIn("Silence", Sound(np.zeros(48_000), RATE).say_course())


if __name__ == "__main__":
    unittest.main()
