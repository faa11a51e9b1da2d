"""What the lenses measure, on signals whose answer is known."""

import unittest

import numpy as np
from scipy.signal import windows

from inner_tone.core.analysis import spectrum, wave
from inner_tone.core.analysis.partials import window
from inner_tone.core.analysis.passage import calmest
from inner_tone.core.analysis.pitch import repetition
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.lens.kinds.wave import cycles_of
from tests.support.patches import RATE
from tests.support.sounds import series, sines


class PitchTest(unittest.TestCase):
    def test_pitch_of_tones(self) -> None:
        for frequency in (32.7, 55.0, 110.0, 261.63, 987.77, 2093.0):
            found = repetition(series(frequency)[:16_384], RATE)
            assert found is not None
            self.assertLess(abs(1200 * np.log2(found.hertz / frequency)), 3.0, frequency)

    def test_missing_fundamental_is_still_heard(self) -> None:
        found = repetition(sines(0.5, (400, 0.5), (600, 0.5), (800, 0.5)), RATE)
        assert found is not None
        self.assertAlmostEqual(found.hertz, 200.0, delta=0.5)

    def test_noise_and_silence_have_none(self) -> None:
        self.assertIsNone(repetition(np.random.default_rng(3).standard_normal(16_384), RATE))
        self.assertIsNone(repetition(np.zeros(16_384), RATE))
        self.assertIsNone(repetition(np.full(16_384, 0.7), RATE))

    def test_partials_together_refine_the_pitch(self) -> None:
        sound = Sound(series(110.37), RATE).whole
        assert sound.fundamental_hz is not None
        self.assertLess(abs(1200 * np.log2(sound.fundamental_hz / 110.37)), 0.1)


class SpectrumTest(unittest.TestCase):
    def test_window_is_the_published_one(self) -> None:
        np.testing.assert_allclose(window(512), windows.blackmanharris(512, sym=False), atol=1e-12)

    def test_windows_are_the_trades_and_their_levels_right(self) -> None:
        signal = sines(1.0, (1001.7, 0.5))
        published = {  # F. J. Harris 1978, table 1: the greatest loss between two bins, in dB
            "rectangular": 3.92,
            "hann": 1.42,
            "hamming": 1.78,
            "blackman-harris": 0.83,
            "flat-top": 0.02,
        }
        for name, loss in published.items():
            found = float(np.max(spectrum.levels(signal[:32_768], 32_768, name)))  # type: ignore[arg-type]
            self.assertLess(found, -6.0, name)
            self.assertGreater(found, -6.03 - loss, name)
            self.assertAlmostEqual(
                float(np.max(spectrum.levels(sines(1.0, (1500.0, 0.5))[:32_768], 32_768, name))),  # type: ignore[arg-type]
                -6.02,
                delta=0.01,
                msg=name,
            )

    def test_partials_of_a_passage_are_right_in_level(self) -> None:
        for frequency in (100.0, 100.37, 1000.0, 1000.73, 12_345.6):
            (found,) = spectrum.partials_of(sines(0.5, (frequency, 0.5)), RATE)
            self.assertAlmostEqual(found.frequency_hz, frequency, delta=0.001)
            self.assertAlmostEqual(found.level_db, -6.02, delta=0.01)

    def test_partials_are_numbered_by_the_fundamental(self) -> None:
        found = Sound(sines(1.0, (220.0, 0.8), (440.0, 0.4), (1100.0, 0.2), (1230.0, 0.005)), RATE).whole.partials
        self.assertEqual([one.number for one in found], [1, 2, 5, 0])
        self.assertAlmostEqual(found[0].midi, 57.0, places=3)

    def test_no_partial_is_lost_between_the_points_of_the_curve(self) -> None:
        frequencies = [100.0, 1000.0, 5003.0, 15_001.0]
        bins = spectrum.levels(sines(1.0, *((f, 0.25) for f in frequencies))[:32_768], 32_768)
        for log in (True, False):
            xs, ys = spectrum.drawn(bins, RATE, 20.0, 20_000.0, log=log, points=2000)
            for frequency in frequencies:
                near = np.abs(xs - frequency) < max(15.0, 0.03 * frequency)
                self.assertAlmostEqual(float(np.max(ys[near])), -12.04, delta=0.9)

    def test_mean_and_held_peaks_of_a_whole_sound(self) -> None:
        half = sines(2.0, (1000.0, 1.0))
        half[48_000:] = 0.0
        size = 8192
        peak = float(np.max(spectrum.averaged(half, size, "peak")))
        mean = float(np.max(spectrum.averaged(half, size, "mean")))
        self.assertAlmostEqual(peak, 0.0, delta=0.9)
        self.assertAlmostEqual(mean - peak, -3.01, delta=0.5)

    def test_smoothing_keeps_the_power(self) -> None:
        bins = np.full(16_385, -40.0)
        np.testing.assert_allclose(spectrum.smoothed(bins, 3), bins, atol=1e-9)
        bins[1000] = 0.0
        smooth = spectrum.smoothed(bins, 3)
        width = np.sum(smooth > -39.0)
        self.assertAlmostEqual(width / 1000.0, 2 ** (1 / 6) - 2 ** (-1 / 6), delta=0.01)
        self.assertAlmostEqual(float(smooth[1000]), 10 * np.log10((1 + 231 * 1e-4) / 232), delta=0.1)

    def test_sound_shorter_than_the_window(self) -> None:
        (found,) = Sound(sines(0.1, (1000.0, 1.0)), RATE).whole.partials
        self.assertAlmostEqual(found.frequency_hz, 1000.0, delta=0.01)


class WaveTest(unittest.TestCase):
    def test_cycles_begin_where_the_fundamental_rises(self) -> None:
        for shift in (0.0, 0.3, 0.77):
            time = np.arange(48_000) / RATE
            signal = np.sin(2 * np.pi * (100.0 * time + shift)) + 0.4 * np.sin(2 * np.pi * 3 * (100.0 * time + shift))
            shown = cycles_of(Sound(signal, RATE).whole, 3)
            self.assertAlmostEqual(shown.seconds, 0.03, places=6)
            self.assertAlmostEqual(float(shown.highs[0]), 0.0, delta=0.02)
            self.assertGreater(float(shown.highs[40]), 0.3, "it rises")

    def test_other_sound_is_shown_at_the_same_moments(self) -> None:
        leader = cycles_of(Sound(sines(1.0, (100, 1)), RATE).whole, 2)
        held = wave.stretch(sines(1.0, (100, 0.5)), RATE, leader)
        np.testing.assert_allclose(held.highs, 0.5 * leader.highs, atol=1e-6)

    def test_outline_holds_every_extreme(self) -> None:
        signal = np.zeros(100_000)
        signal[33_333], signal[77_777] = 0.9, -0.4
        shown = wave.outline(signal, RATE)
        self.assertEqual(float(np.max(shown.highs)), 0.9)
        self.assertEqual(float(np.min(shown.lows)), -0.4)
        self.assertEqual(int(np.argmax(shown.highs)), 333)

    def test_long_drone_shows_no_movement_that_is_not_there(self) -> None:
        drone = Sound(series(55.0, top=2000.0, seconds=9.0), RATE)
        shown = wave.outline(drone.signal, RATE, frequency_hz=drone.whole.fundamental_hz)
        self.assertLess(float(np.std(shown.highs[20:-20])), 0.02)
        self.assertGreater(float(np.std(wave.outline(drone.signal, RATE).highs)), 0.1, "without the pitch it does")

    def test_stretch_of_the_phrase(self) -> None:
        shown = wave.outline(sines(2.0, (100.0, 1.0)), RATE, 0.5, 1.5)
        self.assertEqual((shown.start_s, shown.seconds), (0.5, 1.0))
        self.assertEqual(wave.outline(sines(1.0, (100.0, 1.0)), RATE, 3.0, 4.0).seconds, 0.0)

    def test_passage_is_the_steady_part(self) -> None:
        quiet, loud = sines(1.0, (200, 0.1)), sines(1.0, (200, 0.8))
        start, size = calmest(np.concatenate([quiet, np.linspace(0, 1, 24_000) * loud[:24_000], loud]), RATE)
        self.assertGreaterEqual(start, 71_000)
        self.assertEqual(size, 48_000)

    def test_empty_signal(self) -> None:
        self.assertEqual(len(wave.outline(np.zeros(0), RATE).highs), 0)


if __name__ == "__main__":
    unittest.main()
